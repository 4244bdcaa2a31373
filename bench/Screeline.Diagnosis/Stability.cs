using System.Diagnostics;
using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>How long a table takes to build, and how far beliefs move when there are four times the samples.</summary>
public static class Stability
{
    public static void Print(IReadOnlyList<FaultSystem> systems, Options options)
    {
        var (seed, samples) = (options.Seed, options.Samples);
        var setting = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);
        var moves = new List<double>();
        foreach (var system in systems)
        {
            FaultTable.Build(system, setting, samples);
            var times = Enumerable.Range(0, 9).Select(_ => Timed(() => FaultTable.Build(system, setting, samples))).Order().ToList();
            Console.WriteLine(FormattableString.Invariant($"{system.Id}: built in {times[4]:0} ms at the median of nine, {times[0]:0} to {times[8]:0}"));
            moves.AddRange(Moves(FaultTable.Build(system, setting, samples), FaultTable.Build(system, setting, 4 * samples), seed, options.Verbose));
        }

        moves.Sort();
        Console.WriteLine(FormattableString.Invariant($"{samples} against {4 * samples} samples, {moves.Count} beliefs: the repair that moved most moved by {moves[moves.Count / 2]:0.0000} at the median, {moves[moves.Count * 95 / 100]:0.000} at 95 %, {moves[moves.Count * 99 / 100]:0.000} at 99 %, {moves[^1]:0.000} at most; {100.0 * moves.Count(m => m > 0.02) / moves.Count:0.0} % by more than 0.02"));
    }

    private static IEnumerable<double> Moves(FaultTable few, FaultTable many, int seed, bool verbose)
    {
        var (one, other) = (new DiagnosisEngine(few), new DiagnosisEngine(many));
        for (var i = 0; i < 20; i++)
        {
            var vehicle = new BlindCase(many, unchecked(seed * 1000 + i) & int.MaxValue, null);
            var c = vehicle.Complaint();
            for (var k = 0; k < 7; k++)
            {
                var (a, b) = (one.BeliefsOf(c, ShopHistory.None), other.BeliefsOf(c, ShopHistory.None));
                var moved = a.ByRepair.Zip(b.ByRepair).Max(x => Math.Abs(x.First - x.Second));
                if (verbose && moved > 0.02)
                {
                    Console.WriteLine(FormattableString.Invariant($"  case {i}, {k} readings, moved {moved:0.000}: {string.Join("; ", c.Readings.Select(r => r.ToString()))}"));
                    foreach (var f in Enumerable.Range(0, a.ByFault.Length).Where(f => a.ByFault[f] > 0.01 || b.ByFault[f] > 0.01))
                    {
                        Console.WriteLine(FormattableString.Invariant($"    {few.System.Faults[f].Id} {a.ByFault[f]:0.000} {b.ByFault[f]:0.000}"));
                    }
                }

                yield return moved;
                if (other.Judge(new Inquiry(c)).Next.FirstOrDefault() is not { } next)
                {
                    break;
                }

                c = c with { Readings = [.. c.Readings, vehicle.Take(next.Test)] };
            }
        }
    }

    private static double Timed(Action act)
    {
        var watch = Stopwatch.StartNew();
        act();
        return watch.Elapsed.TotalMilliseconds;
    }
}
