using Screeline.Core.Circuits;
using Screeline.Core.Diagnosis;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;

namespace Screeline.Core.Tests;

/// <summary>The seven families as circuits: what the usual vehicle does with a fault, and how its drawing lies.</summary>
public sealed class SystemTests
{
    public static TheoryData<string> Families => [.. JobStory.Library.Systems.Select(s => s.Id)];

    /// <summary>
    /// Behaviour that follows from the simulated state of the usual vehicle, each common practice, no source: family, choices that the
    /// vehicle states, fault, complaint test, answer.
    /// </summary>
    public static TheoryData<string, string, string, string, string> Behaviours => new()
    {
        { "starting", "", "none", "start-heard", "cranks-no-start" },
        { "starting", "", "fuse", "start-heard", "silence" },
        { "starting", "", "interlock", "start-heard", "silence" },
        { "starting", "", "relay-coil", "start-heard", "silence" },
        { "starting", "", "coil-open", "start-heard", "silence" },
        { "starting", "", "seized", "start-heard", "one-clunk" },
        { "starting", "", "engine", "start-heard", "one-clunk" },
        { "starting", "", "cable", "start-heard", "slow-crank" },
        { "starting", "", "ground", "start-heard", "slow-crank" },
        { "starting", "series=1", "none", "start-heard", "cranks-no-start" },
        { "charging", "", "belt-gone", "charge-seen", "lamp-on" },
        { "charging", "", "brushes", "charge-seen", "lamp-on" },
        { "charging", "", "regulator-high", "charge-seen", "too-bright" },
        { "blower", "", "none", "blower-speeds", "all-good" },
        { "blower", "", "link", "blower-speeds", "only-top" },
        { "blower", "", "step", "blower-speeds", "some-missing" },
        { "blower", "", "top-contact", "blower-speeds", "no-top" },
        { "blower", "", "seized", "blower-speeds", "dead" },
        { "blower", "", "filter", "blower-speeds", "loud-but-weak" },
        { "blower", "control=1", "none", "blower-speeds", "all-good" },
        { "blower", "control=1", "module-dead", "blower-speeds", "dead" },
        { "blower", "control=1", "module-full", "blower-speeds", "always-top" },
        { "wiper", "", "none", "wiper-seen", "runs-now" },
        { "wiper", "", "bonnet", "wiper-seen", "dead" },
        { "wiper", "", "low-brush", "wiper-seen", "high-only" },
        { "wiper", "", "high-contact", "wiper-seen", "low-only" },
        { "wiper", "", "park", "wiper-seen", "no-park" },
        { "wiper", "", "stiff", "wiper-seen", "slow" },
        { "wiper", "", "water", "wiper-warm", "fades" },
        { "wiper", "relay_kind=1", "relay-coil", "wiper-seen", "dead" },
        { "window", "", "none", "door-heard", "quiet" },
        { "window", "", "up-contact", "window-seen", "down-only" },
        { "window", "", "down-contact", "window-seen", "up-only" },
        { "window", "", "fuse", "window-seen", "dead" },
        { "window", "", "dry", "window-seen", "slow" },
        { "fan", "", "none", "fan-seen", "both-run" },
        { "fan", "", "fuse", "fan-seen", "none-run" },
        { "fan", "common=1", "fuse", "fan-seen", "this-dead" },
        { "fan", "", "plug", "fan-seen", "this-dead" },
        { "fan", "", "welded", "fan-seen", "for-ever" },
        { "fan", "", "sensor", "fan-seen", "only-ac" },
        { "fan", "", "resistor", "fan-seen", "no-low" },
        { "fan", "", "module", "fan-seen", "none-run" },
        { "actuator", "", "none", "fed-seen", "runs" },
        { "actuator", "", "driver", "actuator-seen", "silent" },
        { "actuator", "", "sensor-short", "actuator-seen", "several-lamps" },
        { "actuator", "", "shaft", "actuator-seen", "silent" },
        { "actuator", "", "open", "fed-seen", "dead" },
    };

