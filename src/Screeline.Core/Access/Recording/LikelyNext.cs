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

    /// <summary>
    /// The likeliest first. Each sequence in which a thing is still to come speaks for it: the more, the more of what is off it has too, the more of what stands
    /// before the thing is off, and twice at the place where one works.
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
        foreach (var sequence in sequences)
        {
            var own = sequence.Family == family;
            var weight = (own ? 1 : OtherFamily) * (1 + sequence.Steps.Select(s => s.Word).Distinct().Count(off.Contains)) / (1 + off.Count);
            foreach (var group in sequence.Steps.Where(s => !off.Contains(s.Word)).GroupBy(s => s.Word))
            {
                var step = group.First();
                // What has everything before it off comes next; each thing that still lies on it makes that less likely.
                var lying = step.Before.Count(b => !off.Contains(b));
                var score = weight / (1 + lying) / (1 + lying) * (step.Place == place ? 2 : 1);
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
