using Screeline.Core.Access.Recording;

namespace Screeline.Core.Access.Learning;

/// <summary>
/// Makes a map out of jobs. For every operation it holds the minimal examples: what was open or done when it was done, less what the frame answers for; for the
/// way back what was still open when it was closed. It allows nothing that was not shown or said, and no example, word or count loosens what the frame asks
/// for. Exact meanings in docs/formats.md, "Learned maps". (Monotone functions from positive examples: D. Angluin, Queries and Concept Learning, Machine
/// Learning 2, 1988.)
/// </summary>
public sealed class Learner
{
    private readonly LearnedFrom _from;
    private readonly List<WorkedJob> _jobs;
    private readonly WorkFrame _frame;
    private readonly Func<string, IReadOnlyList<string>> _states;
    private readonly List<(WorkedJob Job, Dictionary<string, HashSet<string>> Way)> _examples;
    // The same with what the frame answers for: a map that was there before names that itself.
    private readonly List<(WorkedJob Job, Dictionary<string, HashSet<string>> Way)> _whole;
    private readonly List<(WorkedJob Job, Dictionary<string, HashSet<string>> Way)> _closings;

    private Learner(LearnedFrom from, WorkFrame frame, Func<string, IReadOnlyList<string>> states)
    {
        (_from, _frame, _states) = (from, frame, states);
        _jobs = [.. from.Jobs.Select(j => j.Named())];
        _examples = [.. _jobs.Select(j => (j, Examples(j, IsFrame)))];
        _whole = from.Operations is null ? [] : [.. _jobs.Select(j => (j, Examples(j, _ => false)))];
        _closings = [.. _jobs.Select(j => (j, Closings(j)))];
    }

    /// <summary>The map that follows from what a map is learned from; the same for the same, whatever was there before.</summary>
    /// <param name="map">Its head (name, vehicles, places, moves …) and <see cref="AccessMap.Learned"/>.</param>
    /// <param name="frame">What holds of every vehicle of the family.</param>
    /// <param name="states">For a caution, the states it requires.</param>
    public static AccessMap Learn(AccessMap map, WorkFrame frame, Func<string, IReadOnlyList<string>> states)
    {
        if (map.Learned is not { } from)
        {
            return map;
        }

        var learner = new Learner(from, frame, states);
        var operations = learner.Operations();
        var steps = learner.Steps(operations);
        foreach (var said in from.Said)
        {
            operations = [.. operations.Select(o => o.Id == said.Step ? AccessMapReader.Changed(o, said.Changes) : o)];
            steps = [.. steps.Select(s => s.Id == said.Step ? AccessMapReader.Changed(s, said.Changes) : s)];
        }

        var known = operations.Select(o => o.Id).ToHashSet(StringComparer.Ordinal);
        List<Target> targets = [.. map.Targets.Where(t => known.Contains(t.Operation))];
        if (targets.Count == 0 && learner._jobs is [.., var latest])
        {
            targets.Add(new Target(map.Targets is [var named, ..] ? named.Id : "reached", latest.Opened[^1].Id));
        }

        return MapChanges.Placed(map, operations, steps, map.Positions, [.. map.PrintedRoute.Where(known.Contains)], targets, [.. map.Restores.Concat(frame.Restores).DistinctBy(r => r.Id)]);
    }

    /// <summary>
    /// The examples of a job's way in by the step's id: what was off or done when it was, less what the frame answers for, as words about it leave it. A step of
    /// which nobody knows whether it came before or after another makes none.
    /// </summary>
    public static Dictionary<string, HashSet<string>> Examples(WorkedJob job, Func<Operation, bool> isFrame)
    {
        var frame = job.Opened.Where(isFrame).Select(o => o.Id).ToHashSet(StringComparer.Ordinal);
        var unsure = job.Unordered.SelectMany(p => new[] { p.Item1, p.Item2 }).ToHashSet(StringComparer.Ordinal);
        var (way, before) = (new Dictionary<string, HashSet<string>>(StringComparer.Ordinal), new HashSet<string>(StringComparer.Ordinal));
        foreach (var o in job.Opened)
        {
            if (!unsure.Contains(o.Id))
            {
                way[o.Id] = [.. before];
            }

            if (!frame.Contains(o.Id))
            {
                before.Add(o.Id);
            }
        }

        // The later word of a step counts; each is asked of what the earlier words left of the others, and goes when that is gone.
        var whole = way.ToDictionary(x => x.Key, x => x.Value, StringComparer.Ordinal);
        foreach (var word in job.Words.Where(w => w.Kind == WordKind.Only && way.ContainsKey(w.Step)))
        {
            var kept = word.Of.Where(id => !frame.Contains(id)).ToHashSet(StringComparer.Ordinal);
            if (kept.IsSubsetOf(whole[word.Step]) && kept.All(id => way.TryGetValue(id, out var leans) && leans.IsSubsetOf(kept)))
            {
                way[word.Step] = kept;
            }
        }

        return way;
    }