    /// <summary>
    /// Solved sample after sample and state after state, a circuit reads what a network made for that sample and state alone reads:
    /// no value stays from the one before, and what was found there is only where the search begins.
    /// </summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_circuit_that_was_used_before_reads_what_a_new_one_reads(string family)
    {
        var system = JobStory.Library.System(family)!;
        var (circuit, prepared, random) = (new SampledCircuit(system), new PreparedCircuit(), new Random(3));
        var nodes = system.Points.Select(p => p.Node).Distinct().Where(n => n != Network.Ground).ToArray();
        for (var i = 0; i < 40; i++)
        {
            var row = Draw(system, circuit, VehicleSetting.Usual.With("volts", 12), system.Faults[random.Next(system.Faults.Count)], [.. system.Parameters.Select(_ => random.NextDouble())]);
            Assert.True(circuit.TrySolve(row, prepared));
            var blown = new HashSet<string>();
            foreach (var state in system.States.OrderByDescending(s => s.Commanded))
            {
                var alone = Solver.Solve(circuit.NetworkOf(row, state), blown);
                blown.UnionWith(alone.Blown);
                // Behind an open contact ten picoampere, to which currents balance, are some microvolts.
                Assert.All(nodes, n => Assert.Equal(alone.Voltage(n), row[circuit.Slots.Find($"v.{n}", state.Id)!.Value], 1e-4));
                Assert.All(system.Circuit.Where(p => p.Kind == "fuse"), f => Assert.Equal(alone.Blown.Contains(f.Id) ? 1 : 0, row[circuit.Slots.Find($"blown.{f.Id}", state.Id)!.Value]));
            }
        }
    }

    /// <summary>A table's circuits tell only what tests read: every test reads of them what it reads where everything is told.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Every_test_reads_the_same_where_only_what_tests_read_is_told(string family)
    {
        var system = JobStory.Library.System(family)!;
        var (circuit, all, some, random) = (new SampledCircuit(system), new PreparedCircuit(), new PreparedCircuit { ForTests = true }, new Random(7));
        for (var i = 0; i < 40; i++)
        {
            double[] places = [.. system.Parameters.Select(_ => random.NextDouble())];
            double[] Of(Fault fault) => Draw(system, circuit, VehicleSetting.Usual.With("volts", 12), fault, places);
            var fault = system.Faults[random.Next(system.Faults.Count)];
            var (good, bad, goodSome, badSome) = (Of(system.Faults[0]), Of(fault), Of(system.Faults[0]), Of(fault));
            Assert.True(circuit.TrySolve(good, all) && circuit.TrySolve(bad, all) && circuit.TrySolve(goodSome, some) && circuit.TrySolve(badSome, some));
            Assert.NotEqual(bad, badSome);
            for (var t = 0; t < system.Tests.Count; t++)
            {
                if (system.Tests[t].Unit is not null)
                {
                    Assert.Equal(circuit.Number(t, bad, good), circuit.Number(t, badSome, goodSome));
                }
                else if (system.Tests[t].Measure != Measure.Attempts)
                {
                    Assert.Equal(circuit.Answer(t, bad, good), circuit.Answer(t, badSome, goodSome));
                }
            }

            Assert.All(circuit.Slots.Regime(), r => Assert.Equal(bad[r.Slot], badSome[r.Slot]));
        }
    }

