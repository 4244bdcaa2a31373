namespace Screeline.Core.Access;

/// <summary>A map as a shop knows it better: without what turned out not to be needed, with its own times.</summary>
public static class MapChanges
{
    /// <summary>
    /// The map without some operations: what needed them counts that need as met, and what they would have brought with them
    /// falls away.
    /// </summary>
    public static AccessMap Without(AccessMap map, IReadOnlySet<string> operations)
    {
        if (operations.Count == 0)
        {
            return map;
        }

        Needs Met(Needs needs) => needs switch
        {
            Needs.One one => operations.Contains(one.Operation) ? Needs.Nothing : one,
            Needs.All all => All(all.Of.Select(Met)),
            _ => ((Needs.Any)needs).Of.Select(Met).ToList() is var of && of.Any(n => n is Needs.All { Of.Count: 0 }) ? Needs.Nothing : new Needs.Any(of),
        };
        static Needs All(IEnumerable<Needs> of) => of.Where(n => n is not Needs.All { Of.Count: 0 }).ToList() is var left && left.Count == 1 ? left[0] : new Needs.All(left);
        // Steps that only they brought with them go too, and whoever waited for those waits no longer.
        var gone = operations.Concat(map.RefitSteps.Where(s => s.AppliesIf is not null && operations.Contains(s.AppliesIf)).Select(s => s.Id)).ToHashSet(StringComparer.Ordinal);
        IReadOnlyList<string> Others(IReadOnlyList<string> ids) => [.. ids.Where(id => !gone.Contains(id))];
        return Copy(
            map,
            [.. map.Operations.Where(o => !operations.Contains(o.Id)).Select(o => o with { Needs = Met(o.Needs), Close = o.Close with { While = o.Close.While is { } during ? Met(during) : null } })],
            [.. map.RefitSteps.Where(s => !gone.Contains(s.Id)).Select(s => s with { After = Others(s.After), Before = Others(s.Before) })],
            Others(map.PrintedRoute));
    }

    /// <summary>The map without some steps of the way back: nobody waits for them.</summary>
    public static AccessMap WithoutSteps(AccessMap map, IReadOnlySet<string> steps) => Copy(
        map, map.Operations, [.. map.RefitSteps.Where(s => !steps.Contains(s.Id)).Select(s => s with { After = [.. s.After.Where(id => !steps.Contains(id))], Before = [.. s.Before.Where(id => !steps.Contains(id))] })], map.PrintedRoute);

    /// <summary>The map with another account of what it is learned from; null for none, as a job keeps it.</summary>
    public static AccessMap Learned(AccessMap map, Learning.LearnedFrom? learned) => Headed(map, map.Title, map.AppliesTo, learned);

    /// <summary>The map under another title, for other vehicles, learned from other jobs.</summary>
    public static AccessMap Headed(AccessMap map, string title, IReadOnlyList<Applicability> appliesTo, Learning.LearnedFrom? learned) => new()
    {
        Id = map.Id, Title = title, Family = map.Family, AppliesTo = appliesTo, StartPosition = map.StartPosition, Positions = map.Positions, Moves = map.Moves, DefaultMoveMinutes = map.DefaultMoveMinutes,
        ToolChangeMinutes = map.ToolChangeMinutes, LabourRatePerHour = map.LabourRatePerHour, Operations = map.Operations, RefitSteps = map.RefitSteps, Targets = map.Targets, PrintedRoute = map.PrintedRoute,
        PublishedMinutes = map.PublishedMinutes, Subject = map.Subject, Lessons = map.Lessons, Fitted = map.Fitted, Restores = map.Restores, Suspects = map.Suspects, Reaches = map.Reaches, Learned = learned,
    };

    /// <summary>The map with other targets.</summary>
    internal static AccessMap Aiming(AccessMap map, IReadOnlyList<Target> targets) => Placed(map, map.Operations, map.RefitSteps, map.Positions, map.PrintedRoute, targets);

    /// <summary>The map with the shop's own times pulling its estimates.</summary>
    public static AccessMap WithTimes(AccessMap map, IReadOnlyDictionary<string, OwnTimes> times) => times.Count == 0 ? map : Copy(
        map,
        [.. map.Operations.Select(o => times.TryGetValue(o.Id, out var own)
            ? o with { Minutes = own.Pulled(o.Minutes, WalkPart.Removal), Close = own.Of(WalkPart.Closing).Count == 0 ? o.Close : o.Close with { Minutes = own.Pulled(o.CloseMinutes, WalkPart.Closing) } }
            : o)],
        [.. map.RefitSteps.Select(s => times.TryGetValue(s.Id, out var own) ? s with { Minutes = own.Pulled(s.Minutes, WalkPart.RefitStep) } : s)],
        map.PrintedRoute);

    /// <summary>The map with wider estimates, as far as it is not sure that it fits.</summary>
    /// <param name="map">The map.</param>
    /// <param name="by">By how much to both sides, 1 for not at all.</param>
    public static AccessMap Wider(AccessMap map, decimal by) => by == 1 ? map : Copy(
        map, [.. map.Operations.Select(o => o with { Minutes = Recording.RecordedMap.Wider(o.Minutes, by), Close = o.Close with { Minutes = Recording.RecordedMap.Wider(o.CloseMinutes, by) } })],
        [.. map.RefitSteps.Select(s => s with { Minutes = Recording.RecordedMap.Wider(s.Minutes, by) })], map.PrintedRoute);

