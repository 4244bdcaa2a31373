namespace Screeline.Core.Diagnosis;

/// <summary>Where somebody who tests is, and with whom. It stays so until something says otherwise.</summary>
/// <param name="Place">The place, in the words of the tests; null while nobody has gone anywhere.</param>
/// <param name="HasHelper">Whether a second person is there.</param>
/// <param name="IsAlone">Whether there is nobody to call.</param>
public sealed record Whereabouts(string? Place, bool HasHelper, bool IsAlone)
{
    /// <summary>Nowhere yet, with somebody to call.</summary>
    public static Whereabouts Nowhere { get; } = new(null, false, false);

    /// <summary>Minutes to go to another place with what is needed there (common practice, no source).</summary>
    public const double MovingMinutes = 1;

    /// <summary>Minutes to call a second person from other work (common practice, no source).</summary>
    public const double CallingMinutes = 2;

    /// <summary>Whether a test can be done: by two, by one who has a way to do it alone, or it takes no second person.</summary>
    public bool Can(FaultTest test) => !IsAlone || test.People == 1 || test.Alone is not null;

    /// <summary>Minutes of a test once one is there, every person's counted.</summary>
    public double MinutesOf(FaultTest test) => IsAlone && test.Alone is { } alone ? (double)alone.Minutes : (double)test.Minutes * test.People;

    /// <summary>Whether a test is done with a second person.</summary>
    public bool WithHelper(FaultTest test) => !IsAlone && test.People > 1;

    /// <summary>Minutes until a test can begin: going there, and calling somebody.</summary>
    public double GoingMinutes(FaultTest test) => (Place == test.Where ? 0 : MovingMinutes) + (WithHelper(test) && !HasHelper ? CallingMinutes : 0);

    /// <summary>Where one is after a test.</summary>
    public Whereabouts After(FaultTest test) => this with { Place = test.Where, HasHelper = HasHelper || WithHelper(test) };
}

/// <summary>What it takes to do several tests in one round.</summary>
/// <param name="System">The family.</param>
/// <param name="Known">Minutes to get to a test from what is open now where the vehicle's map knows better, by test.</param>
public sealed record Tour(FaultSystem System, IReadOnlyDictionary<string, double> Known)
{
    /// <summary>
    /// The order that takes least: all at one place before the next, that of here and now first, and at each place what one does by
    /// oneself before a second person is called. No order takes less, since every other place must be gone to once, and what is
    /// opened is opened once (tested against every order).
    /// </summary>
    public static IReadOnlyList<FaultTest> Ordered(Whereabouts from, IEnumerable<FaultTest> tests) =>
        [.. tests.GroupBy(t => t.Where).OrderBy(g => g.Key != from.Place).ThenBy(g => g.Any(from.WithHelper)).ThenBy(g => g.Sum(t => t.Access.Count)).ThenBy(g => g.Key, StringComparer.Ordinal)
            .SelectMany(g => g.OrderBy(from.WithHelper).ThenBy(t => t.Access.Count).ThenBy(t => t.Id, StringComparer.Ordinal))];

    /// <summary>Minutes of tests done in this order, every person's counted.</summary>
    /// <param name="start">Where one is.</param>
    /// <param name="open">What is open already.</param>
    /// <param name="tests">The tests.</param>
    public double MinutesOf(Whereabouts start, IReadOnlySet<string> open, IEnumerable<FaultTest> tests)
    {
        var (at, minutes, opened) = (start, 0.0, new HashSet<string>(open, StringComparer.Ordinal));
        foreach (var test in tests)
        {
            minutes += at.MinutesOf(test) + at.GoingMinutes(test) + AccessMinutes(test, open, opened);
            opened.UnionWith(TestAccess.Wanted(System, test, opened));
            at = at.After(test);
        }

        return minutes;
    }

    /// <summary>Minutes to get to a test from what is open now: the vehicle's map knows, else the system's own.</summary>
    public double AccessMinutes(FaultTest test, IReadOnlySet<string> open) => AccessMinutes(test, open, open);

    // The map's minutes are those from what was open at first; of what the round opened itself, the rest is the system's.
    private double AccessMinutes(FaultTest test, IReadOnlySet<string> first, IReadOnlySet<string> opened)
    {
        var wanted = TestAccess.Wanted(System, test, opened);
        return wanted.Count == 0 && !ReferenceEquals(first, opened) ? 0
            : Known.TryGetValue(test.Id, out var minutes) && wanted.SetEquals(TestAccess.Wanted(System, test, first)) ? minutes
            : wanted.Sum(id => System.Access.First(a => a.Id == id).Minutes);
    }
}
