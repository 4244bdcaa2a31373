using System.Diagnostics;
using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>How long a table takes to build, and how far beliefs move when there are four times the samples.</summary>
public static class Stability
{
    public static void Print(IReadOnlyList<FaultSystem> systems, int seed)
    {
        var setting = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);
        var moves = new List<double>();
        foreach (var system in systems)
        {
            FaultTable.Build(system, setting);
            var times = Enumerable.Range(0, 9).Select(_ => Timed(() => FaultTable.Build(system, setting))).Order().ToList();
            Console.WriteLine(FormattableString.Invariant($"{system.Id}: built in {times[4]:0} ms at the median of nine, {times[0]:0} to {times[8]:0}"));
            moves.AddRange(Moves(FaultTable.Build(system, setting), FaultTable.Build(system, setting, 4 * FaultTable.UsualSamples), seed));
        }

        moves.Sort();
        Console.WriteLine(FormattableString.Invariant($"{FaultTable.UsualSamples} against {4 * FaultTable.UsualSamples} samples, {moves.Count} beliefs: the repair that moved most moved by {moves[moves.Count / 2]:0.0000} at the median, {moves[moves.Count * 95 / 100]:0.000} at 95 %, {moves[moves.Count * 99 / 100]:0.000} at 99 %, {moves[^1]:0.000} at most; {100.0 * moves.Count(m => m > 0.02) / moves.Count:0.0} % by more than 0.02"));
    }

    private static IEnumerable<double> Moves(FaultTable few, FaultTable many, int seed)
    {
        var (one, other) = (new DiagnosisEngine(few), new DiagnosisEngine(many));
        for (var i = 0; i < 20; i++)
        {
            var vehicle = new BlindCase(many, unchecked(seed * 1000 + i) & int.MaxValue, null);
            var c = vehicle.Complaint();
            for (var k = 0; k < 7; k++)
            {
                yield return one.BeliefsOf(c, ShopHistory.None).ByRepair.Zip(other.BeliefsOf(c, ShopHistory.None).ByRepair).Max(x => Math.Abs(x.First - x.Second));
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
