using Screeline.Core.Diagnosis;
using Screeline.Core.Quantities;
using Screeline.Diagnosis;

namespace Screeline.Core.Tests;

/// <summary>What a master would hold against the engine, over all families: Ohm's law first, open is open, sums close, and no more proven than was seen.</summary>
public sealed class PrincipleTests
{
    private static readonly double[] Temperatures = [-20, 10, 40];

    private static readonly Dictionary<(string, int, double), Lazy<DiagnosisEngine>> Engines = (
        from s in JobStory.Library.Systems from volts in new[] { 12, 24 } from celsius in Temperatures
        select (Key: (s.Id, volts, celsius), Value: new Lazy<DiagnosisEngine>(() => new DiagnosisEngine(FaultTable.Build(s, Setting(volts, celsius)))))).ToDictionary(x => x.Key, x => x.Value);

    public static TheoryData<string> Families => [.. JobStory.Library.Systems.Select(s => s.Id)];

    private static VehicleSetting Setting(int volts, double celsius) => VehicleSetting.Usual.With(VehicleSetting.Volts, volts) with { Celsius = celsius };

    /// <summary>
    /// A loss measured under load on both sides of a joint, wire, contact or ground makes its repair lead, whatever was heard, and a
    /// second reading makes it likely (from 3 % of the supply on: less is what a sound joint loses to a hot motor and a meter errs by; 0.7
    /// and not 0.8, as a reading of nearly nothing on the other side, read once, may be a probe without contact). Repairs that the readings taken cannot tell apart count together (Ohm's law; readings by our
    /// solver, a third of them by ngspice).
    /// </summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_measured_loss_leads_whatever_was_heard(string family)
    {
        var (system, random, spice) = (JobStory.Library.System(family)!, new Random(5), new Spice(1));
        var (tried, failures) = (0, new List<string>());
        foreach (var (volts, celsius) in from v in new[] { 12, 24 } from c in Temperatures select (v, c))
        {
            var engine = Engines[(family, volts, celsius)].Value;
            foreach (var (fault, proof) in Joints(system))
            {
                var vehicle = new SoundWithOne(system, Configured(engine, fault), fault);
                var deciding = FourWayProof.Deciding(system, proof).First();
                foreach (var loss in Losses(deciding, volts))
                {
                    if (!vehicle.Find(() => Loss(vehicle, deciding, volts), loss) || vehicle.Chatters)
                    {
                        continue;
                    }

                    var readings = proof.Select(x => system.Test(x.Test)!).Where(t => !t.Complaint).Select(t => vehicle.Take(t, tried % 3 == 0 ? spice : null)).ToList();
                    var c = new FindCase(system, volts, [system.Behaviours[random.Next(system.Behaviours.Count)].Id], readings);
                    if (!proof.All(x => FourWayProof.Holds(c, x) == true))
                    {
                        continue;
                    }

                    tried++;
                    var one = engine.Judge(new Inquiry(c));
                    var two = engine.Judge(new Inquiry(c with { Readings = [.. readings, readings.First(r => r.Test == deciding.Id)] }));
                    // Asked of what else is likely only: it takes long.
                    var together = system.Repairs.Where(r => r.Id == fault.Repair || (two.Repairs.First(b => b.Repair == r).Probability > 0.05 && Reads(system, engine, r, volts, readings))).ToList();
                    double Sum(Judgement j) => j.Repairs.Where(r => together.Contains(r.Repair)).Sum(r => r.Probability);
                    if (!together.Contains(one.Repairs[0].Repair) || (loss > 0.03 * volts && Sum(two) < 0.7) || (two.Decision.Act == Act.Proven && !together.Contains(two.Decision.Repair!)))
                    {
                        failures.Add($"{fault.Id} at {volts} V, {celsius} °C, loss {loss:0.00}, {c.Behaviours[0]}, {string.Join(", ", readings.Select(r => $"{r.Test} {r.Value?.ToString() ?? r.Choice}"))}: {string.Join(", ", two.Repairs.Take(3).Select(r => $"{r.Repair.Id} {r.Probability:0.00}"))}, unknown {two.Unknown:0.00} (together {string.Join("/", together.Select(t => t.Id))})");
                    }
                }
            }
        }

        Assert.True(tried > 20, $"{tried} losses");
        Assert.True(failures.Count == 0, $"{failures.Count} of {tried}:{Environment.NewLine}{string.Join(Environment.NewLine, failures)}");
        Assert.InRange(spice.Worst, 0, 1e-3);
    }

