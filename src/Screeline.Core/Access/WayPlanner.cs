namespace Screeline.Core.Access;

/// <summary>A way in and back: both orders, priced.</summary>
/// <param name="Map">The map it was planned on.</param>
/// <param name="Target">The target operation.</param>
/// <param name="Walk">All actions in order.</param>
public sealed record WayPlan(AccessMap Map, string Target, IReadOnlyList<WalkAction> Walk)
{
    /// <summary>S of the definitions: the operations of the removal and those that were done before, in ordinal order.</summary>
    public IReadOnlyList<string> Set { get; init; } = [.. Walk.Where(a => a.Part == WalkPart.Removal).Select(a => a.Id).Order(StringComparer.Ordinal)];
    /// <summary>The way in.</summary>
    public IReadOnlyList<WalkAction> Removal { get; } = [.. Walk.Where(a => a.Part == WalkPart.Removal)];
    /// <summary>The way back.</summary>
    public IReadOnlyList<WalkAction> Refit { get; } = [.. Walk.Where(a => a.Part != WalkPart.Removal)];
    /// <summary>Expected minutes.</summary>
    public decimal ExpectedMinutes => WalkCost.Expected(Walk);
    /// <summary>Minutes not exceeded four times in five.</summary>
    public decimal P80Minutes => WalkCost.P80(Walk);
    /// <summary>Labour, expected damage and parts, in the shop's currency.</summary>
    public decimal Money => WalkCost.Money(Map, Walk);
    /// <summary>Waiting on the way (cool-down, cure), minutes; not labour.</summary>
    public decimal WaitMinutes => Walk.Sum(a => a.WaitMinutes);
    /// <summary>Everything used up or renewed on the way.</summary>
    public IReadOnlyList<Consumable> Renew =>
    [
        .. Removal.SelectMany(a => Map[a.Id].Consumes),
        .. Removal.SelectMany(a => Map[a.Id].Fasteners).Where(f => f.Reuse == "renew").Select(f => new Consumable($"{f.Words(f.Count)}: {f.Holds}", f.Count, 0)),
    ];

    /// <summary>Tools in the order they are first taken up, each with what stands in for it.</summary>
    public IReadOnlyList<(string Tool, IReadOnlyList<string> Instead)> Tools =>
        [.. Walk.SelectMany(a => a.Tools.Select(t => (Tool: t, Instead: Map.Operation(a.Id)?.OrTools.GetValueOrDefault(t) ?? []))).DistinctBy(x => x.Tool)];
}

/// <summary>
/// Finds a valid way to a target and back: where needs leave a choice it takes the alternative with the least work, and it
/// stays at a position while something is left to do there. Valid always, cheapest not promised.
/// </summary>
public static class WayPlanner
{
    /// <summary>Plans a way to a target.</summary>
    /// <param name="map">A map without faults.</param>
    /// <param name="targetId">The target's id.</param>
    /// <exception cref="ArgumentException">No such target.</exception>
    /// <exception cref="UnplannableException">The map has no way back from what must be opened.</exception>
    public static WayPlan Plan(AccessMap map, string targetId)
    {
        var target = map.Targets.FirstOrDefault(t => t.Id == targetId)?.Operation
            ?? throw new ArgumentException($"No target “{targetId}” in map “{map.Id}”.", nameof(targetId));
        var set = NeededFor(map, target);
        var removal = RemovalOrder(map, set, target);
        var start = removal.Count > 0 ? map[removal[^1]].Position : map.StartPosition;
        var refit = RefitOrder(map, removal, new RefitProgress(set, Empty, Empty), start)
            ?? throw new UnplannableException($"Map “{map.Id}” has no order of refitting from “{target}”.");
        return new WayPlan(map, target, WalkCost.Price(map, removal, refit));
    }

