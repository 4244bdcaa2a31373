using System.Diagnostics;
using System.Globalization;
using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

/// <summary>What the command line asks for.</summary>
public sealed record Options(int Cases, IReadOnlyList<int> Seeds, IReadOnlySet<string> Families, double Spice, double CapMinutes, bool Verbose, bool Fixed, bool Greedy)
{
    public int Seed => Seeds[0];

    public static Options Read(string[] args)
    {
        string Get(string name, string usual) => Array.IndexOf(args, name) is >= 0 and var i && i + 1 < args.Length ? args[i + 1] : usual;
        string[] List(string name, string usual) => Get(name, usual).Split(',', StringSplitOptions.RemoveEmptyEntries);
        static int Int(string s) => int.Parse(s, CultureInfo.InvariantCulture);
        static double Double(string s) => double.Parse(s, CultureInfo.InvariantCulture);
        return new Options(Int(Get("--cases", "500")), [.. List("--seed", "1").Select(Int)], List("--families", "").ToHashSet(), Double(Get("--spice", "0.02")), 180, args.Contains("--verbose"), !args.Contains("--no-fixed"), args.Contains("--greedy"));
    }
}

/// <summary>How one way of testing ended on one case.</summary>
public sealed record Outcome(Repair? Repair, Fault? Fault, bool Decided, double Minutes, int Tests, double Cost);

public sealed record CaseResult(Fault Truth, Outcome Proof, Outcome Fixed, Outcome Money, double CostAtOnce, double CostComplaint, IReadOnlyList<(double Top, bool Right, double[] All, int Truth)> Beliefs);

public sealed record FamilyReport(FaultSystem System, IReadOnlyList<CaseResult> Cases, double BuildMilliseconds, double UpdateMilliseconds, long TableBytes, int Unsolved, int Samples);

public static class FamilyRun
{
    public static FamilyReport Of(FaultSystem system, Options options, Spice? spice)
    {
        var settings = Settings(system);
        FaultTable.Build(system, settings[0]);
        var watch = Stopwatch.StartNew();
        var tables = settings.Select(s => FaultTable.Build(system, s)).ToList();
        var build = watch.Elapsed.TotalMilliseconds / tables.Count;
        var engines = tables.Select(t => new DiagnosisEngine(t)).ToList();
        var results = new CaseResult[options.Cases];
        Parallel.For(0, options.Cases, i =>
        {
            // Paired: both orders of testing meet the same vehicle with the same readings.
            var seed = HashCode(options.Seed, system.Id, i);
            var which = new Random(seed).Next(settings.Count);
            results[i] = Run(engines[which], seed, options, spice);
        });
        return new FamilyReport(system, results, build, UpdateTime(engines[0], options), tables.Max(t => t.Bytes), tables.Sum(t => t.Unsolved), tables.Sum(t => t.Samples));
    }

    // The vehicles of the run: 12 and 24 V, each choice stated, and one in three with nothing stated; from -20 to 40 °C.
    public static List<VehicleSetting> Settings(FaultSystem system)
    {
        VehicleSetting[] volts = [VehicleSetting.Usual.With(VehicleSetting.Volts, 12), VehicleSetting.Usual.With(VehicleSetting.Volts, 24)];
        Parameter[] choices = [.. system.VehicleParameters.Where(p => p.Choices.Count > 0)];
        var stated = Enumerable.Range(0, 2).SelectMany(k => volts.Select(v => choices.Aggregate(v, (s, p) => s.With(p.Id, Math.Min(k, p.Choices.Count - 1)))));
        return [.. stated.Concat(volts).SelectMany(s => new double[] { -20, 0, 20, 40 }.Select(c => s with { Celsius = c }))];
    }

    private static int HashCode(int seed, string family, int i) => family.Aggregate(unchecked(seed * 7919 + i), (hash, c) => unchecked(hash * 31 + c)) & int.MaxValue;

    private static CaseResult Run(DiagnosisEngine engine, int seed, Options options, Spice? spice)
    {
        var system = engine.Table.System;
        var money = Assumptions.Usual;
        BlindCase Fresh() => new(engine.Table, seed, spice);
        var beliefs = new List<(double, bool, double[], int)>();
        var truth = Fresh();
        var right = system.Repair(truth.Fault.Repair)!;
        double CostOf(Repair repair) => repair.Id == right.Id ? money.CostOf(right) : money.CostOf(repair) + money.Comeback + money.CostOf(right);

        var proof = Walk(Fresh(), engine, options, (judge, _) => judge.Decision.Act == Act.Proven ? judge.Decision.Repair : null, (judge, _) => options.Greedy ? Greedy(judge) : judge.Next.FirstOrDefault()?.Test, judge =>
        {
            var all = system.Repairs.Select(r => judge.Repairs.First(b => b.Repair == r).Probability).ToArray();
            beliefs.Add((judge.Repairs[0].Probability, judge.Repairs[0].Repair == right, all, system.Repairs.ToList().IndexOf(right)));
        });
        var order = options.Fixed ? FixedWalk(Fresh(), engine, options) : proof;
        var guess = Walk(Fresh(), engine, options, (judge, _) => judge.Decision.Act is Act.Proven or Act.Guess ? judge.Decision.Repair : null, (judge, _) => judge.Decision.Test, _ => { });
        var atOnce = CostOf(system.Repairs.First(r => r.IsMotor));
        var complaint = engine.Judge(new Inquiry(Fresh().Complaint())).Decision.Repair!;
        double Total(Outcome o, DiagnosisEngine e) => o.Minutes * money.LabourPerHour / 60 + CostOf(o.Repair ?? right);
        return new CaseResult(truth.Fault, proof with { Cost = Total(Acted(proof, engine), engine) }, order, guess with { Cost = Total(Acted(guess, engine), engine) }, atOnce, CostOf(complaint), beliefs);
    }

