namespace Screeline.Core.Access.Learning;

/// <summary>What a learned map says, for people: without what follows from the rest, and what is sure apart from what was only never tried otherwise.</summary>
public static class ShownNeeds
{
    /// <summary>The map with needs of which none follows from another; a map that somebody drew is shown as it is.</summary>
    public static AccessMap Reduced(AccessMap map)
    {
        if (map.Learned is null || map.Operations.Any(o => !o.Needs.HasFewAlternatives))
        {
            return map;
        }

        var alternatives = map.Operations.ToDictionary(o => o.Id, o => o.Needs.Alternatives(), StringComparer.Ordinal);
        var always = new Dictionary<string, HashSet<string>>(StringComparer.Ordinal);
        HashSet<string> Always(string id)
        {
            if (always.TryGetValue(id, out var known))
            {
                return known;
            }

            // A loop of needs adds nothing to itself.
            always[id] = [];
            HashSet<string>? common = null;
            foreach (var set in alternatives.GetValueOrDefault(id) ?? [])
            {
                var whole = set.Concat(set.SelectMany(Always)).ToHashSet(StringComparer.Ordinal);
                common = common is null ? whole : [.. common.Where(whole.Contains)];
            }

            return always[id] = common ?? [];
        }

        return MapChanges.Placed(
            map,
            [
                .. map.Operations.Select(o => o with
                {
                    Needs = Needs.AnyOf(Needs.AnyOf([.. alternatives[o.Id].Select(set => (IReadOnlyList<string>)[.. set.Where(id => !set.Any(other => other != id && Always(other).Contains(id) && !Always(id).Contains(other)))])]).Alternatives()),
                }),
            ],
            map.RefitSteps, map.Positions, map.PrintedRoute);
    }

    /// <summary>
    /// Who surely needs whom: what somebody said, what a map said that was there before, and what makes a place or a danger safe. Null for a map that somebody
    /// drew: all of it is said.
    /// </summary>
    public static IReadOnlySet<(string From, string To)>? Sure(AccessMap map)
    {
        if (map.Learned is not { } from)
        {
            return null;
        }

        var sure = new HashSet<(string, string)>();
        foreach (var o in map.Operations)
        {
            var own = from.Operations?.FirstOrDefault(x => x.Id == o.Id);
            var said = from.Said.Any(s => s.Step == o.Id && s.Changes.ContainsKey("needs"));
            sure.UnionWith(o.Needs.Names.Where(id => said || own?.Needs.Names.Contains(id) == true || map.Operation(id) is { } needed && (needed.Provides.Count > 0 || needed.Live)).Select(id => (id, o.Id)));
        }

        foreach (var (job, word) in from.Jobs.SelectMany(j => j.Words.Select(w => (j, w))))
        {
            switch (word.Kind)
            {
                case WordKind.Only:
                    sure.UnionWith(word.Of.Select(id => (job.NameOf(id), job.NameOf(word.Step))));
                    break;
                case WordKind.Needed:
                    sure.UnionWith(word.Of.Select(id => (job.NameOf(word.Step), job.NameOf(id))));
                    break;
            }
        }

        return sure;
    }

    /// <summary>What a step leans on, in words: "needs undertray off; came after wheel and liner off, once".</summary>
    public static string Words(AccessMap map, string step)
    {
        string WordsOf(string id) => map.Operation(id)?.DoneWords ?? id;
        var o = Reduced(map)[step];
        if (map.Learned is not { } from || Sure(map) is not { } sure)
        {
            return NeedsText.Sentence(o.Needs, WordsOf);
        }

        var names = o.Needs.Names.Distinct().ToList();
        var told = names.Where(id => sure.Contains((id, step))).ToList();
        var seen = names.Except(told).ToList();
        var times = from.Certainty(step).Jobs switch { <= 1 => "once", 2 => "twice", var n => $"{n} times" };
        return (told.Count, seen.Count) switch
        {
            (0, 0) => "Needs nothing",
            (_, 0) => $"Needs {Lower(NeedsText.Sentence(o.Needs, WordsOf))}",
            (0, _) => $"Came after {Lower(NeedsText.Sentence(o.Needs, WordsOf))}, {times}",
            _ => $"Needs {Lower(NeedsText.Sentence(Needs.AnyOf([told]), WordsOf))}; came after {Lower(NeedsText.Sentence(Needs.AnyOf([seen]), WordsOf))}, {times}",
        };
    }

    private static string Lower(string text) => char.ToLowerInvariant(text[0]) + text[1..];
}