    /// <summary>
    /// A fault that is put into a solved vehicle reads what a vehicle that always had it reads, though its search begins where that of
    /// the last vehicle with it ended, and the next one finds the vehicle sound again; without a fault everything reads as before.
    /// </summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_fault_put_into_a_vehicle_reads_as_if_it_had_always_been_there(string family)
    {
        var system = JobStory.Library.System(family)!;
        var (circuit, prepared, random) = (new SampledCircuit(system), new PreparedCircuit(), new Random(11));
        var setting = VehicleSetting.Usual.With("volts", 12);
        int[] slots = [.. system.Parameters.Select(p => circuit.Slots[p.Id])];
        for (var i = 0; i < 10; i++)
        {
            double[] places = [.. system.Parameters.Select(_ => random.NextDouble())];
            var sound = Draw(system, circuit, setting, system.Faults[0], places);
            Assert.True(circuit.TrySolve(sound, prepared, Fuse.Most));
            foreach (var fault in random.GetItems(system.Faults.ToArray(), 8).Prepend(system.Faults[0]))
            {
                // Whatever its fuse bears.
                var blowsAt = Fuse.Least + (Fuse.Most - Fuse.Least) * random.NextDouble();
                var always = Draw(system, circuit, setting, fault, places);
                double[] put = [.. sound];
                var other = slots.Where(s => always[s] != sound[s]).ToHashSet();
                foreach (var slot in other)
                {
                    put[slot] = always[slot];
                }

                Assert.True(circuit.TrySolveWith(circuit.PartsOf(other), put, prepared, out _, blowsAt, system.Faults.ToList().IndexOf(fault)));
                Assert.True(circuit.TrySolve(always, null, blowsAt));
                for (var t = 0; t < system.Tests.Count; t++)
                {
                    var test = system.Tests[t];
                    if (test.Unit is not null)
                    {
                        Assert.Equal(ReadingScale.Of(test).To(circuit.Number(t, always, sound)), ReadingScale.Of(test).To(circuit.Number(t, put, sound)), 1e-3);
                    }
                    else if (test.Measure != Measure.Attempts)
                    {
                        Assert.Equal(circuit.Answer(t, always, sound), circuit.Answer(t, put, sound));
                    }
                }
            }

        }
    }

    // Vehicles enough for what is not told by shares.
    private const int Few = 128;

    [Theory]
    [MemberData(nameof(Behaviours))]
    public void Behaviour_follows_from_the_state(string family, string stated, string fault, string test, string answer)
    {
        var system = JobStory.Library.System(family)!;
        var setting = stated.Split(';', StringSplitOptions.RemoveEmptyEntries).Select(s => s.Split('=')).Aggregate(VehicleSetting.Usual.With("volts", 12), (s, x) => s.With(x[0], int.Parse(x[1], System.Globalization.CultureInfo.InvariantCulture)));
        var table = FaultTable.Build(system, setting, Few);
        var (t, f) = (system.Tests.ToList().FindIndex(x => x.Id == test), system.Faults.ToList().FindIndex(x => x.Id == fault));
        // As stated, not as the record may be wrong. A fault that is as good as open gives it; where it is just noticeable another may be right.
        var configuration = table.Configurations.Select((c, i) => (c.Share, i)).MaxBy(c => c.Share).i;
        Assert.True(table.Applies[configuration][f]);
        var given = table.Components[f].Where(c => c.Configuration == configuration).ToList();
        double[] answers = [.. system.Tests[t].Choices.Select((_, a) => given.Sum(c => c.Weight * c.Answers(t)![a]))];
        Assert.True(answers[system.Tests[t].Choices.ToList().FindIndex(c => c.Id == answer)] > 0.15, string.Join(", ", answers.Select((a, i) => $"{system.Tests[t].Choices[i].Id} {a:0.00}")));
    }

