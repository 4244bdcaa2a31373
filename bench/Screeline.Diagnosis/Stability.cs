using System.Diagnostics;
using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>
/// How long a table takes to build, and how far beliefs move when there are more than four times the samples. Cases are followed once,
/// by the table of many samples; several shufflings of the few may be held against it.
/// </summary>
public static class Stability
{
    // Of each seed and family, and readings of each at most.
    private const int Cases = 20;
    private const int Readings = 6;

    private const double Wanted = 0.02;

    // Beliefs that are named because they moved most.
    private const int Named = 4;

    // A case as far as it was read, and what is then believed by the table of many samples.
    private sealed record Followed(int Seed, int Case, FindCase At, Beliefs By);

    private sealed record Move(string Where, int Seed, double By);

    public static void Print(IReadOnlyList<FaultSystem> systems, Options options)
    {
        var sampling = options.Sampling;
        var four = new Sampling(More(sampling.Coarse), More(sampling.Fine));
        var moves = options.Shufflings.ToDictionary(s => s, _ => new List<Move>());
        foreach (var system in systems)
        {
            var usual = FamilyRun.Settings(system)[0];
            FaultTable.Build(system, usual, sampling);
            var times = Enumerable.Range(0, 9).Select(_ => Timed(() => FaultTable.Build(system, usual, sampling))).Order().ToList();
            Console.WriteLine(FormattableString.Invariant($"{system.Id}: built in {times[4]:0} ms at the median of nine, {times[0]:0} to {times[8]:0}"));
            foreach (var vehicle in options.Vehicles ? FamilyRun.Settings(system) : [usual])
            {
                var many = new DiagnosisEngine(FaultTable.Build(system, vehicle, four));
                var cases = options.Seeds.SelectMany(seed => Enumerable.Range(0, Cases).Select(i => (Seed: seed, Case: i)));
                var followed = cases.AsParallel().AsOrdered().SelectMany(c => Follow(many, c.Seed, c.Case, options)).ToList();
                foreach (var (shuffling, own) in moves)
                {
                    var few = new DiagnosisEngine(FaultTable.Build(system, vehicle, shuffling));
                    own.AddRange(followed.AsParallel().AsOrdered().Select(f => Moved(few, f, options)));
                }
            }
        }

        foreach (var (shuffling, own) in moves)
        {
            foreach (var seed in own.GroupBy(m => m.Seed).Where(_ => options.Seeds.Count > 1 && moves.Count == 1))
            {
                Tell($"seed {seed.Key}", [.. seed]);
            }

            Tell(FormattableString.Invariant($"{Cube(shuffling.Coarse)} (shuffling {shuffling.CoarseShuffling ?? Sampling.ShufflingOf(shuffling.Coarse)}) and {Cube(shuffling.Fine)} ({shuffling.FineShuffling ?? Sampling.ShufflingOf(shuffling.Fine)}) against {Cube(four.Coarse)} and {Cube(four.Fine)} samples"), own);
            Console.WriteLine($"  most: {string.Join("; ", own.OrderByDescending(m => m.By).Take(Named).Select(m => FormattableString.Invariant($"{m.Where} {m.By:0.000}")))}");
        }
    }

    private static void Tell(string what, List<Move> moves)
    {
        double[] by = [.. moves.Select(m => m.By).Order()];
        Console.WriteLine(FormattableString.Invariant($"{what}, {by.Length} beliefs: the repair that moved most moved by {by[by.Length / 2]:0.0000} at the median, {by[by.Length * 95 / 100]:0.000} at 95 %, {by[by.Length * 99 / 100]:0.000} at 99 %, {by[^1]:0.000} at most; {by.Count(m => m > Wanted / 2)} by more than {Wanted / 2}, {by.Count(m => m > Wanted)} by more than {Wanted}"));
    }

    private static IEnumerable<Followed> Follow(DiagnosisEngine many, int seed, int number, Options options)
    {
        var own = unchecked(seed * 1000 + number) & int.MaxValue;
        var (vehicle, any) = (new BlindCase(many.Table, own, null), new Random(own));
        var c = vehicle.Complaint();
        while (true)
        {
            yield return new Followed(seed, number, c, many.BeliefsOf(c, ShopHistory.None));
            if (c.Readings.Count == Readings || (options.Any ? Any(c, any) : many.Judge(new Inquiry(c)).Next.FirstOrDefault()?.Test) is not { } next)
            {
                yield break;
            }

            c = c with { Readings = [.. c.Readings, vehicle.Take(next)] };
        }
    }

    private static Move Moved(DiagnosisEngine few, Followed followed, Options options)
    {
        var (a, b) = (few.BeliefsOf(followed.At, ShopHistory.None), followed.By);
        var moved = a.ByRepair.Zip(b.ByRepair).Max(x => Math.Abs(x.First - x.Second));
        var system = few.Table.System;
        var where = $"{system.Id} {string.Join(" ", few.Table.Setting.Stated.Select(x => $"{x.Key}={x.Value}"))}, seed {followed.Seed}, case {followed.Case}, {followed.At.Readings.Count} readings";
        if (options.Verbose && moved > Wanted)
        {
            var faults = Enumerable.Range(0, a.ByFault.Length).Where(f => a.ByFault[f] > 0.01 || b.ByFault[f] > 0.01).Select(f => FormattableString.Invariant($"{Environment.NewLine}    {system.Faults[f].Id} {a.ByFault[f]:0.000} {b.ByFault[f]:0.000}"));
            Console.WriteLine(FormattableString.Invariant($"  {where}, moved {moved:0.000}: {string.Join("; ", followed.At.Readings.Select(r => r.ToString()))}{string.Concat(faults)}"));
        }

        return new Move(where, followed.Seed, moved);
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