    /// <summary>
    /// Each element broken: with everything read, by ngspice where it is a voltage, its repair leads, or one that reads the same, and
    /// nothing that was read is called odd.
    /// </summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Open_is_open(string family)
    {
        var (system, spice, failures) = (JobStory.Library.System(family)!, new Spice(1), new List<string>());
        var engine = Engines[(family, 12, 10)].Value;
        foreach (var fault in system.Faults.Skip(1).Where(f => f.Set.Count == 1 && f.Set.Values.Single() is { Kind: Spread.Log } && !f.IsIntermittent))
        {
            var vehicle = new SoundWithOne(system, Configured(engine, fault), fault);
            if (!vehicle.At(1) || vehicle.Chatters)
            {
                continue;
            }

            // What only chance decides is left out: it would be as often wrong as right.
            var readings = system.Tests.Where(t => t.Unit is not null || (!fault.Signs.ContainsKey(t.Id) && t.Rules.Count > 0)).Select(t => vehicle.Take(t, spice)).ToList();
            var judgement = engine.Judge(new Inquiry(new FindCase(system, 12, [], readings)));
            var top = judgement.Repairs[0].Repair;
            if ((top.Id != fault.Repair && !Reads(system, engine, top, 12, readings)) || judgement.Contradiction is not null)
            {
                failures.Add($"{fault.Id}: {string.Join(", ", judgement.Repairs.Take(3).Select(r => $"{r.Repair.Id} {r.Probability:0.00}"))}, unknown {judgement.Unknown:0.00}; {judgement.Surprise}");
            }
        }

        Assert.True(failures.Count == 0, string.Join(Environment.NewLine, failures));
        Assert.InRange(spice.Worst, 0, 1e-3);
    }

    /// <summary>
    /// Where the others bound a voltage from both sides, one that is shifted by a quarter of the supply is noticed; what was read right is
    /// not accused (Kirchhoff's voltage law; vehicles drawn at will, with any fault).
    /// </summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Sums_close(string family)
    {
        var (system, random) = (JobStory.Library.System(family)!, new Random(8));
        var (circuit, accused, shifted, noticed, vehicles) = (new SampledCircuit(system), 0, 0, 0, 0);
        while (vehicles < 150)
        {
            var volts = random.Next(2) == 0 ? 12 : 24;
            var fault = random.GetItems(system.Faults.ToArray(), 1)[0];
            var setting = system.VehicleParameters.Where(p => p.Choices.Count > 0).Aggregate(Setting(volts, random.Next(-20, 41)), (s, p) => s.With(p.Id, random.Next(p.Choices.Count)));
            var row = SystemTests.Draw(system, circuit, setting, fault, [.. system.Parameters.Select(_ => random.NextDouble())]);
            Assert.True(circuit.TrySolve(row));
            vehicles++;
            Evidence Read(FaultTest t, double shift) => new(t.Id, new Figure(decimal.Round(t.Unit!.FromBase((decimal)(circuit.Number(system.Tests.ToList().IndexOf(t), row, row) * (1 + 0.005 * (random.NextDouble() - 0.5)) + shift)), 3), t.Unit), null);
            FaultTest[] tests = [.. system.Tests.Where(t => t.Measure == Measure.Volts)];
            var c = new FindCase(system, volts, [], [.. tests.Select(t => Read(t, 0))]);
            accused += LoopCheck.Find(c) is null ? 0 : 1;
            foreach (var test in tests.Where(t => LoopCheck.Confirms(c, t)))
            {
                shifted++;
                var wrong = c with { Readings = [.. c.Readings.Where(r => r.Test != test.Id), Read(test, (random.Next(2) == 0 ? 0.25 : -0.25) * volts)] };
                noticed += LoopCheck.Find(wrong) is { } found && found.Readings.Contains(test) ? 1 : 0;
            }
        }

        Assert.InRange(accused, 0, vehicles / 100);
        Assert.True(noticed >= 0.95 * shifted, $"{noticed} of {shifted}");
    }

    /// <summary>What is seen to work now has what it needs: nothing that would forbid it is likely, or proven.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void What_works_has_what_it_needs(string family)
    {
        var system = JobStory.Library.System(family)!;
        var engine = Engines[(family, 12, 10)].Value;
        foreach (var test in system.Tests.Where(t => t.Complaint && t.Rules.Count > 1))
        {
            // The last rule is what a sound vehicle does.
            var works = test.Rules[^1].Choice;
            var judgement = engine.Judge(new Inquiry(new FindCase(system, 12, [], [new Evidence(test.Id, null, works)])));
            foreach (var belief in judgement.Beliefs.Where(b => !b.Fault.IsIntermittent && !b.Fault.Signs.ContainsKey(test.Id)))
            {
                var components = engine.Table.Components[system.Faults.ToList().IndexOf(belief.Fault)];
                var answer = test.Choices.ToList().FindIndex(c => c.Id == works);
                if (components.All(c => c.Answers(system.Tests.ToList().IndexOf(test)) is { } answers && answers[answer] < 0.01))
                {
                    Assert.InRange(belief.Probability, 0, 0.01);
                }
            }

            Assert.NotEqual(Act.Proven, judgement.Decision.Act);
        }
    }