    /// <summary>In the sound usual vehicle every test that has a good range or a good answer is good, at 12 V and at 24 V; limits are told for a charged battery.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_sound_vehicle_passes_its_own_tests(string family)
    {
        var system = JobStory.Library.System(family)!;
        foreach (var volts in new[] { 12, 24 })
        {
            var circuit = new SampledCircuit(system);
            var places = LatinHypercube.Of(system.Parameters.Count, Few, 3);
            double[][] rows = [.. Enumerable.Range(0, Few).Select(i => Draw(system, circuit, VehicleSetting.Usual.With("volts", volts), system.Faults[0], [.. places.Select((p, k) => system.Parameters[k].Id == "charge" ? (2 + p[i]) / 3 : p[i])]))];
            Assert.All(rows, row => Assert.True(circuit.TrySolve(row)));
            double Value(string id, int sample) => circuit.Number(system.Tests.ToList().FindIndex(x => x.Id == id), rows[sample], rows[sample]);
            // A battery is seldom full where charging is complained of; low at rest condemns nothing there.
            foreach (var test in system.Tests.Where(x => x.Unit is not null && x.Good is not null && (family, x.Id) != ("charging", "battery-rest")))
            {
                var bad = Enumerable.Range(0, Few).Count(s => test.IsGood(Figure(test, Value(test.Id, s)), null, volts, other => Figure(system.Test(other)!, Value(other, s))) == false);
                Assert.True(bad <= Few / 8, $"{test.Id} on {volts} V: {bad} of {Few} sound vehicles fail it, for example {Value(test.Id, 0):0.###}");
            }
        }

        static Quantities.Figure Figure(FaultTest test, double value) => new((decimal)value, Quantities.Units.OfKind(test.Unit!.Kind)[0]);
    }

    [Theory]
    [MemberData(nameof(Families))]
    public void A_meter_in_the_table_reads_what_it_reads_in_the_circuit(string family)
    {
        var system = JobStory.Library.System(family)!;
        var circuit = new SampledCircuit(system);
        var setting = VehicleSetting.Usual.With("volts", 12);
        var random = new Random(7);
        foreach (var fault in system.Faults.Take(12))
        {
            var places = system.Parameters.Select(_ => random.NextDouble()).ToArray();
            var row = Draw(system, circuit, setting, fault, places);
            Assert.True(circuit.TrySolve(row), fault.Id);
            var blown = system.States.Where(s => s.Commanded).SelectMany(s => Solver.Solve(circuit.NetworkOf(row, s)).Blown).ToHashSet();
            for (var t = 0; t < system.Tests.Count; t++)
            {
                if (system.Tests[t] is { Measure: Measure.Volts } test)
                {
                    string Node(int probe) => system.Points.First(p => p.Id == test.Probes[probe]).Node;
                    var solved = Solver.Solve(circuit.NetworkOf(row, test.State).With(new Resistor("voltmeter", Node(0), Node(1), Instruments.MeterOhms)), blown);
                    Assert.InRange(circuit.Number(t, row, row), solved.Between(Node(0), Node(1)) - 0.002, solved.Between(Node(0), Node(1)) + 0.002);
                }
            }
        }
    }

    /// <summary>Letters are taken as 9 wide at 16 px: wider than most of the typeface's.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Labels_lie_inside_the_drawing_and_on_nothing_else(string family)
    {
        var system = JobStory.Library.System(family)!;
        var labels = system.Drawing.Symbols.Select(s => (s.Label, Left: (double)s.LabelX, Right: s.LabelX + 8.0 * s.Label.Length, Top: s.LabelY - 13.0, Bottom: s.LabelY + 3.0)).ToList();
        foreach (var l in labels)
        {
            Assert.True(l.Left >= 0 && l.Right <= system.Drawing.Width && l.Top >= 0 && l.Bottom <= system.Drawing.Height, $"“{l.Label}” leaves the drawing");
            Assert.All(labels.Where(o => o != l), o => Assert.False(l.Left < o.Right && o.Left < l.Right && l.Top < o.Bottom && o.Top < l.Bottom, $"“{l.Label}” lies on “{o.Label}”"));
            Assert.All(system.Points, p => Assert.False(l.Left < p.X + 14 && p.X - 14 < l.Right && l.Top < p.Y + 14 && p.Y - 14 < l.Bottom, $"“{l.Label}” lies on point {p.Title}"));
        }

        foreach (var (one, i) in system.Points.Select((p, i) => (p, i)))
        {
            Assert.All(system.Points.Skip(i + 1), other => Assert.True(Math.Abs(one.X - other.X) >= 30 || Math.Abs(one.Y - other.Y) >= 30, $"{one.Title} lies on {other.Title}"));
        }
    }

