namespace Screeline.Core.Motion;

/// <summary>What a row of stops says.</summary>
public enum ParkVerdict
{
    /// <summary>Too few stops to say anything.</summary>
    MoreStops,
    /// <summary>It stops at one place.</summary>
    Holds,
    /// <summary>It stops at two places in turn: alternating park, no fault.</summary>
    Alternates,
    /// <summary>It stops at two places, not in turn: the park contact.</summary>
    TwoPlaces,
    /// <summary>It wanders on in one direction: a loose crank.</summary>
    Creeps,
    /// <summary>It stops anywhere in a wide band: park contact or loose crank.</summary>
    Scatters,
}

/// <summary>One place it stops at.</summary>
/// <param name="Count">Stops.</param>
/// <param name="Mean">Their mean, mm.</param>
/// <param name="Spread">Their standard deviation, mm; 0 for one stop.</param>
public sealed record StopPlace(int Count, double Mean, double Spread);

/// <summary>How well a wiper finds its place again.</summary>
/// <param name="Verdict">What it is.</param>
/// <param name="Places">One place, or two, the lower one first.</param>
/// <param name="PlaceOf">The place of each stop in order.</param>
/// <param name="Drift">Slope over the stops, mm a stop.</param>
public sealed record ParkStops(ParkVerdict Verdict, IReadOnlyList<StopPlace> Places, IReadOnlyList<int> PlaceOf, double Drift)
{
    /// <summary>Fewest stops for a verdict.</summary>
    public const int Fewest = 6;
    /// <summary>Spread of a sound park contact at a blade tip, mm, one standard deviation (common practice, no source).</summary>
    public const double SoundSpread = 2.5;

    /// <summary>
    /// Judges stops in the order they were made. Two places are told from one by the Bayesian information criterion (G. Schwarz 1978,
    /// from memory) of two normal clusters against one, with a spread not below what a rule can read.
    /// </summary>
    /// <param name="stops">Height of one tip at each stop, mm.</param>
    /// <param name="alternatingDrive">Whether the controller is known to park at two places in turn; null when it is not known.</param>
    public static ParkStops Judge(IReadOnlyList<double> stops, bool? alternatingDrive = null)
    {
        var one = PlaceFrom(stops);
        var drift = Slope(stops);
        int[] alone = [.. stops.Select(_ => 0)];
        if (stops.Count < Fewest)
        {
            return new ParkStops(ParkVerdict.MoreStops, stops.Count > 0 ? [one] : [], alone, drift);
        }

        var sorted = stops.Order().ToList();
        var cut = Enumerable.Range(1, stops.Count - 1).MinBy(c => Within(sorted.Take(c)) + Within(sorted.Skip(c)));
        var border = (sorted[cut - 1] + sorted[cut]) / 2;
        var (low, high) = (PlaceFrom([.. sorted.Take(cut)]), PlaceFrom([.. sorted.Skip(cut)]));
        const double Readable = 0.7;
        double n = stops.Count;
        var shared = Math.Max(Readable, Math.Sqrt((Within(sorted.Take(cut)) + Within(sorted.Skip(cut))) / n));
        var whole = Math.Max(Readable, Math.Sqrt(Within(sorted) / n));
        // Mean and spread against two means, their share and a spread.
        var forOne = 2 * n * Math.Log(whole) + Within(sorted) / (whole * whole) + 2 * Math.Log(n);
        var forTwo = 2 * n * Math.Log(shared) + (Within(sorted.Take(cut)) + Within(sorted.Skip(cut))) / (shared * shared)
            - 2 * (cut * Math.Log(cut / n) + (n - cut) * Math.Log((n - cut) / n)) + 4 * Math.Log(n);
        // Any wide band can be cut in two: two places have room between them, and nobody meets one of them once by chance.
        var apart = high.Mean - low.Mean > 4 * shared && cut >= 2 && n - cut >= 2;
        var creeps = Math.Abs(drift) * (n - 1) > 2 * SoundSpread && Correlation(stops) > 0.85;
        if (apart && forTwo < forOne && !creeps)
        {
            int[] placeOf = [.. stops.Select(s => s < border ? 0 : 1)];
            var inTurn = placeOf.Zip(placeOf.Skip(1)).Count(p => p.First != p.Second) >= n - 2;
            var sound = low.Spread <= SoundSpread && high.Spread <= SoundSpread;
            return new ParkStops(inTurn && sound && alternatingDrive != false ? ParkVerdict.Alternates : ParkVerdict.TwoPlaces, [low, high], placeOf, drift);
        }

        return new ParkStops(creeps ? ParkVerdict.Creeps : one.Spread > SoundSpread ? ParkVerdict.Scatters : ParkVerdict.Holds, [one], alone, drift);
    }

    private static StopPlace PlaceFrom(IReadOnlyList<double> stops) =>
        new(stops.Count, stops.Count > 0 ? stops.Average() : 0, stops.Count > 1 ? Math.Sqrt(Within(stops) / (stops.Count - 1)) : 0);

    private static double Within(IEnumerable<double> values)
    {
        var list = values.ToList();
        var mean = list.Count > 0 ? list.Average() : 0;
        return list.Sum(v => (v - mean) * (v - mean));
    }

    private static double Slope(IReadOnlyList<double> stops)
    {
        var middle = (stops.Count - 1) / 2.0;
        var square = stops.Select((_, i) => (i - middle) * (i - middle)).Sum();
        return square > 0 ? stops.Select((s, i) => (i - middle) * s).Sum() / square : 0;
    }

    private static double Correlation(IReadOnlyList<double> stops)
    {
        var middle = (stops.Count - 1) / 2.0;
        var squares = stops.Select((_, i) => (i - middle) * (i - middle)).Sum() * Within(stops);
        return squares > 0 ? Math.Abs(stops.Select((s, i) => (i - middle) * s).Sum()) / Math.Sqrt(squares) : 0;
    }
}
