using Screeline.Core.Access;

namespace Screeline.Core.Jobs;

/// <summary>A point of the section line.</summary>
/// <param name="X">Order of work: stage k spans k to k + 1, so that a whole job spans 0 to 7.</param>
/// <param name="Depth">Operations open.</param>
public readonly record struct LinePoint(decimal X, int Depth);

/// <summary>
/// A job drawn as a cut through the vehicle: along the order of work, as deep as operations are open. It sinks as things come
/// off and climbs as they go back.
/// </summary>
/// <param name="Travelled">The part behind.</param>
/// <param name="Now">The step in hand: from where the travelled part ends to the end of this step; empty when all is done.</param>
/// <param name="Ahead">The part to come.</param>
/// <param name="Deepest">The greatest depth anywhere, at least 1.</param>
public sealed record SectionLine(IReadOnlyList<LinePoint> Travelled, IReadOnlyList<LinePoint> Now, IReadOnlyList<LinePoint> Ahead, int Deepest)
{
    /// <summary>The line of a job as it stands.</summary>
    public static SectionLine ForJob(Job job)
    {
        // Every step of the job: the stage it is in, how it changes the depth, whether it is done.
        var steps = new List<(decimal End, int Change, bool Done)>();
        foreach (var stage in Stages.All)
        {
            var inside = Inside(job, stage);
            for (var i = 0; i < inside.Count; i++)
            {
                steps.Add(((int)stage + (decimal)(i + 1) / inside.Count, inside[i].Change, inside[i].Done));
            }
        }

        var (travelled, now, ahead) = (new List<LinePoint> { new(0, 0) }, new List<LinePoint>(), new List<LinePoint>());
        var (depth, deepest, at) = (0, 1, new LinePoint(0, 0));
        var part = travelled;
        foreach (var (end, change, done) in steps)
        {
            if (!done && part == travelled)
            {
                part = now;
                now.Add(at);
            }
            else if (part == now)
            {
                part = ahead;
                ahead.Add(at);
            }

            part.Add(new LinePoint(end, depth));
            if (change != 0)
            {
                depth += change;
                part.Add(new LinePoint(end, depth));
            }

            (at, deepest) = (new LinePoint(end, depth), Math.Max(deepest, depth));
        }

        return new SectionLine(travelled, now, ahead, deepest);
    }

    private static IReadOnlyList<(int Change, bool Done)> Inside(Job job, Stage stage)
    {
        if (job.Map is not { } map || job.Route is not { } route || stage is not (Stage.TakeApart or Stage.Refit))
        {
            return [(0, job.IsDone(stage))];
        }

        return stage == Stage.TakeApart
            ? [.. route.Payload.Removal.Select(id => (map[id].Kind == OperationKind.Open ? 1 : 0, job.Removed.ContainsKey(id))).OrderByDescending(x => x.Item2)]
            : [.. Refit.Order(job).Select(id => (map.Step(id) is null ? -1 : 0, job.Refitted.ContainsKey(id)))];
    }
}
