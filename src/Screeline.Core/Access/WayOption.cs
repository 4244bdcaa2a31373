namespace Screeline.Core.Access;

/// <summary>One of the ways that are laid side by side, with what tells it from the others.</summary>
/// <param name="Plan">The way.</param>
/// <param name="Only">Operations that not all of the ways have, in the order they are done.</param>
/// <param name="MissingTools">Tools that are not owned, no stand-in either.</param>
/// <param name="Stands">Null when it can be walked; else why not, in words.</param>
public sealed record WayOption(WayPlan Plan, IReadOnlyList<string> Only, IReadOnlyList<string> MissingTools, string? Stands)
{
    /// <summary>How deep one is, over minutes: operations open after each action, for a section line.</summary>
    public IReadOnlyList<(decimal Minutes, int Open)> Line
    {
        get
        {
            // From the middle of a job something is open already.
            var removed = Plan.Removal.Select(a => a.Id).ToHashSet(StringComparer.Ordinal);
            var (at, open) = (0m, Plan.Set.Count(id => !removed.Contains(id) && Plan.Map[id].Kind == OperationKind.Open));
            var points = new List<(decimal, int)> { (0, open) };
            foreach (var action in Plan.Walk)
            {
                at += action.MoveMinutes + action.ToolChangeMinutes + action.Work.Mean;
                points.Add((at, open));
                open += action.Part == WalkPart.Closing ? -1 : action.Part == WalkPart.Removal && Plan.Map[action.Id].Kind == OperationKind.Open ? 1 : 0;
                points.Add((at, open));
            }

            return points;
        }
    }

    /// <summary>What may break on the way, the dearest in expectation first.</summary>
    public IReadOnlyList<Damage> CanBreak => [.. Plan.Removal.Select(a => Plan.Map[a.Id].Damage).Where(d => d.Chance > 0).OrderByDescending(d => d.Chance * d.Cost)];

    /// <summary>Operations that hold a state while they are open: supported, drained, isolated.</summary>
    public IReadOnlyList<Operation> Holds => [.. Plan.Removal.Select(a => Plan.Map[a.Id]).Where(o => o.Provides.Count > 0)];

    /// <summary>Lays ways side by side.</summary>
    /// <param name="plans">The ways.</param>
    /// <param name="owned">Tools owned.</param>
    public static IReadOnlyList<WayOption> SideBySide(IReadOnlyList<WayPlan> plans, IReadOnlySet<string> owned)
    {
        var sets = plans.Select(p => p.Removal.Select(a => a.Id).ToHashSet(StringComparer.Ordinal)).ToList();
        return [.. plans.Select(p => new WayOption(
            p,
            [.. p.Removal.Select(a => a.Id).Where(id => !sets.All(s => s.Contains(id)))],
            [.. p.Tools.Where(t => !owned.Contains(t.Tool) && !t.Instead.Any(owned.Contains)).Select(t => t.Tool)],
            null))];
    }

    /// <summary>
    /// The way that a manual prints, priced like the others: its removal as printed, the best way back from it. Null when the map
    /// prints none, or what it prints cannot be walked in that order.
    /// </summary>
    public static WayPlan? Printed(AccessMap map, string target, Func<IReadOnlyList<string>, RefitProgress, string, string?, IReadOnlyList<string>?> back)
    {
        var done = new HashSet<string>(StringComparer.Ordinal);
        foreach (var id in map.PrintedRoute)
        {
            if (!WalkRules.MayRemove(map[id], done))
            {
                return null;
            }

            done.Add(id);
        }

        if (map.PrintedRoute.Count == 0 || map.PrintedRoute[^1] != target)
        {
            return null;
        }

        var tool = map.PrintedRoute.Select(id => map[id].Tools.FirstOrDefault()).LastOrDefault(t => t is not null);
        return back(map.PrintedRoute, new RefitProgress(done, new HashSet<string>(), new HashSet<string>()), map[target].Position, tool) is { } refit
            ? new WayPlan(map, target, WalkCost.Price(map, map.PrintedRoute, refit))
            : null;
    }
}
