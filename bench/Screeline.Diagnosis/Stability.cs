using System.Diagnostics;
using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>
/// How long a table takes to build, and in how many cases the leader changes with four times the samples. Cases are followed once, by
/// the table of many samples.
/// </summary>
public static class Stability
{
    // Of each seed and family, and readings of each at most.
    private const int Cases = 20;
    private const int Readings = 6;

    // A leader that was ahead by less may change.
    private const double Ahead = 0.1;

    // A case as far as it was read, and what is then believed by the table of many samples.
    private sealed record Followed(FindCase At, Beliefs By);

    public static void Print(IReadOnlyList<FaultSystem> systems, Options options)
    {
        var (all, changed, moves) = (0, 0, new List<double>());
        foreach (var system in systems)
        {
            var usual = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);
            FaultTable.Build(system, usual);
            var times = Enumerable.Range(0, 9).Select(_ => Timed(() => FaultTable.Build(system, usual))).Order().ToList();
            var (few, many) = (new DiagnosisEngine(FaultTable.Build(system, usual)), new DiagnosisEngine(FaultTable.Build(system, usual, 4 * FaultTable.Vehicles)));
            var followed = options.Seeds.SelectMany(seed => Enumerable.Range(0, Cases).Select(i => unchecked(seed * 1000 + i) & int.MaxValue)).AsParallel().AsOrdered().SelectMany(own => Follow(many, own)).ToList();
            var (own, led) = (0, 0);
            foreach (var f in followed)
            {
                var (a, b) = (few.BeliefsOf(f.At, ShopHistory.None).ByRepair, f.By.ByRepair);
                moves.Add(a.Zip(b).Max(x => Math.Abs(x.First - x.Second)));
                var (first, second) = (a.Max(), a.OrderDescending().ElementAt(1));
                led += first - second >= Ahead ? 1 : 0;
                own += first - second >= Ahead && Array.IndexOf(a, first) != Array.IndexOf(b, b.Max()) ? 1 : 0;
            }

            (all, changed) = (all + led, changed + own);
            Console.WriteLine(FormattableString.Invariant($"{system.Id}: built in {times[4]:0} ms at the median of nine, {times[0]:0} to {times[8]:0}; of {led} leaders ahead by {Ahead} {own} change with four times the samples"));
        }

        moves.Sort();
        Console.WriteLine(FormattableString.Invariant($"{changed} of {all} leaders change ({100.0 * changed / all:0.0} %); the repair that moved most moved by {moves[moves.Count / 2]:0.000} at the median, {moves[moves.Count * 95 / 100]:0.000} at 95 %, {moves[^1]:0.000} at most"));
    }

    private static IEnumerable<Followed> Follow(DiagnosisEngine many, int own)
    {
        var vehicle = new BlindCase(many.Table, own, null);
        var c = vehicle.Complaint();
        while (true)
        {
            yield return new Followed(c, many.BeliefsOf(c, ShopHistory.None));
            if (c.Readings.Count == Readings || many.Judge(new Inquiry(c)).Next.FirstOrDefault()?.Test is not { } next)
            {
                yield break;
            }

            c = c with { Readings = [.. c.Readings, vehicle.Take(next)] };
        }
    }

    private static double Timed(Action act)
    {
        var watch = Stopwatch.StartNew();
        act();
        return watch.Elapsed.TotalMilliseconds;
    }
}
