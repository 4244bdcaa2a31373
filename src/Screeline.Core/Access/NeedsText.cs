namespace Screeline.Core.Access;

/// <summary>
/// Needs as people type them: ids joined by "and" and "or", brackets, "and" before "or"; "nothing" or no text for no needs.
/// </summary>
public static class NeedsText
{
    /// <summary>The words for nothing.</summary>
    public const string Nothing = "nothing";

    /// <summary>Needs in words.</summary>
    public static string Write(Needs needs) => needs switch
    {
        Needs.One one => one.Operation,
        Needs.All { Of.Count: 0 } => Nothing,
        Needs.All all => string.Join(" and ", all.Of.Select(n => n is Needs.Any { Of.Count: > 1 } ? $"({Write(n)})" : Write(n))),
        _ => string.Join(" or ", ((Needs.Any)needs).Of.Select(Write)),
    };

    /// <summary>Needs as a sentence in the words of a map: "Undertray off, or wheel and liner off"; "nothing" for none.</summary>
    /// <param name="needs">The needs.</param>
    /// <param name="wordsOf">The words for an operation that is done, for example "Undertray off".</param>
    public static string Sentence(Needs needs, Func<string, string> wordsOf)
    {
        if (!needs.HasFewAlternatives)
        {
            return Write(needs);
        }

        var alternatives = needs.Alternatives();
        if (alternatives.Count == 0 || alternatives[0].Count == 0)
        {
            return Nothing;
        }

        // What every way needs is said once.
        List<string> common = alternatives.Count == 1 ? [] : [.. alternatives[0].Where(id => alternatives.All(a => a.Contains(id)))];
        var ways = string.Join(", or ", alternatives.Select(a => Joined([.. a.Except(common).Select(wordsOf)])));
        var text = common.Count == 0 ? ways : $"{Joined([.. common.Select(wordsOf)])}, and {ways}";
        return char.ToUpperInvariant(text[0]) + text[1..];
    }

    // "Wheel off" and "Liner off" are "wheel and liner off".
    private static string Joined(List<string> words)
    {
        static string Lower(string w) => w.Length > 1 && char.IsUpper(w[0]) && char.IsLower(w[1]) ? char.ToLowerInvariant(w[0]) + w[1..] : w;
        var last = words[^1].Split(' ')[^1];
        if (words.Count > 1 && last is "off" or "out" or "aside" or "loose" && words.TrueForAll(w => w.EndsWith(" " + last, StringComparison.Ordinal)))
        {
            words = [.. words.Take(words.Count - 1).Select(w => w[..^(last.Length + 1)]), words[^1]];
        }

        words = [.. words.Select(Lower)];
        return words.Count == 1 ? words[0] : string.Join(", ", words.Take(words.Count - 1)) + " and " + words[^1];
    }

    /// <summary>Reads needs; the fault says what is wrong and where.</summary>
    public static (Needs? Needs, string? Fault) Read(string text)
    {
        var words = text.Replace("(", " ( ").Replace(")", " ) ").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        if (words.Length == 0 || (words.Length == 1 && words[0] == Nothing))
        {
            return (Needs.Nothing, null);
        }

        var at = 0;
        string? fault = null;
        var read = Either();
        return fault is not null ? (null, fault)
            : at < words.Length ? (null, $"“{words[at]}” stands where “and” or “or” is wanted")
            : (read, null);

        Needs Either()
        {
            var of = new List<Needs> { Both() };
            while (at < words.Length && words[at] == "or")
            {
                at++;
                of.Add(Both());
            }

            return of.Count == 1 ? of[0] : new Needs.Any(of);
        }

        Needs Both()
        {
            var of = new List<Needs> { One() };
            while (at < words.Length && words[at] == "and")
            {
                at++;
                of.Add(One());
            }

            return of.Count == 1 ? of[0] : new Needs.All(of);
        }

        Needs One()
        {
            if (at >= words.Length)
            {
                fault ??= $"something is wanted after “{(words.Length > 0 ? words[^1] : "")}”";
                return Needs.Nothing;
            }

            var word = words[at++];
            if (word == "(")
            {
                var inside = Either();
                if (at < words.Length && words[at] == ")")
                {
                    at++;
                }
                else
                {
                    fault ??= "a bracket is not closed";
                }

                return inside;
            }

            if (word is "and" or "or" or ")")
            {
                fault ??= $"an operation is wanted before “{word}”";
            }

            return word == Nothing ? Needs.Nothing : new Needs.One(word);
        }
    }
}
