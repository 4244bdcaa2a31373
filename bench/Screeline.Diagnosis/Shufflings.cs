using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>Which shuffling of the sampled vehicles gives the shares of answers and of blown fuses that very many samples give.</summary>
public static class Shufflings
{
    // Shares between a thousandth and all but a thousandth; half a per cent is little to either side.
    private const double Least = 0.001, Little = 0.005;

    private static readonly VehicleSetting Usual = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);

    public static void Print(IReadOnlyList<FaultSystem> systems, int levels, int count)
    {
        var truth = systems.Select(s => SharesOf(s, new Sampling(29, 29))).ToList();
        var errors = Enumerable.Range(1, count).Select(seed =>
        {
            var away = systems.SelectMany((s, k) => Away(truth[k], SharesOf(s, new Sampling(levels, levels, seed)))).ToList();
            return (Seed: seed, Mean: Math.Sqrt(away.Average(e => e * e)), Most: away.Max(Math.Abs));
        }).OrderBy(e => e.Mean).ToList();
        foreach (var (seed, mean, most) in errors.Take(8).Append(errors.First(e => e.Seed == Math.Min(count, Sampling.ShufflingOf(levels)))))
        {
            Console.WriteLine(FormattableString.Invariant($"{levels} levels, shuffling {seed}: logarithms of shares off by {mean:0.000} in the root mean square, {most:0.000} at most"));
        }

        Console.WriteLine(FormattableString.Invariant($"{count} shufflings: {errors.Average(e => e.Mean):0.000} and {errors.Average(e => e.Most):0.000} on the average"));
    }

    private static IEnumerable<double> Away(Dictionary<(int, int, int), double> truth, Dictionary<(int, int, int), double> own) =>
        from t in truth where t.Value is > Least and < 1 - Least select Math.Log((own.GetValueOrDefault(t.Key) + Little) / (t.Value + Little));

    // By fault, test and answer; blown fuses by how often they are, under test -1.
    private static Dictionary<(int, int, int), double> SharesOf(FaultSystem system, Sampling sampling)
    {
        var table = FaultTable.Build(system, Usual, sampling);
        var shares = new Dictionary<(int, int, int), double>();
        foreach (var (samples, f) in table.Samples.Select((s, f) => (s, f)).Where(x => x.s.Count > 0))
        {
            var whole = Enumerable.Range(0, samples.Count).Where(i => samples.Solved[i]).Sum(i => (double)samples.Weights[i]);
            foreach (var t in Enumerable.Range(0, system.Tests.Count).Where(t => system.Tests[t].Unit is null))
            {
                foreach (var answer in Enumerable.Range(0, samples.Count).Where(i => samples.Solved[i]).GroupBy(i => samples.Decided(t)[i]))
                {
                    shares[(f, t, answer.Key)] = answer.Sum(i => (double)samples.Weights[i]) / whole;
                }
            }

            foreach (var (share, k) in table.Densities[f].Select(d => d.Share).OrderDescending().Select((s, k) => (s, k)))
            {
                shares[(f, -1, k)] = share;
            }
        }

        return shares;
    }
}
