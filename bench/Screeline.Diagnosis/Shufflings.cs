using MathNet.Numerics.Distributions;
using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>
/// Which shuffling of the sampled vehicles tells what very many vehicles tell: how far the densities of the faults that are sampled
/// at a level are off, as far as it moves likelihoods. Fourth powers are averaged, not squares: one figure that is far off moves
/// beliefs, many that are a little off do not.
/// </summary>
public static class Shufflings
{
    // The width of a reading's error, in standard errors of the instrument, as beliefs take it.
    private const double Error = 3;

    // Shares that are told as they were counted.
    private const double Rarest = 0.01;

    // Levels of what is taken for the truth: 24,389 vehicles.
    private const int Truth = 29;

    private static readonly VehicleSetting Usual = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);

    private static readonly string[] Kinds = ["readings", "pairs of readings", "answers", "sets of fuses", "answers after readings"];

    public static void Print(IReadOnlyList<FaultSystem> systems, Options options, bool isCoarse, int count)
    {
        var sampling = options.Sampling;
        // Where something is rare is seen in the coarse vehicles (FaultSampler): by the same ones in what is taken for the truth.
        var level = isCoarse ? sampling.Coarse : sampling.Fine;
        var truths = systems.Select(s => FaultTable.Build(s, Usual, isCoarse ? new Sampling(Truth, Truth) : sampling with { Fine = Truth })).ToList();
        var scores = Enumerable.Range(1, count).Select(seed =>
        {
            var tables = systems.Select(s => FaultTable.Build(s, Usual, isCoarse ? sampling with { CoarseShuffling = seed } : sampling with { FineShuffling = seed }));
            var off = tables.Zip(truths, (own, truth) => SampledBy(level, own).SelectMany(f => Away(own, truth, f, options.Deviations))).SelectMany(o => o).ToLookup(o => o.Kind, o => o.By);
            double[] byKind = [.. Kinds.Select((_, kind) => Math.Pow(off[kind].Select(o => o * o * o * o).DefaultIfEmpty().Average(), 0.25))];
            return (Seed: seed, Mean: Math.Sqrt(byKind.Sum(k => k * k)), byKind, Most: off.SelectMany(o => o).Max(Math.Abs));
        }).OrderBy(s => s.Mean).ToList();
        foreach (var (seed, mean, byKind, most) in scores.Take(8).Concat(scores.Skip(8).Where(s => s.Seed == Sampling.ShufflingOf(level))))
        {
            Console.WriteLine(FormattableString.Invariant($"{level} levels, shuffling {seed}: logarithms of likelihoods off by {mean:0.0000} ({string.Join(", ", Kinds.Zip(byKind, (kind, by) => FormattableString.Invariant($"{kind} {by:0.0000}")))}), {most:0.000} at most"));
        }

        Console.WriteLine(FormattableString.Invariant($"{count} shufflings: {scores.Average(s => s.Mean):0.0000} and {scores.Average(s => s.Most):0.000} on the average"));
    }

    // The faults that were sampled at a level.
    private static IEnumerable<int> SampledBy(int level, FaultTable table) =>
        Enumerable.Range(0, table.System.Faults.Count).Where(f => table.Samples[f].Vehicles.Distinct().Count() == level * level * level);

    // What of a fault is told otherwise. What is seldom so weighs less. Where a reading is two deviations off, its likelihood changes by
    // twice the mean's error, and by four times that of the deviation.
    private static IEnumerable<(int Kind, double By)> Away(FaultTable own, FaultTable truth, int fault, double off)
    {
        var readings = Enumerable.Range(0, own.System.Tests.Count).Where(t => own.System.Tests[t].Unit is not null).ToArray();
        var margins = Enumerable.Range(own.System.Tests.Count, own.Variables - own.System.Tests.Count).ToArray();
        foreach (var (a, b) in own.Densities[fault].OrderByDescending(d => d.Share).Zip(truth.Densities[fault].OrderByDescending(d => d.Share)))
        {
            yield return (3, Math.Log(a.Share / b.Share));
            var weight = Math.Sqrt(b.Share);
            foreach (var t in readings.Where(t => b.Covariance(t, t) > 1))
            {
                yield return (0, weight * off * (a.Mean(t) - b.Mean(t)) / Deviation(b, t));
                yield return (0, weight * off * off * Math.Log(Deviation(a, t) / Deviation(b, t)));
                foreach (var other in readings.Where(o => o < t && b.Covariance(o, o) > 1))
                {
                    yield return (1, weight * off * (a.Covariance(t, other) / (Deviation(a, t) * Deviation(a, other)) - b.Covariance(t, other) / (Deviation(b, t) * Deviation(b, other))));
                }
            }

            foreach (var m in margins)
            {
                if (Share(b, m) is var share and > 1.02 * Rarest and < 1 - 1.02 * Rarest)
                {
                    yield return (2, weight * Math.Log(Share(a, m) / share));
                    // A reading moves the margin, and the logarithm of the share by the inverse of Mills's ratio as much.
                    var (by, deviation, its) = (off * Normal.PDF(0, 1, Normal.InvCDF(0, 1, share)) / share, Math.Sqrt(a.Covariance(m, m)), Math.Sqrt(b.Covariance(m, m)));
                    foreach (var t in readings.Where(t => b.Covariance(t, t) > 1))
                    {
                        yield return (4, weight * by * (a.Covariance(m, t) / (deviation * Deviation(a, t)) - b.Covariance(m, t) / (its * Deviation(b, t))));
                    }
                }
            }
        }

        static double Deviation(FaultDensity d, int reading) => Math.Sqrt(d.Covariance(reading, reading) + Error * Error);
        static double Share(FaultDensity d, int margin) => Normal.CDF(0, Math.Sqrt(d.Covariance(margin, margin)), d.Mean(margin));
    }
}
