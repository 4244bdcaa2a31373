using Screeline.Core.Access.Planning;
using Screeline.Core.Access.Recording;

namespace Screeline.Core.Access.Learning;

/// <summary>Something worth asking about: for what did a part have to be off?</summary>
/// <param name="Step">The part, by the job's own id.</param>
/// <param name="Later">What was done after it and so may have needed it, by the job's own ids, in order.</param>
/// <param name="Saves">Minutes that the way there and back would be shorter if it was in the way of nothing.</param>
public sealed record Question(string Step, IReadOnlyList<string> Later, decimal Saves);

/// <summary>What is worth asking at hand-back, and what answers come to.</summary>
public static class Questions
{
    /// <summary>Most that are asked of one job.</summary>
    public const int Most = 3;

    /// <summary>How many parts are planned without.</summary>
    public const int Planned = 10;

    /// <summary>
    /// The parts of a job that are worth asking about: of those with the most minutes, the ones without which the way would be shortest. None when nothing would be
    /// saved. Plans ten ways: not for a page to wait for.
    /// </summary>
    /// <param name="map">A learned map that has the job.</param>
    /// <param name="job">The job.</param>
    /// <param name="frame">What holds of every vehicle of the family.</param>
    /// <param name="states">For a caution, the states it requires.</param>
    /// <param name="budget">For each way that is planned.</param>
    /// <param name="stop">Ends it early; what is not planned is not asked.</param>
    public static IReadOnlyList<Question> Worth(AccessMap map, WorkedJob job, WorkFrame frame, Func<string, IReadOnlyList<string>> states, TimeSpan budget, CancellationToken stop = default)
    {
        if (map.Learned is not { } learned || map.Targets.Count == 0 || Plan(map, budget, stop) is not { } now)
        {
            return [];
        }

        var off = now.Set.ToHashSet(StringComparer.Ordinal);
        var way = Learner.Examples(job, o => IsFrame(o, frame));
        // What somebody named as all that was in the way is known to have been.
        var known = job.Words.Where(w => w.Kind == WordKind.Only).SelectMany(w => w.Of.Where(id => !w.Of.Any(other => way.TryGetValue(other, out var leans) && leans.Contains(id)))).ToHashSet(StringComparer.Ordinal);
        var candidates =
            from o in job.Opened
            where !IsFrame(o, frame) && off.Contains(job.NameOf(o.Id)) && !known.Contains(o.Id) && o.Id != job.Opened[^1].Id && job.Words.All(w => w.Kind != WordKind.Needed || w.Step != o.Id)
            let op = map.Operation(job.NameOf(o.Id))
            where op is not null
            orderby op.Minutes.Mean + op.CloseMinutes.Mean descending, o.Id
            select o.Id;
        var worth = new List<Question>();
        foreach (var id in candidates.Take(Planned))
        {
            if (stop.IsCancellationRequested)
            {
                break;
            }

            var words = Answer(job, id, new HashSet<string>(), new HashSet<string>(), frame, Guid.Empty, "", default);
            var without = Learner.Learn(MapChanges.Learned(map, learned with { Jobs = [.. learned.Jobs.Select(j => j.Job == job.Job ? j with { Words = [.. j.Words, .. words] } : j)] }), frame, states);
            if (words.Count > 1 && Plan(without, budget, stop) is { } then && now.ExpectedMinutes - then.ExpectedMinutes is > 0 and var saves)
            {
                worth.Add(new Question(id, [.. job.Opened.Select(o => o.Id).Where(x => way.TryGetValue(x, out var example) && example.Contains(id))], Math.Round(saves, 1)));
            }
        }

        // What came off last is asked first: what lies before it may have been off for its sake alone.
        var order = job.Opened.Select((o, i) => (o.Id, i)).ToDictionary(x => x.Id, x => x.i, StringComparer.Ordinal);
        return [.. worth.OrderByDescending(q => q.Saves).Take(Most).OrderByDescending(q => order[q.Step])];
    }

    /// <summary>
    /// What an answer comes to, in words: what the part was in the way of, and for everything else the set that remains without it. Where something that remains
    /// needed the part itself, it stays: nobody said that this could stay on too.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="part">The part, by the job's own id.</param>
    /// <param name="needed">For what it had to be off.</param>
    /// <param name="back">What had to go back while it was off; null where nobody said, then nothing follows for the way back.</param>
    /// <param name="frame">What holds of every vehicle of the family.</param>
    /// <param name="entry">The entry that says it.</param>
    /// <param name="by">Who.</param>
    /// <param name="at">When.</param>
    public static IReadOnlyList<LearnedWord> Answer(WorkedJob job, string part, IReadOnlySet<string> needed, IReadOnlySet<string>? back, WorkFrame frame, Guid entry, string by, DateTimeOffset at)
    {
        var words = new List<LearnedWord> { new(entry, by, at, WordKind.Needed, part, [.. job.Opened.Select(o => o.Id).Where(needed.Contains)]) };
        var way = Learner.Examples(job, o => IsFrame(o, frame));
        foreach (var id in job.Opened.Select(o => o.Id).Where(id => !needed.Contains(id) && way.TryGetValue(id, out var e) && e.Contains(part)))
        {
            var kept = way[id].Where(x => x != part).ToHashSet(StringComparer.Ordinal);
            if (kept.All(x => way.TryGetValue(x, out var leans) && leans.IsSubsetOf(kept)))
            {
                way[id] = kept;
                words.Add(new LearnedWord(entry, by, at, WordKind.Only, id, InOrder(job, kept)));
            }
        }

        if (back is not null)
        {
            words.AddRange(Learner.Closings(job).Where(x => !back.Contains(x.Key) && x.Value.Contains(part)).Select(x => new LearnedWord(entry, by, at, WordKind.Back, x.Key, InOrder(job, x.Value.Where(y => y != part).ToHashSet(StringComparer.Ordinal)))));
        }

        return words;
    }

    /// <summary>The whole set that remains when only some things were in the way: they and what they leaned on in this job.</summary>
    /// <param name="job">The job.</param>
    /// <param name="named">What was named, by the job's own ids.</param>
    /// <param name="frame">What holds of every vehicle of the family.</param>
    public static IReadOnlyList<string> Kept(WorkedJob job, IEnumerable<string> named, WorkFrame frame)
    {
        var way = Learner.Examples(job, o => IsFrame(o, frame));
        return InOrder(job, named.SelectMany(id => (way.GetValueOrDefault(id) ?? []).Append(id)).ToHashSet(StringComparer.Ordinal));
    }

    /// <summary>Whether an operation answers for itself: it provides a state, wants power, or is of the family's frame.</summary>
    public static bool IsFrame(Operation o, WorkFrame frame) => o.Provides.Count > 0 || o.Live || frame.Find(o.Id) is not null;

    private static List<string> InOrder(WorkedJob job, HashSet<string> ids) => [.. job.Opened.Select(o => o.Id).Where(ids.Contains)];

    private static WayPlan? Plan(AccessMap map, TimeSpan budget, CancellationToken stop) =>
        RoutePlanner.Plan(new PlanRequest(map, map.Targets[0].Operation) { Budget = budget }, stop).Routes is [var best, ..] ? best : null;
}