    // What would tell most by the minute at this moment; once a proof is in sight what it lacks.
    private static FaultTest? Greedy(Judgement judge) => judge.Next.FirstOrDefault(n => n.ForProof)?.Test ?? judge.Next.MaxBy(n => n.GainPerMinute)?.Test;

    // Undecided at the end of all tests: the likeliest is repaired.
    private static Outcome Acted(Outcome o, DiagnosisEngine engine) => o.Repair is not null ? o : o with { Repair = engine.Table.System.Repair(o.Fault!.Repair) };

    private static Outcome Walk(BlindCase vehicle, DiagnosisEngine engine, Options options, Func<Judgement, double, Repair?> stop, Func<Judgement, double, FaultTest?> choose, Action<Judgement> seen)
    {
        var c = vehicle.Complaint();
        var (minutes, done, at) = (0.0, new HashSet<string>(StringComparer.Ordinal), Whereabouts.Nowhere);
        while (true)
        {
            var judge = engine.Judge(new Inquiry(c, done, new Dictionary<string, double>(), ShopHistory.None, Assumptions.Usual) { At = options.Greedy ? Whereabouts.Nowhere : at });
            seen(judge);
            var repair = stop(judge, minutes);
            if (repair is not null || choose(judge, minutes) is not { } test || minutes >= options.CapMinutes)
            {
                if (options.Verbose && repair?.Id != vehicle.Fault.Repair && judge.Decision.Act != Act.Guess | repair is null)
                {
                    Tell(vehicle, judge, c, minutes);
                }

                return new Outcome(repair, judge.Beliefs[0].Fault, repair is not null, minutes, c.Readings.Count, 0);
            }

            minutes += Charge(engine.Table.System, test, done, ref at);
            c = c with { Readings = [.. c.Readings, vehicle.Take(test)] };
        }
    }

    private static void Tell(BlindCase vehicle, Judgement judge, FindCase c, double minutes) =>
        Console.WriteLine(FormattableString.Invariant($"truth {vehicle.Fault.Id} (shows {vehicle.Cold:0.00} cold, {vehicle.Hot:0.00} hot), {judge.Decision.Act} after {minutes:0} min; {string.Join(", ", judge.Beliefs.Take(4).Select(b => FormattableString.Invariant($"{b.Fault.Id} {b.Probability:0.000}")))}; proof {string.Concat(judge.Proof.Proof.Select(l => l.State.ToString()[0]))}; {c.Failed} of {c.Tried}, {string.Join(' ', c.Behaviours)}; {string.Join(", ", c.Readings.Select(r => $"{r.Test} {r.Value?.ToString() ?? r.Choice}"))}"));

    // The order of the trade's tables, ended by the same proof rule.
    private static Outcome FixedWalk(BlindCase vehicle, DiagnosisEngine engine, Options options)
    {
        var c = vehicle.Complaint();
        var (minutes, done, at) = (0.0, new HashSet<string>(StringComparer.Ordinal), Whereabouts.Nowhere);
        foreach (var test in engine.Table.System.Tests.Where(t => !t.Complaint).Cast<FaultTest?>().Append(null))
        {
            var repair = engine.Proven(new Inquiry(c));
            if (repair is not null || test is null || minutes >= options.CapMinutes)
            {
                return new Outcome(repair, null, repair is not null, minutes, c.Readings.Count, 0);
            }

            minutes += Charge(engine.Table.System, test, done, ref at);
            c = c with { Readings = [.. c.Readings, vehicle.Take(test)] };
            if (test.Unit is not null && c.Good(test.Id) == false)
            {
                // What is bad is read again, as it would be by the rounds.
                minutes += Math.Min(1, at.MinutesOf(test));
                c = c with { Readings = [.. c.Readings, vehicle.Take(test)] };
            }
        }

        throw new InvalidOperationException();
    }

    // What a test costs from where one is, for whoever takes it: the place, the helper and what was opened stay.
    private static double Charge(FaultSystem system, FaultTest test, HashSet<string> done, ref Whereabouts at)
    {
        var minutes = new Tour(system, new Dictionary<string, double>()).MinutesOf(at, done, [test]);
        done.UnionWith(TestAccess.Wanted(system, test, done));
        at = at.After(test);
        return minutes;
    }

    private static double UpdateTime(DiagnosisEngine engine, Options options)
    {
        var vehicle = new BlindCase(engine.Table, options.Seed, null);
        var c = vehicle.Complaint();
        c = c with { Readings = [.. engine.Table.System.Tests.Where(t => !t.Complaint).Take(8).Select(vehicle.Take)] };
        engine.Judge(new Inquiry(c));
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < 20; i++)
        {
            engine.Judge(new Inquiry(c));
        }

        return watch.Elapsed.TotalMilliseconds / 20;
    }
}