    /// <summary>
    /// What was still open when a step was closed, with what was done once, by the step's id, as words about the way back leave it; words about the way in change
    /// nothing here. What was never closed has none.
    /// </summary>
    public static Dictionary<string, HashSet<string>> Closings(WorkedJob job)
    {
        var (way, open) = (new Dictionary<string, HashSet<string>>(StringComparer.Ordinal), job.Opened.Select(o => o.Id).ToHashSet(StringComparer.Ordinal));
        var unsure = job.UnorderedBack.SelectMany(p => new[] { p.Item1, p.Item2 }).ToHashSet(StringComparer.Ordinal);
        foreach (var id in job.Closed.Where(open.Contains).ToList())
        {
            open.Remove(id);
            if (!unsure.Contains(id))
            {
                way[id] = [.. open];
            }
        }

        foreach (var word in job.Words.Where(w => w.Kind == WordKind.Back && way.TryGetValue(w.Step, out var was) && w.Of.All(was.Contains)))
        {
            way[word.Step] = [.. word.Of];
        }

        return way;
    }

    // Answers for itself: what provides a state, wants power, or is of the family's frame.
    private bool IsFrame(Operation o) => Questions.IsFrame(o, _frame);

    private List<Operation> Operations()
    {
        var found = new Dictionary<string, Operation>(StringComparer.Ordinal);
        foreach (var o in (_from.Operations ?? []).Concat(_jobs.SelectMany(j => j.Opened)))
        {
            // In the order they came up, as the latest job found them.
            found[o.Id] = found.TryGetValue(o.Id, out var earlier) ? Latest(earlier, o) : o;
        }

        AddMissingFrame(found);
        var titles = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        // Of two things of one name people must be able to tell which is meant.
        var all = found.Values.Select(o => titles.Add(o.Title) || _from.Operations?.Any(x => x.Id == o.Id) == true ? o : o with { Title = Enumerable.Range(2, 1000).Select(n => $"{o.Title} ({n})").First(titles.Add) }).ToList();
        return [.. all.Select(o => Stands(o, all))];
    }

    // What makes a place or a danger safe belongs to the map, also where a job did without.
    private void AddMissingFrame(Dictionary<string, Operation> found)
    {
        void Add(Operation? o)
        {
            if (o is not null && found.TryAdd(o.Id, o))
            {
                o.Needs.Names.ToList().ForEach(id => Add(_frame.Find(id)?.Operation));
            }
        }

        foreach (var state in found.Values.ToList().SelectMany(o => RecordedMap.Requires(o, _states)).Distinct().Where(state => found.Values.All(o => !o.Provides.Contains(state))))
        {
            Add(_frame.Providing(state));
        }
    }

    private static Operation Latest(Operation earlier, Operation latest) => latest with
    {
        Tools = latest.Tools.Count > 0 ? latest.Tools : earlier.Tools, Place = latest.Place ?? earlier.Place, Pictures = [.. earlier.Pictures.Concat(latest.Pictures).Distinct()],
        Fasteners = latest.Fasteners.Count > 0 ? latest.Fasteners : earlier.Fasteners,
    };