    /// <summary>What one person says of one vehicle contradicts nothing, however rare it is; nor does a sound battery beside it.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_word_alone_contradicts_nothing(string family)
    {
        var system = JobStory.Library.System(family)!;
        Evidence[] battery = system.Test("battery-rest") is { } rest ? [new Evidence(rest.Id, new Figure(12.6m, Units.Volt), null)] : [];
        foreach (var (celsius, readings) in Temperatures.SelectMany(t => new Evidence[][] { [], battery }.Select(r => (t, r))))
        {
            foreach (var behaviour in system.Behaviours)
            {
                var judgement = Engines[(family, 12, celsius)].Value.Judge(new Inquiry(new FindCase(system, 12, [behaviour.Id], readings)));
                Assert.True(judgement.Surprise is null, $"{behaviour.Id} at {celsius} °C: {judgement.Surprise}");
            }
        }
    }

    /// <summary>No number that was read once proves anything, no answer that stands alone, no word of a complaint, and no fuse without its killer looked for.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Proven_means_seen_on_both_sides_and_twice(string family)
    {
        var system = JobStory.Library.System(family)!;
        foreach (var repair in system.Repairs.Where(r => !r.IsMotor))
        {
            foreach (var proof in repair.Proof)
            {
                FindCase Case(int times) => new(system, 12, [], [.. proof.SelectMany(x => Enumerable.Repeat(Holding(system, x), times))]);
                Assert.Equal(!FourWayProof.Deciding(system, proof).Any(), FourWayProof.Assess(Case(1)).Proves(repair));
                if (LoopCheck.Find(Case(2)) is null)
                {
                    Assert.True(FourWayProof.Assess(Case(2)).Proves(repair), $"{repair.Id}: {string.Join(" ", proof.Select(x => x.Test))}");
                }

                // A condition less is no proof by this alternative.
                Assert.All(proof, left => Assert.DoesNotContain(repair, FourWayProof.Assess(new FindCase(system, 12, [], [.. proof.Where(x => x != left).SelectMany(x => Enumerable.Repeat(Holding(system, x), 2))])).Proven.Where(r => r.Proof.Count == 1)));
            }
        }

        foreach (var behaviour in system.Behaviours)
        {
            Assert.DoesNotContain(FourWayProof.Assess(new FindCase(system, 12, [behaviour.Id], [])).Proven, r => !r.Nothing);
        }
    }

    /// <summary>Two ways confirm each other where they hang on different readings: debris seen, and the wheel freed; not one drop beside two good neighbours.</summary>
    [Theory]
    [InlineData("blower", "wheel-looked=debris;wheel-freed=frees", "clean", true)]
    [InlineData("blower", "wheel-looked=debris", "clean", false)]
    [InlineData("fan", "plug-volts=4;ground-drop=0.05;relay-volts=12.2;sister-volts=12.1", "wiring", false)]
    [InlineData("fan", "plug-volts=4;ground-drop=0.05;relay-volts=12.2;plug-volts=4.1", "wiring", true)]
    public void Two_ways_prove_where_they_hang_on_different_readings(string family, string readings, string repair, bool isProven)
    {
        var system = JobStory.Library.System(family)!;
        Assert.Equal(isProven, FourWayProof.Assess(FindTests.CaseOf(system, 12, "", readings)).Proves(system.Repair(repair)!));
    }

    /// <summary>A cold sound vehicle is sound: whatever the temperature, what it reads proves nothing, and no repair is nearly sure.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_sound_vehicle_is_sound_at_every_temperature(string family)
    {
        var (system, random) = (JobStory.Library.System(family)!, new Random(12));
        foreach (var celsius in Temperatures)
        {
            var engine = Engines[(family, 12, celsius)].Value;
            var circuit = new SampledCircuit(system);
            for (var i = 0; i < 10; i++)
            {
                var setting = engine.Table.Configurations[0].Choices.Aggregate(engine.Table.Setting, (s, c) => s.With(c.Key, c.Value));
                var row = SystemTests.Draw(system, circuit, setting, system.Faults[0], [.. system.Parameters.Select(_ => random.NextDouble())]);
                Assert.True(circuit.TrySolve(row));
                var readings = system.Tests.Where(t => t.Unit is not null || t.Rules.Count > 0).Select(t => t.Unit is { } unit
                    ? new Evidence(t.Id, new Figure(decimal.Round(unit.FromBase((decimal)Math.Clamp(circuit.Number(system.Tests.ToList().IndexOf(t), row, row), -1e9, 1e9)), 3), unit), null)
                    : new Evidence(t.Id, null, circuit.Answer(system.Tests.ToList().IndexOf(t), row, row) is var a && a != FaultTable.Undecided ? t.Choices[a].Id : t.Usual.Count > 0 ? t.Usual.MaxBy(u => u.Value).Key : t.Choices[0].Id)).ToList();
                var judgement = engine.Judge(new Inquiry(new FindCase(system, 12, [], readings)));
                Assert.All(judgement.Repairs.Where(r => !r.Repair.Nothing), r => Assert.InRange(r.Probability, 0, 0.9));
                Assert.True(judgement.Decision is not { Act: Act.Proven, Repair.Nothing: false });
                Assert.Null(judgement.Contradiction);
            }
        }
    }

