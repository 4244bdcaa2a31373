namespace Screeline.Core.Access.Recording;

/// <summary>One thing of a sequence.</summary>
/// <param name="Word">Id of the <see cref="PartWord"/>.</param>
/// <param name="Place">A kind of <see cref="Position"/>.</param>
/// <param name="Before">Things that were off before it.</param>
public sealed record SequenceStep(string Word, string Place, IReadOnlySet<string> Before);

/// <summary>What came off in one job, or comes off by one map, as far as words are known for it.</summary>
/// <param name="Family">The family.</param>
/// <param name="Steps">In order.</param>
public sealed record WorkSequence(string Family, IReadOnlyList<SequenceStep> Steps)
{
    /// <summary>The sequence of a map: before each thing stands what it leans on.</summary>
    public static WorkSequence FromMap(AccessMap map, PartWords words)
    {
        var named = map.Operations.Where(o => o.Kind == OperationKind.Open).Select(o => (o, Word: words.About(o.Title, map.Family)?.Id)).Where(x => x.Word is not null).ToDictionary(x => x.o.Id, x => x.Word!, StringComparer.Ordinal);
        var leans = new Dictionary<string, HashSet<string>>(StringComparer.Ordinal);
        var steps = new List<SequenceStep>();
        foreach (var o in WalkRules.InOrder(map))
        {
            var before = o.Needs.Names.SelectMany(id => (leans.GetValueOrDefault(id) ?? []).Concat(named.TryGetValue(id, out var word) ? [word] : [])).ToHashSet(StringComparer.Ordinal);
            leans[o.Id] = before;
            if (named.TryGetValue(o.Id, out var own))
            {
                steps.Add(new SequenceStep(own, map.Positions.First(p => p.Id == o.Position).Kind ?? "", before));
            }
        }

        return new WorkSequence(map.Family, steps);
    }

    /// <summary>The sequence of a job.</summary>
    /// <param name="family">The family.</param>
    /// <param name="cameOff">Word and place, "word@place", in order.</param>
    public static WorkSequence FromOrder(string family, IReadOnlyList<string> cameOff)
    {
        var (steps, before) = (new List<SequenceStep>(), new HashSet<string>(StringComparer.Ordinal));
        foreach (var parts in cameOff.Select(x => x.Split('@', 2)).Where(p => p.Length == 2))
        {
            steps.Add(new SequenceStep(parts[0], parts[1], before.ToHashSet(StringComparer.Ordinal)));
            before.Add(parts[0]);
        }

        return new WorkSequence(family, steps);
    }
}

/// <summary>A thing that is likely to come off next.</summary>
/// <param name="Word">The thing.</param>
/// <param name="Place">Where it usually sits.</param>
/// <param name="In">In how many of the sequences of the family it comes off.</param>
/// <param name="Of">How many those are.</param>
public sealed record LikelyThing(PartWord Word, string Place, int In, int Of);

/// <summary>What comes off next, counted from maps and closed jobs.</summary>
public static class LikelyNext
{
    // Other families' vehicles have the same trays and covers, but seldom in the way of this part.
    private const double OtherFamily = 0.02;

    // How sharply a thing must lie at this stage of the work.
    private const double Sharp = 4;

    /// <summary>
    /// The likeliest first. Each sequence in which a thing is still to come speaks for it: the more, the nearer it lies there to where the work is now (as a share of
    /// all that comes off), the fewer of the sequence's own things before it are still on, and twice at the place where one works.
    /// </summary>
    /// <param name="sequences">What is known.</param>
    /// <param name="words">The words.</param>
    /// <param name="family">The family of the job.</param>
    /// <param name="place">Where one works.</param>
    /// <param name="off">Ids of the words of what is off.</param>
    /// <param name="most">How many at most.</param>
    public static IReadOnlyList<LikelyThing> Rank(IReadOnlyList<WorkSequence> sequences, PartWords words, string family, string place, IReadOnlySet<string> off, int most = 6)
    {
        var scores = new Dictionary<string, (double Score, Dictionary<string, int> Places, int In)>(StringComparer.Ordinal);
        var length = sequences.Where(s => s.Family == family).Select(s => (double)s.Steps.Count).DefaultIfEmpty(8).Average();
        var progress = Math.Min(1, off.Count / length);
        foreach (var sequence in sequences)
        {
            var own = sequence.Family == family;
            foreach (var group in sequence.Steps.Select((s, i) => (Step: s, At: (double)i / sequence.Steps.Count)).Where(s => !off.Contains(s.Step.Word)).GroupBy(s => s.Step.Word))
            {
                var (step, at) = group.First();
                var ready = step.Before.Count == 0 ? 0 : (double)step.Before.Count(off.Contains) / step.Before.Count;
                var away = Sharp * (at - progress);
                var score = (own ? 1 : OtherFamily) / (1 + away * away) * (1 + ready) * (step.Place == place ? 2 : 1);
                var so = scores.TryGetValue(step.Word, out var known) ? known : (0, new Dictionary<string, int>(StringComparer.Ordinal), 0);
                so.Places[step.Place] = so.Places.GetValueOrDefault(step.Place) + 1;
                scores[step.Word] = (so.Score + score, so.Places, so.In + (own ? 1 : 0));
            }
        }

        var of = sequences.Count(s => s.Family == family);
        return
        [
            .. (from s in scores
               let word = words.Find(s.Key)
               where word is not null && (word.Families.Count == 0 || word.Families.Contains(family)) && word.UsualAct != TakenAct.Looked
               orderby s.Value.Score descending, word.Id
               select new LikelyThing(word, s.Value.Places.MaxBy(p => (p.Value, p.Key)).Key, s.Value.In, of)).Take(most),
        ];
    }
}