    private Operation Stands(Operation o, List<Operation> all)
    {
        var frame = Frame(o, all);
        var own = _from.Operations?.FirstOrDefault(x => x.Id == o.Id);
        var examples = Minimal(_examples.Where(x => x.Way.ContainsKey(o.Id)).Select(x => x.Way[o.Id]));
        var closings = Minimal(_closings.Where(x => x.Way.ContainsKey(o.Id)).Select(x => x.Way[o.Id]));
        Needs needs;
        Needs? during;
        var workedOut = false;
        if (own is not null)
        {
            // What the map's author said, with what was found besides; and whatever was shown that this does not cover.
            var inserted = Inserted(own).ToList();
            var said = inserted.Count == 0 ? own.Needs : All([own.Needs, .. inserted.Select(id => new Needs.One(id))]);
            var more = Minimal(_whole.Where(x => x.Way.ContainsKey(o.Id)).Select(x => x.Way[o.Id]).Where(e => !said.Hold(e.Contains)));
            needs = more.Count == 0 ? said : AnyOf([said, .. more.Select(AllOf)]);
            during = more.Count == 0 && inserted.Count == 0 ? own.Close.While : own.CloseWhile;
        }
        else
        {
            needs = All([.. frame, examples.Count == 0 ? Never(o) : AnyOf([.. examples.Select(AllOf)])]);
            workedOut = closings.Count == 0 && o.Kind == OperationKind.Open;
            during = All([.. frame, workedOut ? AllOf(WorkedOut(o.Id)) : AnyOf([.. closings.Select(AllOf)])]);
        }

        return o with
        {
            Needs = needs, Minutes = Estimate(o, back: false) ?? o.Minutes,
            Close = o.Close with { While = o.Kind == OperationKind.Once ? null : during, WorkedOut = workedOut, Minutes = o.Kind == OperationKind.Once ? null : Estimate(o, back: true) },
        };
    }

    // Of all jobs only the one that shut it away is known: nobody knows when it can be done, and so the map does not say that it can.
    private static Needs.One Never(Operation o) => new(o.Id);

    // What was never closed goes back as it came off.
    private HashSet<string> WorkedOut(string id) =>
        _jobs.Where(j => j.Opened.Any(o => o.Id == id)).Select(j => j.Opened.TakeWhile(o => o.Id != id).Select(o => o.Id).ToHashSet(StringComparer.Ordinal)).LastOrDefault() ?? [];

    // What every way asks for: that place and dangers are safe, that what wants power was done before it is off, what the family's own step says.
    private List<Needs> Frame(Operation o, List<Operation> all)
    {
        var needs = new List<Needs>();
        foreach (var state in RecordedMap.Requires(o, _states))
        {
            if (all.Where(x => x.Id != o.Id && x.Provides.Contains(state)).Select(x => (Needs)new Needs.One(x.Id)).ToList() is { Count: > 0 } providing)
            {
                needs.Add(AnyOf(providing));
            }
        }

        if (_frame.Find(o.Id) is { } own)
        {
            needs.AddRange(own.Operation.Needs.Names.Where(id => all.Any(x => x.Id == id)).Select(id => new Needs.One(id)));
        }

        if (o.Provides.Contains(AccessMapChecks.Isolated))
        {
            needs.AddRange(all.Where(x => x.Live && x.Id != o.Id).Select(x => new Needs.One(x.Id)));
        }

        return [.. needs.Distinct()];
    }

    // What a job found in the way that the map did not know: before what it was said to be in the way of, else before what came next.
    private IEnumerable<string> Inserted(Operation own)
    {
        var found = new List<string>();
        foreach (var (job, way) in _whole)
        {
            foreach (var thing in job.Opened.Where(o => _from.Operations!.All(x => x.Id != o.Id) && o.Kind == OperationKind.Open && way.TryGetValue(own.Id, out var example) && example.Contains(o.Id)))
            {
                var said = job.Words.LastOrDefault(w => w.Kind == WordKind.Needed && w.Step == thing.Id);
                var next = job.Opened.SkipWhile(o => o.Id != thing.Id).Skip(1).FirstOrDefault(o => _from.Operations!.Any(x => x.Id == o.Id));
                if (said is null ? next?.Id == own.Id : said.Of.Contains(own.Id))
                {
                    found.Add(thing.Id);
                }
            }
        }

        return found.Distinct();
    }

