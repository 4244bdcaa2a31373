using MathNet.Numerics.Distributions;
using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>
/// Which shuffling of the sampled vehicles tells what very many vehicles tell: how far the densities of the faults that are sampled
/// at these levels are off, as far as it moves likelihoods. Fourth powers are averaged, not squares: one figure that is far off moves
/// beliefs, many that are a little off do not.
/// </summary>
public static class Shufflings
{
    // A reading two deviations off: its likelihood changes by twice the mean's error, and by four times that of the deviation.
    private const double Off = 2;

    // The width of a reading's error, in standard errors of the instrument, as beliefs take it.
    private const double Error = 3;

    // Shares that are told as they were counted.
    private const double Rarest = 0.01;

    private static readonly VehicleSetting Usual = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);

    private static readonly string[] Kinds = ["readings", "pairs of readings", "answers", "sets of fuses"];

    public static void Print(IReadOnlyList<FaultSystem> systems, int levels, int count)
    {
        var truth = systems.Select(s => FaultTable.Build(s, Usual, new Sampling(29, 29))).ToList();
        // By family: the faults that are sampled at these levels.
        var which = systems.Select(s => FaultTable.Build(s, Usual) is var table ? Enumerable.Range(0, s.Faults.Count).Where(f => table.Samples[f].Vehicles.Distinct().Count() == levels * levels * levels).ToArray() : []).ToList();
        var scores = Enumerable.Range(1, count).Select(seed =>
        {
            var away = systems.SelectMany((s, k) => FaultTable.Build(s, Usual, new Sampling(levels, levels, seed)) is var own ? which[k].SelectMany(f => Away(own, truth[k], f)) : []).ToLookup(a => a.Kind, a => a.By);
            double[] byKind = [.. Kinds.Select((_, kind) => Math.Pow(away[kind].Select(a => a * a * a * a).DefaultIfEmpty().Average(), 0.25))];
            return (Seed: seed, Mean: Math.Sqrt(byKind.Sum(k => k * k)), byKind, Most: away.SelectMany(a => a).Max(Math.Abs));
        }).OrderBy(s => s.Mean).ToList();
        foreach (var (seed, mean, byKind, most) in scores.Take(8).Append(scores.First(s => s.Seed == Math.Min(count, Sampling.ShufflingOf(levels)))))
        {
            Console.WriteLine(FormattableString.Invariant($"{levels} levels, shuffling {seed}: logarithms of likelihoods off by {mean:0.0000} ({string.Join(", ", Kinds.Zip(byKind, (kind, by) => FormattableString.Invariant($"{kind} {by:0.0000}")))}), {most:0.000} at most"));
        }

        Console.WriteLine(FormattableString.Invariant($"{count} shufflings: {scores.Average(s => s.Mean):0.0000} and {scores.Average(s => s.Most):0.000} on the average"));
    }

    // What of a fault is told otherwise. What is seldom so weighs less.
    private static IEnumerable<(int Kind, double By)> Away(FaultTable own, FaultTable truth, int fault)
    {
        var readings = Enumerable.Range(0, own.System.Tests.Count).Where(t => own.System.Tests[t].Unit is not null).ToArray();
        var margins = Enumerable.Range(own.System.Tests.Count, own.Variables - own.System.Tests.Count).ToArray();
        foreach (var (a, b) in own.Densities[fault].OrderByDescending(d => d.Share).Zip(truth.Densities[fault].OrderByDescending(d => d.Share)))
        {
            yield return (3, Math.Log(a.Share / b.Share));
            var weight = Math.Sqrt(b.Share);
            foreach (var t in readings.Where(t => b.Covariance(t, t) > 1))
            {
                yield return (0, weight * Off * (a.Mean(t) - b.Mean(t)) / Deviation(b, t));
                yield return (0, weight * Off * Off * Math.Log(Deviation(a, t) / Deviation(b, t)));
                foreach (var other in readings.Where(o => o < t && b.Covariance(o, o) > 1))
                {
                    yield return (1, weight * Off * (a.Covariance(t, other) / (Deviation(a, t) * Deviation(a, other)) - b.Covariance(t, other) / (Deviation(b, t) * Deviation(b, other))));
                }
            }

            foreach (var m in margins)
            {
                if (Share(b, m) is var share and > 1.02 * Rarest and < 1 - 1.02 * Rarest)
                {
                    yield return (2, weight * Math.Log(Share(a, m) / share));
                }
            }
        }

        static double Deviation(FaultDensity d, int reading) => Math.Sqrt(d.Covariance(reading, reading) + Error * Error);
        static double Share(FaultDensity d, int margin) => Normal.CDF(0, Math.Sqrt(d.Covariance(margin, margin)), d.Mean(margin));
    }
}
