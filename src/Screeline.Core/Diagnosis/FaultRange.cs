namespace Screeline.Core.Diagnosis;

/// <summary>
/// How densely a fault's range is sampled. A corroded joint's resistance runs over five orders of magnitude and most of them read
/// alike; places lie denser where readings change and answers turn, and a sample weighs as much less (importance sampling;
/// Kahn and Marshall 1953, from memory).
/// </summary>
public sealed class FaultRange
{
    // What is kept for parts where the usual vehicle shows no change: others may.
    private const double Everywhere = 0.4;

    // Over so many parts to either side what was seen is spread.
    private const int Beside = 2;

    // A change of so many standard errors is as good as any larger one.
    private const double Plain = 10;

    private readonly double[] _densities;
    private readonly double _whole;

    private FaultRange(double[] densities) => (_densities, _whole) = (densities, densities.Sum());

    /// <summary>Measures the density.</summary>
    /// <param name="numbers">By place, evenly from one end of the range to the other: what numbers would read, in standard errors.</param>
    /// <param name="answers">By place: what answers would be given.</param>
    public static FaultRange Of(IReadOnlyList<double[]> numbers, IReadOnlyList<byte[]> answers)
    {
        var parts = Enumerable.Range(0, numbers.Count - 1).ToArray();
        var change = Shares([.. parts.Select(k => numbers[k].Zip(numbers[k + 1]).Sum(x => Math.Min(1, Math.Abs(x.First - x.Second) / Plain)))]);
        var turns = Shares([.. parts.Select(k => answers[k].SequenceEqual(answers[k + 1]) ? 0.0 : 1)]);
        double Both(int k) => (change[k] + turns[k]) / 2;
        // Where it changes is not the same for all vehicles: the parts beside it get some as well.
        return new FaultRange([.. parts.Select(k => Everywhere + (1 - Everywhere) * (Both(Math.Max(0, k - 1)) + 2 * Both(k) + Both(Math.Min(parts.Length - 1, k + 1))) / 4)]);
    }

    /// <summary>
    /// The same range, sampled as densely where something rare was seen as where the usual vehicle changes: what turns in the usual
    /// vehicle is not what turns in one at the ends of its ranges.
    /// </summary>
    /// <param name="rare">Places at which it was seen, 0 to 1, and how much each counts. Where none was, the range stays as it is.</param>
    public FaultRange Toward(IReadOnlyList<(double Place, double Weight)> rare)
    {
        if (rare.Count == 0)
        {
            return this;
        }

        var last = _densities.Length - 1;
        var seen = new double[_densities.Length];
        foreach (var (place, weight) in rare)
        {
            seen[Math.Min(last, (int)(place * seen.Length))] += weight;
        }

        // Few were seen: others will lie beside them.
        double About(int part)
        {
            var (sum, whole) = (0.0, 0.0);
            for (var k = Math.Max(0, part - Beside); k <= Math.Min(last, part + Beside); k++)
            {
                var weight = Beside + 1 - Math.Abs(k - part);
                (sum, whole) = (sum + weight * seen[k], whole + weight);
            }

            return sum / whole;
        }

        var about = Shares([.. Enumerable.Range(0, seen.Length).Select(About)]);
        return new FaultRange([.. _densities.Select((d, k) => (d + Everywhere + (1 - Everywhere) * about[k]) / 2)]);
    }

    /// <summary>The place in the range, and how many evenly drawn samples one there stands for.</summary>
    /// <param name="place">0 to 1, as drawn.</param>
    public (double Place, double Weight) At(double place)
    {
        var left = place * _whole;
        var part = 0;
        while (part < _densities.Length - 1 && left > _densities[part])
        {
            left -= _densities[part++];
        }

        return ((part + Math.Min(1, left / _densities[part])) / _densities.Length, _whole / _densities.Length / _densities[part]);
    }

    // Against their mean; where there is none, as many everywhere.
    private static double[] Shares(double[] values) => values.Sum() is > 0 and var sum ? [.. values.Select(v => v * values.Length / sum)] : [.. values.Select(_ => 1.0)];
}
