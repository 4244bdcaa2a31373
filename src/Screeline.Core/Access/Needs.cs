namespace Screeline.Core.Access;

/// <summary>
/// What must be open or done: nothing, one operation, all of a list, or any of a list, nested freely and without negation.
/// </summary>
public abstract record Needs
{
    /// <summary>Nothing is needed.</summary>
    public static readonly Needs Nothing = new All([]);

    /// <summary>True when the needs are met by what is open or done.</summary>
    public abstract bool Hold(Func<string, bool> openOrDone);

    /// <summary>Every operation named anywhere inside.</summary>
    public abstract IEnumerable<string> Names { get; }

    /// <summary>
    /// The sets of which each one alone meets the needs, none a part of another: "a and (b or c)" is {a, b} and {a, c}. A set of nothing where nothing is needed.
    /// </summary>
    /// <exception cref="InvalidOperationException">There are too many to be looked at one by one (<see cref="HasFewAlternatives"/>).</exception>
    public IReadOnlyList<IReadOnlyList<string>> Alternatives()
    {
        if (!HasFewAlternatives)
        {
            throw new InvalidOperationException($"More than {MostAlternatives} ways to meet these needs.");
        }

        var sets = Sets(this);
        var least = new List<IReadOnlyList<string>>();
        foreach (var set in sets.OrderBy(s => s.Count))
        {
            if (!least.Exists(l => l.All(set.Contains)))
            {
                least.Add(set);
            }
        }

        return least;
    }

    /// <summary>Most alternatives that are told one by one; needs nested on purpose have more than anybody could read.</summary>
    public const int MostAlternatives = 200;

    /// <summary>Whether its alternatives can be told one by one.</summary>
    public bool HasFewAlternatives => Ways(this) <= MostAlternatives;

    private static double Ways(Needs needs) => needs switch { One => 1, All all => all.Of.Aggregate(1.0, (so, n) => Math.Min(1e9, so * Ways(n))), _ => ((Any)needs).Of.Sum(Ways) };

    /// <summary>Needs that any of some sets meets; nothing for a set of nothing, or for none.</summary>
    public static Needs AnyOf(IReadOnlyList<IReadOnlyList<string>> alternatives)
    {
        static Needs Whole(IReadOnlyList<string> set) => set.Count == 1 ? new One(set[0]) : new All([.. set.Select(id => new One(id))]);
        return alternatives.Count == 0 || alternatives.Any(a => a.Count == 0) ? Nothing : alternatives.Count == 1 ? Whole(alternatives[0]) : new Any([.. alternatives.Select(Whole)]);
    }

    private static List<IReadOnlyList<string>> Sets(Needs needs) => needs switch
    {
        One one => [[one.Operation]],
        All all => all.Of.Aggregate(new List<IReadOnlyList<string>> { Array.Empty<string>() }, (so, next) => [.. so.SelectMany(a => Sets(next).Select(b => (IReadOnlyList<string>)[.. a.Union(b)]))]),
        _ => [.. ((Any)needs).Of.SelectMany(Sets)],
    };

    /// <summary>One operation.</summary>
    public sealed record One(string Operation) : Needs
    {
        /// <inheritdoc/>
        public override bool Hold(Func<string, bool> openOrDone) => openOrDone(Operation);
        /// <inheritdoc/>
        public override IEnumerable<string> Names => [Operation];
    }

    /// <summary>All of a list; the empty list is always met.</summary>
    public sealed record All(IReadOnlyList<Needs> Of) : Needs
    {
        /// <inheritdoc/>
        public override bool Hold(Func<string, bool> openOrDone) => Of.All(n => n.Hold(openOrDone));
        /// <inheritdoc/>
        public override IEnumerable<string> Names => Of.SelectMany(n => n.Names);
    }

    /// <summary>Any of a list, which is never empty.</summary>
    public sealed record Any(IReadOnlyList<Needs> Of) : Needs
    {
        /// <inheritdoc/>
        public override bool Hold(Func<string, bool> openOrDone) => Of.Any(n => n.Hold(openOrDone));
        /// <inheritdoc/>
        public override IEnumerable<string> Names => Of.SelectMany(n => n.Names);
    }
}