    /// <summary>The map with one more fastener in an operation; the same map when the operation is not there or has one of this id.</summary>
    public static AccessMap WithFastener(AccessMap map, string operation, Fastening.Fastener fastener) =>
        map.Operation(operation) is not { } found || found.Fasteners.Any(f => f.Id == fastener.Id) ? map
        : Copy(map, [.. map.Operations.Select(o => o.Id == operation ? o with { Fasteners = [.. o.Fasteners, fastener] } : o)], map.RefitSteps, map.PrintedRoute);

    /// <summary>The map with one more size that fits a group; the same map when the group is not there or says so already.</summary>
    public static AccessMap WithAlsoFits(AccessMap map, string operation, string fastener, string drive) =>
        map.Operation(operation)?.Fasteners.FirstOrDefault(f => f.Id == fastener) is not { } found || found.Drive == drive || found.AlsoFits.Contains(drive) ? map
        : Copy(map, [.. map.Operations.Select(o => o.Id != operation ? o : o with { Fasteners = [.. o.Fasteners.Select(f => f.Id != fastener ? f : f with { AlsoFits = [.. f.AlsoFits, drive] })] })], map.RefitSteps, map.PrintedRoute);

    internal static AccessMap Copy(AccessMap map, IReadOnlyList<Operation> operations, IReadOnlyList<RefitStep> steps, IReadOnlyList<string> printed) => Placed(map, operations, steps, map.Positions, printed);

    /// <summary>The map with other operations, steps and places.</summary>
    public static AccessMap Placed(AccessMap map, IReadOnlyList<Operation> operations, IReadOnlyList<RefitStep> steps, IReadOnlyList<Position> places, IReadOnlyList<string>? printed = null, IReadOnlyList<Target>? targets = null, IReadOnlyList<Restore>? restores = null) => new()
    {
        Id = map.Id, Title = map.Title, Family = map.Family, AppliesTo = map.AppliesTo, StartPosition = places.Any(p => p.Id == map.StartPosition) ? map.StartPosition : places[0].Id, Positions = places,
        Moves = ReferenceEquals(places, map.Positions) ? map.Moves : [.. map.Moves.Where(m => places.Any(p => p.Id == m.From) && places.Any(p => p.Id == m.To))],
        DefaultMoveMinutes = map.DefaultMoveMinutes, ToolChangeMinutes = map.ToolChangeMinutes, LabourRatePerHour = map.LabourRatePerHour, Operations = operations, RefitSteps = steps,
        Targets = targets ?? map.Targets, PrintedRoute = printed ?? [], PublishedMinutes = map.PublishedMinutes, Subject = map.Subject, Learned = map.Learned,
        // What spoke of a step that is gone has nothing left to say.
        Lessons = [.. map.Lessons.Select(l => l with { At = Left(operations, steps, l.At) })],
        Reaches = map.Reaches.Where(x => x.Value is null || operations.Any(o => o.Id == x.Value)).ToDictionary(x => x.Key, x => x.Value, StringComparer.Ordinal),
        Suspects = [.. map.Suspects.Where(s => Left(operations, steps, [s.Step]).Count > 0)],
        Restores = [.. (restores ?? map.Restores).Where(r => operations.Any(o => o.Id == r.After || o.Provides.Contains(r.After)))],
        Fitted = map.Fitted is null ? null : map.Fitted with { Choices = [.. map.Fitted.Choices.Select(c => c with { Without = Left(operations, steps, c.Without) })] },
    };

    private static IReadOnlyList<string> Left(IReadOnlyList<Operation> operations, IReadOnlyList<RefitStep> steps, IReadOnlyList<string> ids) =>
        [.. ids.Where(id => operations.Any(o => o.Id == id) || steps.Any(s => s.Id == id))];
}

/// <summary>What a shop's closed jobs took for one operation or step, minutes, by the part of the walk.</summary>
/// <param name="Removal">On the way in.</param>
/// <param name="Refit">On the way back: closing, or a refit step.</param>
public sealed record OwnTimes(IReadOnlyList<decimal> Removal, IReadOnlyList<decimal> Refit)
{
    /// <summary>How many jobs the map's own estimate weighs as many as.</summary>
    public const int EstimateWeighs = 4;

    /// <summary>The times that count for a part of the walk.</summary>
    public IReadOnlyList<decimal> Of(WalkPart part) => part == WalkPart.Removal ? Removal : Refit;

    /// <summary>How strongly the shop's times pull, 0 to 1: n / (n + 4).</summary>
    public static decimal Weight(int jobs) => (decimal)jobs / (jobs + EstimateWeighs);

    /// <summary>
    /// The estimate pulled towards the shop's mean by <see cref="Weight"/>, its shape kept. A time counts for a third of the
    /// estimate at least and three times it at most, so that one odd job cannot spoil a plan. To the hundredth of a minute.
    /// </summary>
    public Minutes Pulled(Minutes estimate, WalkPart part)
    {
        var times = Of(part);
        var mean = estimate.Mean;
        if (times.Count == 0 || mean == 0)
        {
            return estimate;
        }

        var own = times.Average(t => Math.Clamp(t, mean / 3, mean * 3));
        var factor = 1 + Weight(times.Count) * (own / mean - 1);
        return new Minutes(Math.Round(estimate.Low * factor, 2), Math.Round(estimate.Likely * factor, 2), Math.Round(estimate.High * factor, 2));
    }
}