    // Known minutes of jobs that no map told what to expect; times of others pull as on every map. Where nobody knows, a wide guess by how much there is to undo
    // (common practice, no source).
    private Minutes? Estimate(Operation o, bool back)
    {
        var estimate = back ? o.Close.Minutes : o.Minutes;
        var times = _jobs.Where(j => !j.Mapped).SelectMany(j => j.Opened.Where(x => x.Id == o.Id)).Select(x => (back ? x.Close.Minutes : x.Minutes)?.Likely ?? 0).Where(t => t > 0).ToList();
        if (times.Count > 0)
        {
            var mean = Math.Round(times.Average(), 1);
            return times.Count == 1 ? new Minutes(Math.Round(mean / 1.5m, 1), mean, mean * 2) : new Minutes(Math.Min(mean, Math.Round(times.Min() / 1.25m, 1)), mean, Math.Max(mean, Math.Round(times.Max() * 1.25m, 1)));
        }

        if (estimate is { High: > 0 } || o.WaitMinutes > 0 || _from.Operations?.Any(x => x.Id == o.Id) == true)
        {
            return estimate;
        }

        if (back)
        {
            return null;
        }

        var likely = 0.5m + 0.5m * o.Fasteners.Count + 0.25m * o.Fasteners.Sum(f => f.Count);
        return new Minutes(Math.Round(likely / 2, 1), likely, likely * 3);
    }

    private List<RefitStep> Steps(List<Operation> operations)
    {
        var found = new Dictionary<string, RefitStep>(StringComparer.Ordinal);
        foreach (var s in _jobs.SelectMany(j => j.Steps))
        {
            found[s.Id] = s;
        }

        var own = (_from.Steps ?? []).Select(s => s.Id).ToHashSet(StringComparer.Ordinal);
        var ids = operations.Where(o => o.Kind == OperationKind.Open).Select(o => o.Id).Concat(found.Keys).ToList();
        var because = _jobs.SelectMany(j => j.Words).Where(w => w.Kind == WordKind.Because).GroupBy(w => w.Step, StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.Last().Of, StringComparer.Ordinal);
        var orders = _jobs.Select(j => j.Closed.Select((id, i) => (id, i)).ToDictionary(x => x.id, x => x.i, StringComparer.Ordinal)).ToList();
        string? With(RefitStep s) => (because.GetValueOrDefault(s.Id) is [var named, ..] ? named : s.AppliesIf) is { } with && operations.Any(o => o.Id == with) ? with : null;
        // Done in some jobs only, and nobody said because of what: it belongs to every job, and its order is known where some job had it.
        bool Unexplained(string id) => found.TryGetValue(id, out var s) && With(s) is null && orders.Exists(at => !at.ContainsKey(id));
        IReadOnlyList<string> Always(string step, Func<int, int, bool> stands) =>
        [
            .. ids.Where(id => id != step && (orders.Where(at => at.ContainsKey(step) && at.ContainsKey(id)).ToList() is { Count: > 0 } both ? both.TrueForAll(at => stands(at[id], at[step]))
                // Where no job had both, nobody knows, and so neither order is allowed.
                : !Unexplained(step) && !Unexplained(id))),
        ];
        return
        [
            .. _from.Steps ?? [],
            .. found.Values.Where(s => !own.Contains(s.Id)).Select(s => s with { After = Always(s.Id, (other, mine) => other < mine), Before = Always(s.Id, (other, mine) => other > mine), AppliesIf = With(s) }),
        ];
    }

    // Those of which no other is a part.
    private static List<HashSet<string>> Minimal(IEnumerable<HashSet<string>> sets)
    {
        var minimal = new List<HashSet<string>>();
        foreach (var set in sets.OrderBy(s => s.Count))
        {
            if (!minimal.Exists(m => m.IsSubsetOf(set)))
            {
                minimal.Add(set);
            }
        }

        return minimal;
    }

    private static Needs AllOf(HashSet<string> set)
    {
        var ids = new string[set.Count];
        set.CopyTo(ids);
        Array.Sort(ids, StringComparer.Ordinal);
        return ids.Length == 1 ? new Needs.One(ids[0]) : new Needs.All(Array.ConvertAll(ids, id => (Needs)new Needs.One(id)));
    }

    private static Needs All(List<Needs> of)
    {
        var flat = of.SelectMany(n => n is Needs.All all ? all.Of : [n]).Distinct().ToList();
        return flat.Count == 1 ? flat[0] : new Needs.All(flat);
    }

    private static Needs AnyOf(List<Needs> of) => of.Any(n => n is Needs.All { Of.Count: 0 }) ? Needs.Nothing : of.Count == 1 ? of[0] : of.Count == 0 ? Needs.Nothing : new Needs.Any(of);
}
