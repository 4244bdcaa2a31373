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
