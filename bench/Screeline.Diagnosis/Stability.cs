using System.Diagnostics;
using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>How long a table takes to build, and how far beliefs move when there are more than four times the samples.</summary>
public static class Stability
{
    public static void Print(IReadOnlyList<FaultSystem> systems, Options options)
    {
        var sampling = options.Sampling;
        var setting = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);
        var four = new Sampling(More(sampling.Coarse), More(sampling.Fine));
        var bySeed = options.Seeds.ToDictionary(s => s, _ => new List<double>());
        foreach (var system in systems)
        {
            FaultTable.Build(system, setting, sampling);
            var times = Enumerable.Range(0, 9).Select(_ => Timed(() => FaultTable.Build(system, setting, sampling))).Order().ToList();
            Console.WriteLine(FormattableString.Invariant($"{system.Id}: built in {times[4]:0} ms at the median of nine, {times[0]:0} to {times[8]:0}"));
            foreach (var vehicle in options.Vehicles ? FamilyRun.Settings(system) : [setting])
            {
                FaultTable few = FaultTable.Build(system, vehicle, sampling), many = FaultTable.Build(system, vehicle, four);
                Parallel.ForEach(options.Seeds, seed => bySeed[seed].AddRange(Moves(few, many, seed, options)));
            }
        }

        foreach (var (seed, own) in bySeed.Where(_ => bySeed.Count > 1))
        {
            Tell($"seed {seed}", own);
        }

        Tell(FormattableString.Invariant($"{Cube(sampling.Coarse)} and {Cube(sampling.Fine)} against {Cube(four.Coarse)} and {Cube(four.Fine)} samples"), [.. bySeed.Values.SelectMany(m => m)]);
    }

    private static void Tell(string what, List<double> moves)
    {
        moves.Sort();
        Console.WriteLine(FormattableString.Invariant($"{what}, {moves.Count} beliefs: the repair that moved most moved by {moves[moves.Count / 2]:0.0000} at the median, {moves[moves.Count * 95 / 100]:0.000} at 95 %, {moves[moves.Count * 99 / 100]:0.000} at 99 %, {moves[^1]:0.000} at most; {moves.Count(m => m > 0.02)} by more than 0.02"));
    }

    private static IEnumerable<double> Moves(FaultTable few, FaultTable many, int seed, Options options)
    {
        var (one, other) = (new DiagnosisEngine(few), new DiagnosisEngine(many));
        for (var i = 0; i < 20; i++)
        {
            var vehicle = new BlindCase(many, unchecked(seed * 1000 + i) & int.MaxValue, null);
            var any = new Random(unchecked(seed * 1000 + i) & int.MaxValue);
            var c = vehicle.Complaint();
            for (var k = 0; k < 7; k++)
            {
                var (a, b) = (one.BeliefsOf(c, ShopHistory.None), other.BeliefsOf(c, ShopHistory.None));
                var moved = a.ByRepair.Zip(b.ByRepair).Max(x => Math.Abs(x.First - x.Second));
                if (options.Verbose && moved > 0.02)
                {
                    Console.WriteLine(FormattableString.Invariant($"  {few.System.Id} {string.Join(" ", few.Setting.Stated.Select(x => $"{x.Key}={x.Value}"))}, seed {seed}, case {i}, {k} readings, moved {moved:0.000}: {string.Join("; ", c.Readings.Select(r => r.ToString()))}"));
                    foreach (var f in Enumerable.Range(0, a.ByFault.Length).Where(f => a.ByFault[f] > 0.01 || b.ByFault[f] > 0.01))
                    {
                        Console.WriteLine(FormattableString.Invariant($"    {few.System.Faults[f].Id} {a.ByFault[f]:0.000} {b.ByFault[f]:0.000}"));
                    }
                }

                yield return moved;
                if ((options.Any ? Any(c, any) : other.Judge(new Inquiry(c)).Next.FirstOrDefault()?.Test) is not { } next)
                {
                    break;
                }

                c = c with { Readings = [.. c.Readings, vehicle.Take(next)] };
            }
        }
    }

    // A technician may take another test than the one that is proposed.
    private static FaultTest? Any(FindCase c, Random random)
    {
        FaultTest[] left = [.. c.System.Tests.Where(t => !t.Complaint && c.Readings.All(r => r.Test != t.Id))];
        return left.Length == 0 ? null : left[random.Next(left.Length)];
    }

    private static int Cube(int levels) => levels * levels * levels;

    // Of the odd primes the first whose cube is at least four times as many.
    private static int More(int levels) => Enumerable.Range(levels + 1, 4 * levels).First(l => Cube(l) >= 4 * Cube(levels) && Enumerable.Range(2, l - 2).All(d => l % d != 0));

    private static double Timed(Action act)
    {
        var watch = Stopwatch.StartNew();
        act();
        return watch.Elapsed.TotalMilliseconds;
    }
}
