using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Recording;

namespace Screeline.Core.Jobs;

/// <summary>A job's way there and back, as maps learn from it.</summary>
public static class WorkedWay
{
    /// <summary>What a map learns from a job: worked out from its entries alone.</summary>
    /// <param name="job">The job; something came off in it.</param>
    /// <param name="nameOf">The name of a person.</param>
    /// <param name="version">The version of the vehicle, or null.</param>
    /// <exception cref="ArgumentException">Nothing came off.</exception>
    public static WorkedJob Of(Job job, Func<Guid, string> nameOf, string? version)
    {
        if (job.Map is not { } map || job.Removed.Count == 0)
        {
            throw new ArgumentException("Nothing came off in this job.", nameof(job));
        }

        var order = job.OpenedInOrder.Where(id => map.Operation(id) is not null).ToList();
        // The way ends with what it leads to, or with what was taken off after that; what was only looked at then comes before the part goes in.
        var target = job.IsRecorded ? job.Reached : map.Targets.FirstOrDefault(t => t.Id == job.Route?.Payload.Target)?.Operation;
        var end = order.FindLastIndex(id => map[id].Kind == OperationKind.Open || id == target);
        var after = order.Skip(end + 1).ToList();
        var opened = order.Take(end + 1).ToList();
        var times = job.IsRecorded || job.Things.Count > 0 ? WorkTime.InJob(job, LearnedMap.WalkingMinutes).GroupBy(t => (t.Phase, t.Action)).ToDictionary(g => g.Key, g => g.Sum(t => t.Minutes)) : [];
        Minutes Took(WorkPhase phase, string id, Minutes estimate) =>
            !job.IsRecorded && job.Things.All(t => t.Id != id) ? estimate : times.TryGetValue((phase, id), out var minutes) ? new Minutes(minutes, minutes, minutes) : WorkFrameReader.NoMinutes;
        var closed = job.Refitted.OrderBy(r => r.Value.Entry.Position).Select(r => r.Key).Where(id => map.Step(id) is not null || opened.Contains(id)).ToList();
        var worked = new WorkedJob
        {
            Job = job.Id, On = DateOnly.FromDateTime((job.HandedBack?.Entry ?? job.Left?.Entry ?? job.Entries.Last()).Draft.OccurredAt.DateTime), Version = version, Mapped = !job.IsRecorded,
            By = [.. job.Removed.Values.Concat(job.Refitted.Values).Where(t => t.Entry.Payload is not ArrivalNoted).Select(t => nameOf(t.Entry.Draft.Actor)).Distinct()],
            Opened =
            [
                .. opened.Select(id => map[id] with
                {
                    Needs = Needs.Nothing, Fasteners = job.FastenersOf(id), Minutes = Took(WorkPhase.Apart, id, map[id].Minutes), Pictures = [.. map[id].Pictures.Concat(PicturesOf(job, id)).Distinct()],
                    Close = map[id].Close with { While = null, WorkedOut = false, Minutes = Took(WorkPhase.Refit, id, map[id].CloseMinutes) },
                }),
            ],
            Unordered = Unordered(job, opened, [.. opened.Select(id => job.Removed[id].Entry)]),
            Closed = [.. after, .. closed],
            UnorderedBack = Unordered(job, closed, [.. closed.Select(id => job.Refitted[id].Entry)]),
            Steps =
            [
                .. after.Select(id => new RefitStep { Id = id, Title = map[id].Title, Why = map[id].Why, Done = map[id].Done, Position = map[id].Position, Minutes = map[id].Minutes, Tools = map[id].Tools, Cautions = map[id].Cautions, After = [], Before = [], Gate = false }),
                .. closed.Where(id => map.Step(id) is not null).Select(id => map.Step(id)! with { After = [], Before = [], Minutes = Took(WorkPhase.Refit, id, map.Step(id)!.Minutes), AppliesIf = Because(job, map, opened, id) }),
            ],
        };
        foreach (var (entry, said) in job.WordsSaid)
        {
            worked = worked with { Words = [.. worked.Words, .. Words(job, worked, entry, said, nameOf(entry.Draft.Actor))] };
        }

        return worked;
    }

    /// <summary>Pairs of the way in of which nobody knows which came first: told by devices that had not seen each other, and nobody has put them in order since.</summary>
    public static IReadOnlyList<(string, string)> Unordered(Job job)
    {
        var order = job.OpenedInOrder;
        return Unordered(job, order, [.. order.Select(id => job.Removed[id].Entry)]);
    }

    private static List<(string, string)> Unordered(Job job, List<string> ids, List<Entry> entries)
    {
        var pairs = new List<(string, string)>();
        for (var i = 0; i < ids.Count; i++)
        {
            for (var j = i + 1; j < ids.Count; j++)
            {
                var (first, second) = entries[i].Position < entries[j].Position ? (entries[i], entries[j]) : (entries[j], entries[i]);
                // One person's own words come in their order, unless their clocks say that they came from two devices.
                var unseen = second.Draft.BasedOn < first.Position && (first.Draft.Actor != second.Draft.Actor || first.Draft.OccurredAt > second.Draft.OccurredAt) && first.Payload is not ArrivalNoted;
                if (unseen && !job.Moved.Any(m => m.Entry.Position > second.Position && m.Payload.Phase == WorkPhase.Apart && (m.Payload.Step == ids[i] || m.Payload.Step == ids[j])))
                {
                    pairs.Add((ids[i], ids[j]));
                }
            }
        }

        return pairs;
    }

    private static IEnumerable<LearnedWord> Words(Job job, WorkedJob so, Entry entry, Payload said, string by)
    {
        var frame = job.System.Frame;
        var at = entry.Draft.OccurredAt;
        return said switch
        {
            OnlyThis only => [new(entry.Id, by, at, WordKind.Only, only.Step, Questions.Kept(so, only.Kept, frame))],
            NeededFor needed => Questions.Answer(so, needed.Step, needed.For.ToHashSet(StringComparer.Ordinal), needed.Back?.ToHashSet(StringComparer.Ordinal), frame, entry.Id, by, at),
            BecauseOf because => [new(entry.Id, by, at, WordKind.Because, because.Step, [because.Operation])],
            _ => [],
        };
    }

    // A step of the family that goes with a thing is there where that thing was off.
    private static string? Because(Job job, AccessMap map, List<string> opened, string step) =>
        job.System.Frame.Steps.FirstOrDefault(s => s.Step.Id == step) is { Words.Count: > 0 } own ? opened.LastOrDefault(id => job.Words.In(map[id].Title, job.System.Id).Any(w => own.Words.Contains(w.Id)))
            : job.IsRecorded ? null : map.Step(step)?.AppliesIf;

    private static IEnumerable<StepPicture> PicturesOf(Job job, string step) =>
        job.Pictures.Where(p => p.Payload.Step == step).Select(p => p.Shown);
}
