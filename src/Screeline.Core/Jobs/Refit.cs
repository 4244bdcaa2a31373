using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Jobs;

/// <summary>The way back of a job.</summary>
public static class Refit
{
    /// <summary>The instruction of a refit action.</summary>
    public static string Title(AccessMap map, string id) => map.Step(id)?.Title ?? map[id].CloseTitle;

    /// <summary>The gate that an action stands behind in the planned order and that is unfinished or waits for a second person; null when nothing holds it.</summary>
    public static string? GateBefore(Job job, string action) =>
        Order(job).TakeWhile(id => id != action).FirstOrDefault(id => WalkRules.IsGate(job.Map!, id) && (!job.Refitted.ContainsKey(id) || job.SecondMissingAt(id) is not null));

    /// <summary>
    /// Everything of the way back in order: what is done, as it was done, then what is left as it was planned. When something
    /// was done out of turn and the plan no longer holds, another valid order; empty when the rules leave none.
    /// </summary>
    public static IReadOnlyList<string> Order(Job job)
    {
        if (job.Map is not { } map || job.Route is not { } route)
        {
            return [];
        }

        if (job.IsRecorded || job.Things.Count > 0)
        {
            return RecordedWay.Order(job);
        }

        List<string> done = [.. job.Refitted.Values.OrderBy(k => k.Entry.Position).Select(k => k.Payload.Step)];
        List<string> planned = [.. route.Payload.Refit.Where(id => !job.Refitted.ContainsKey(id))];
        if (Holds(map, planned, job.RefitProgress))
        {
            return [.. done, .. planned];
        }

        var last = done.Count > 0 ? done[^1] : route.Payload.Removal[^1];
        var here = map.Step(last)?.Position ?? map[last].Position;
        return RoutePlanner.Back(map, route.Payload.Removal, job.RefitProgress, here) is { } left ? [.. done, .. left] : [];
    }

    /// <summary>Whether an order finishes the refit from where it stands, each action allowed at its moment and none left over.</summary>
    public static bool Holds(AccessMap map, IReadOnlyList<string> order, RefitProgress progress)
    {
        foreach (var id in order)
        {
            if (!WalkRules.MayRefit(map, id, progress))
            {
                return false;
            }

            progress = WalkRules.After(map, id, progress);
        }

        return WalkRules.RefitActions(map, progress.Set).All(id => progress.Closed.Contains(id) || progress.StepsDone.Contains(id));
    }
}