    // What makes a condition hold.
    private static Evidence Holding(FaultSystem system, ProofCondition x)
    {
        var test = system.Test(x.Test)!;
        if (test.Unit is not { } unit)
        {
            var wanted = x.Choice ?? test.GoodChoice;
            return new Evidence(x.Test, null, x.Negated ? test.Choices.First(c => c.Id != wanted).Id : wanted);
        }

        var good = test.Good!;
        var value = good.Of is not null ? 0 : x.Negated ? (good.Low is { } low ? low * 0.5m : good.High!.Value * 3) : good.Low ?? good.High!.Value / 2;
        return new Evidence(x.Test, new Figure(value, unit), null);
    }

    // Faults that are a resistance, with what proves them by numbers.
    private static IEnumerable<(Fault Fault, IReadOnlyList<ProofCondition> Proof)> Joints(FaultSystem system) =>
        from fault in system.Faults
        where fault.Set.Count == 1 && fault.Set.Values.Single() is { Kind: Spread.Log }
        from proof in system.Repair(fault.Repair)!.Proof
        where FourWayProof.Deciding(system, proof).FirstOrDefault() is { Measure: Measure.Volts, Commanded: true }
        select (fault, proof);

    // Twice the limit, and shares of the supply.
    private static IEnumerable<double> Losses(FaultTest deciding, int volts) =>
        new[] { deciding.Good!.High is { } high ? 2 * (double)(high * deciding.Scale(volts)) : 0.2 * volts, 0.1 * volts, 0.25 * volts, 0.5 * volts, 0.9 * volts }.Distinct();

    // What is lost by a reading: a drop as it is, else what is missing of the supply.
    private static double Loss(SoundWithOne vehicle, FaultTest deciding, int volts) => deciding.Good!.High is not null ? vehicle.Number(deciding) : volts - vehicle.Number(deciding);

    private static VehicleSetting Configured(DiagnosisEngine engine, Fault fault)
    {
        var at = engine.Table.System.Faults.ToList().IndexOf(fault);
        var configuration = engine.Table.Configurations.Where((_, c) => engine.Table.Applies[c][at]).MaxBy(c => c.Share)!;
        return configuration.Choices.Aggregate(engine.Table.Setting, (s, c) => s.With(c.Key, c.Value));
    }

    // Whether a fault of a repair, somewhere in its range, reads the same on some vehicle: at a stalled motor's current a sound joint
    // loses what a bad one loses at a running one's, with a relay for each fan one relay reads as one plug, and what comes and goes
    // reads as the sound vehicle now and then.
    private static bool Reads(FaultSystem system, DiagnosisEngine engine, Repair repair, int volts, IReadOnlyList<Evidence> readings)
    {
        var places = LatinHypercube.Of(system.Parameters.Count, 12, 2);
        foreach (var fault in system.Faults.Skip(1).Where(f => f.Repair == repair.Id))
        {
            var at = system.Faults.ToList().IndexOf(fault);
            foreach (var configuration in engine.Table.Configurations.Where((_, c) => engine.Table.Applies[c][at]))
            {
                var vehicle = new SoundWithOne(system, configuration.Choices.Aggregate(engine.Table.Setting, (s, c) => s.With(c.Key, c.Value)), fault);
                bool Fits(Evidence r) => r.Value is not { } value || Near(vehicle.Number(system.Test(r.Test)!), (double)value.Base) || (fault.IsIntermittent && Near(vehicle.Sound(system.Test(r.Test)!), (double)value.Base));
                bool Near(double read, double wanted) => Math.Abs(read - wanted) < 0.025 * volts + 0.08 * Math.Abs(wanted);
                if ((from k in Enumerable.Range(0, vehicle.Severity < 0 ? 1 : 41) from v in Enumerable.Range(-1, 13) select (k, v)).Any(x => vehicle.At(x.k / 40.0, x.v < 0 ? null : p => places[p][x.v]) && readings.All(Fits)))
                {
                    return true;
                }
            }
        }

        return false;
    }
}