    /// <summary>
    /// An order of everything that is left of the refit, or null when the rules allow none. At each moment it prefers the
    /// place and tool at hand, then what was opened last; it goes back and tries the next when that leads nowhere.
    /// </summary>
    public static IReadOnlyList<string>? RefitOrder(AccessMap map, IReadOnlyList<string> removal, RefitProgress progress, string position)
    {
        var opened = removal.Select((id, i) => (id, i)).ToDictionary(x => x.id, x => x.i, StringComparer.Ordinal);
        var all = WalkRules.RefitActions(map, progress.Set);
        var dead = new HashSet<string>(StringComparer.Ordinal);
        var order = new List<string>();

        bool Go(RefitProgress now, string here, string? tool)
        {
            var left = all.Where(id => !now.Closed.Contains(id) && !now.StepsDone.Contains(id)).ToList();
            if (left.Count == 0)
            {
                return true;
            }

            var key = string.Join('\n', left);
            if (dead.Contains(key))
            {
                return false;
            }

            foreach (var id in left.Where(id => WalkRules.MayRefit(map, id, now)).OrderBy(Preference).ThenByDescending(id => opened.GetValueOrDefault(id, int.MaxValue)))
            {
                order.Add(id);
                var (at, tools) = At(id);
                if (Go(WalkRules.After(map, id, now), at, tools.Count > 0 ? tools[0] : tool))
                {
                    return true;
                }

                order.RemoveAt(order.Count - 1);
            }

            dead.Add(key);
            return false;

            // A gate as soon as it is possible: what fails there is undone with the least on top of it.
            int Preference(string id) => WalkRules.IsGate(map, id) ? -1 : At(id) is var (at, tools) && at != here ? 2 : tools.Count == 0 || tools[0] == tool ? 0 : 1;
        }

        return Go(progress, position, null) ? order : null;

        (string Position, IReadOnlyList<string> Tools) At(string id) =>
            map.Step(id) is { } step ? (step.Position, step.Tools) : (map[id].Position, map[id].Tools);
    }

    private static readonly HashSet<string> Empty = [];

    // All operations that lead to the target when every choice is settled for the least work on the way in and back.
    private static HashSet<string> NeededFor(AccessMap map, string target)
    {
        var set = new HashSet<string>(StringComparer.Ordinal);
        Add(target, set, []);
        return set;

        bool Add(string id, HashSet<string> into, HashSet<string> under)
        {
            if (into.Contains(id))
            {
                return true;
            }

            // An operation that leads back to itself is no way in.
            if (!under.Add(id))
            {
                return false;
            }

            var met = Meet(map[id].Needs, into, under);
            under.Remove(id);
            if (met)
            {
                into.Add(id);
            }

            return met;
        }

        bool Meet(Needs needs, HashSet<string> into, HashSet<string> under)
        {
            switch (needs)
            {
                case Needs.One one:
                    return Add(one.Operation, into, under);
                case Needs.All all:
                    // What leaves no choice comes first, so that a choice can lean on it.
                    return all.Of.OrderBy(n => n is Needs.Any).All(n => Meet(n, into, under));
                default:
                    HashSet<string>? best = null;
                    foreach (var way in ((Needs.Any)needs).Of)
                    {
                        var trial = new HashSet<string>(into, StringComparer.Ordinal);
                        if (Meet(way, trial, under) && (best is null || Work(map, trial) < Work(map, best)))
                        {
                            best = trial;
                        }
                    }

                    into.UnionWith(best ?? []);
                    return best is not null;
            }
        }
    }

    private static decimal Work(AccessMap map, IEnumerable<string> set) =>
        set.Select(id => map[id]).Sum(o => o.Minutes.Mean + (o.Kind == OperationKind.Open ? o.CloseMinutes.Mean : 0));

    private static List<string> RemovalOrder(AccessMap map, HashSet<string> set, string target)
    {
        var order = new List<string>();
        var done = new HashSet<string>(StringComparer.Ordinal);
        var (here, tool) = (map.StartPosition, (string?)null);
        while (done.Count < set.Count)
        {
            var next = map.Operations
                .Where(o => set.Contains(o.Id) && WalkRules.MayRemove(o, done) && (o.Id != target || done.Count == set.Count - 1))
                .OrderBy(o => o.Position != here ? 2 : o.Tools.Count == 0 || o.Tools[0] == tool ? 0 : 1)
                .First();
            order.Add(next.Id);
            done.Add(next.Id);
            (here, tool) = (next.Position, next.Tools.Count > 0 ? next.Tools[0] : tool);
        }

        return order;
    }
}

/// <summary>A map from which no way in and back can be made.</summary>
public sealed class UnplannableException(string message) : Exception(message);