    [Theory]
    [MemberData(nameof(Families))]
    public void Current_is_drawn_and_the_points_to_probe_are_in_the_crop(string family)
    {
        var system = JobStory.Library.System(family)!;
        var setting = VehicleSetting.Usual.With("volts", 12);
        CircuitPicture Picture(FaultTest test) => new(system, test, SampledCircuit.UsualCurrents(system, setting, test.State), _ => null, true);
        Assert.Contains(system.Tests, t => t.Commanded && Picture(t).AnyLive);
        foreach (var test in system.Tests.Where(t => t.Probes.Count == 2))
        {
            var picture = Picture(test);
            Assert.Equal(2, picture.Points.Count(p => p.State == "now"));
            var (left, top, width, height) = picture.Crop;
            Assert.All(picture.Points.Where(p => p.State == "now"), p => Assert.True(p.Point.X >= left && p.Point.X <= left + width && p.Point.Y >= top && p.Point.Y <= top + height, $"{test.Id}: {p.Point.Title} is cut off"));
        }
    }

    [Fact]
    public void Tables_are_kept_for_the_vehicles_asked_for_last_and_no_more()
    {
        var tables = new DiagnosisTables();
        var system = JobStory.Library.System("window")! with { Faults = [.. JobStory.Library.System("window")!.Faults.Take(3)] };
        VehicleSetting Setting(int i) => VehicleSetting.Usual.With("volts", 12) with { Celsius = i };
        var first = tables.For(system, Setting(0));
        Assert.Same(first, tables.For(system, Setting(0)));
        for (var i = 1; i < DiagnosisTables.Most; i++)
        {
            tables.For(system, Setting(i));
        }

        Assert.Same(first, tables.For(system, Setting(0)));
        tables.For(system, Setting(DiagnosisTables.Most));
        Assert.Equal(DiagnosisTables.Most, tables.Count);
        // The one not asked for longest went; the first, asked for again, stayed.
        Assert.Same(first, tables.For(system, Setting(0)));
    }

    /// <summary>The expected cost written out: what the truth costs anyway, and a wrong repair with its comeback besides.</summary>
    [Fact]
    public void Money_is_worked_out_as_on_paper()
    {
        var system = JobStory.Library.System("starting")!;
        var judgement = new DiagnosisEngine(FaultTable.Build(system, VehicleSetting.Usual.With("volts", 12), Few)).Judge(new Inquiry(FindTests.CaseOf(system, 12, "slow-crank", "ground-drop-cranking=1.6")));
        var money = Assumptions.Usual;
        var chosen = judgement.Decision.Repair!;
        var expected = judgement.Repairs.Sum(r => r.Probability * (money.CostOf(r.Repair) + (r.Repair == chosen ? 0 : money.CostOf(chosen) + money.Comeback)));
        Assert.Equal(expected, judgement.Decision.CostNow, 6);
        Assert.All(judgement.Repairs, other => Assert.True(judgement.Repairs.Sum(r => r.Probability * (money.CostOf(r.Repair) + (r.Repair == other.Repair ? 0 : money.CostOf(other.Repair) + money.Comeback))) >= expected - 1e-6));
        Assert.Equal(judgement.Decision.CostNow, judgement.Decision.CostOfRepair + judgement.Decision.ChanceWrong * judgement.Decision.CostIfWrong, 6);
        Assert.Equal(30 * 60 / 60.0 + 12, money.CostOf(system.Repair("ground-path")!));
    }

    internal static double[] Draw(FaultSystem system, SampledCircuit circuit, VehicleSetting setting, Fault fault, double[] places)
    {
        var row = new double[circuit.Slots.Count];
        row[circuit.Slots[Slots.Celsius]] = setting.Celsius;
        var values = new FormulaValues(row, row);
        for (var p = 0; p < system.Parameters.Count; p++)
        {
            var parameter = system.Parameters[p];
            row[circuit.Slots[parameter.Id]] = fault.Set.TryGetValue(parameter.Id, out var set) ? set.At(places[p], values)
                : setting.Stated.TryGetValue(parameter.Id, out var stated) ? stated : parameter.Draw.At(places[p], values);
        }

        return row;
    }
}
