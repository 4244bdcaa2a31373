using Screeline.Core.Access;

namespace Screeline.Core.Jobs;

/// <summary>The way back of a job.</summary>
public static class Refit
{
    /// <summary>The instruction of a refit action.</summary>
    public static string Title(AccessMap map, string id) => map.Step(id)?.Title ?? map[id].CloseTitle;

    /// <summary>
    /// The gate that is due: one whose own conditions are met and that is not done. While there is one, nothing else of the
    /// refit may be ticked. Null when none is due.
    /// </summary>
    public static string? GateNow(Job job)
    {
        if (job.Map is not { } map || !job.IsDone(Stage.TakeApart))
        {
            return null;
        }

        var progress = job.RefitProgress;
        return WalkRules.RefitActions(map, progress.Set).FirstOrDefault(id => WalkRules.IsGate(map, id) && WalkRules.MayRefit(map, id, progress));
    }

    /// <summary>
    /// Everything of the way back in order: what is done, as it was done, then what is left in a valid order. Empty when the
    /// rules leave no order (something was closed out of turn): the screen then says so.
    /// </summary>
    public static IReadOnlyList<string> Order(Job job)
    {
        if (job.Map is not { } map || job.Route is not { } route)
        {
            return [];
        }

        List<string> done = [.. job.Refitted.Values.OrderBy(k => k.Entry.Position).Select(k => k.Payload.Step)];
        var last = done.Count > 0 ? done[^1] : route.Payload.Removal[^1];
        var here = map.Step(last)?.Position ?? map[last].Position;
        return WayPlanner.RefitOrder(map, route.Payload.Removal, job.RefitProgress, here) is { } left ? [.. done, .. left] : [];
    }
}
