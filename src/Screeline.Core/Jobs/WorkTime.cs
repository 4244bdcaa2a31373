using Screeline.Core.Access;

namespace Screeline.Core.Jobs;

/// <summary>How long each step of a job took.</summary>
/// <param name="Action">Operation or refit step.</param>
/// <param name="Phase">On the way in or back.</param>
/// <param name="Minutes">From the tick before it, less what walking and changing tools are planned to take.</param>
public sealed record WorkTime(string Action, WorkPhase Phase, decimal Minutes)
{
    // Longer than this between two ticks is a break, not work.
    private const double LongestMinutes = 120;

    /// <summary>
    /// The times of a job's ticks by the people's own clocks. The first tick of a direction has no beginning and none is told;
    /// nor when there was a break, a change of who works, or ticks at the same moment (made up for afterwards). What somebody says they paused is not counted.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="walking">Minutes taken off for a change of place where the map has none, as of a job that was recorded as it went.</param>
    public static IReadOnlyList<WorkTime> InJob(Job job, decimal walking = 0)
    {
        if (job.Map is not { } map)
        {
            return [];
        }

        var times = new List<WorkTime>();
        foreach (var (phase, ticks) in new[] { (WorkPhase.Apart, job.Removed), (WorkPhase.Refit, job.Refitted) })
        {
            var order = ticks.Values.Where(t => t.Entry.Payload is not ArrivalNoted).OrderBy(t => t.Entry.Draft.OccurredAt).ThenBy(t => t.Entry.Position).ToList();
            var (position, hand) = ((string?)null, (string?)null);
            for (var i = 0; i < order.Count; i++)
            {
                var tick = order[i];
                var (at, tool) = At(map, tick.Payload.Step);
                var onTheWay = (position is null || position == at ? 0 : Math.Max(walking, map.MoveMinutes(position, at))) + (hand is not null && tool is not null && hand != tool ? map.ToolChangeMinutes : 0);
                (position, hand) = (at, tool ?? hand);
                var between = i == 0 ? 0 : (tick.Entry.Draft.OccurredAt - order[i - 1].Entry.Draft.OccurredAt).TotalMinutes - Paused(job, order[i - 1].Entry, tick.Entry);
                if (between > 0.05 && between <= LongestMinutes && tick.Entry.Draft.Actor == order[i - 1].Entry.Draft.Actor)
                {
                    times.Add(new WorkTime(tick.Payload.Step, phase, Math.Max(0.1m, Math.Round((decimal)between - onTheWay, 2))));
                }
            }
        }

        return times;
    }

    // Minutes in which whoever ticked said that they did not work. A pause that nobody ended leaves no time to tell: the whole span counts as paused.
    private static double Paused(Job job, Entry from, Entry to)
    {
        var (start, end, paused) = (from.Draft.OccurredAt, to.Draft.OccurredAt, 0.0);
        DateTimeOffset? since = null;
        foreach (var said in job.Clocked.Where(c => c.Entry.Draft.Actor == to.Draft.Actor && c.Entry.Draft.OccurredAt >= start && c.Entry.Draft.OccurredAt <= end).OrderBy(c => c.Entry.Draft.OccurredAt))
        {
            if (said.Payload.Moment != ClockedMoment.Start)
            {
                since ??= said.Entry.Draft.OccurredAt;
            }
            else if (since is { } began)
            {
                paused += (said.Entry.Draft.OccurredAt - began).TotalMinutes;
                since = null;
            }
        }

        return since is null ? paused : (end - start).TotalMinutes;
    }

    private static (string Position, string? Tool) At(AccessMap map, string id) =>
        map.Step(id) is { } step ? (step.Position, step.Tools.FirstOrDefault()) : (map[id].Position, map[id].Tools.FirstOrDefault());
}
