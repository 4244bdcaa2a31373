using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Diagnosis;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>The engine that reasons from the circuit: facts of the trade as cases, and what must hold whatever is read.</summary>
public sealed class EngineTests
{
    private const string None = "-";

    // Each table once: building is the slow part.
    private static readonly Dictionary<string, Lazy<DiagnosisEngine>> Engines = JobStory.Library.Systems.ToDictionary(
        s => s.Id, s => new Lazy<DiagnosisEngine>(() => new DiagnosisEngine(FaultTable.Build(s, VehicleSetting.Usual.With(VehicleSetting.Volts, 12)))));

    private static DiagnosisEngine Engine(string family) => Engines[family].Value;

    private static Judgement Judge(string family, string behaviours, string readings) =>
        Engine(family).Judge(new Inquiry(FindTests.CaseOf(JobStory.Library.System(family)!, 12, behaviours, readings)));

    public static TheoryData<string> Families => [.. JobStory.Library.Systems.Select(s => s.Id)];

    /// <summary>
    /// Facts of the trade, each common practice, no source: family; behaviour; readings; the repair that is then likeliest; one
    /// that is then unlikely (under 8 in 100: words of a complaint alone make nothing rarer than one in twenty of what it was), or "-".
    /// </summary>
    public static TheoryData<string, string, string, string, string> Facts => new()
    {
        // A clunk, full volts at the starter while commanded, hardly any sag: the starter is open inside.
        { "starting", "one-clunk", "battery-rest=12.6;battery-cranking=12.5;starter-volts-cranking=12.4;switched-terminal-cranking=12.2", "starter", "engine" },
        // A clunk with a deep sag and an engine that does not turn by hand: the engine.
        { "starting", "one-clunk", "battery-rest=12.6;battery-cranking=8.4;engine-turns=stuck", "engine", "command-wire" },
        // The same with an engine that turns: the starter is held inside.
        { "starting", "one-clunk", "battery-rest=12.6;battery-cranking=8.4;engine-turns=turns;battery-load=10.4", "starter", "main-cable" },
        // Lamp bright and still 20 milliohms in the cable: only the drop under the starter's own current finds them.
        { "starting", "slow-crank", "lamp-main-terminal=bright;main-terminal-key-off=12.6;cable-drop-cranking=2.2;clamp-drop-cranking=0.02", "main-cable", "ground-path" },
        { "starting", "slow-crank", "battery-rest=12.6;ground-drop-cranking=1.6", "ground-path", "main-cable" },
        { "starting", "slow-crank", "battery-rest=12.05;battery-load=8.3", "battery-recharge", "ground-path" },
        // A dead cell takes about two volts away.
        { "starting", "slow-crank", "battery-rest=10.4", "battery-replace", "battery-clamp" },
        { "starting", "silence", "battery-rest=12.6;switched-terminal-cranking=12.3", "starter", "command-fuse" },
        { "starting", "silence", "switched-terminal-cranking=0;relay-output=0;relay-coil-feed=12.4;relay-exchanged=cured", "start-relay", "starter" },
        { "starting", "silence", "fuse-far-side=0.1", "command-fuse", "starter" },
        { "starting", "silence", "fuse-far-side=12.6;relay-coil-feed=0.1;interlock-tried=changes;switch-output=12.4", "interlock", "starter" },
        { "starting", "whirr", "engine-turns=turns;ring-gear-looked=sound", "starter", "battery-recharge" },
        { "starting", "grinding", "ring-gear-looked=broken", "ring-gear", "battery-replace" },
        // A chatter: the supply collapses again and again.
        { "starting", "chatter", "battery-rest=12.0;battery-load=7.5", "battery-recharge", "starter" },
        { "charging", "lamp-on", "idle-volts=12.2;lamp-key-on=dark;field-volts=0", "excitation", "belt" },
        { "charging", "lamp-on", "idle-volts=12.2;lamp-key-on=dark;field-volts=12.3", "alternator", "excitation" },
        { "charging", "too-bright", "idle-volts=16.4", "alternator", "battery-replace" },
        { "charging", "lamp-on", "belt-looked=gone", "belt", "computer" },
        { "charging", "flat-after-days", "idle-volts=14.2;loaded-volts=13.9;parked-draw=650;draw-unplugged=same", "draw", "belt" },
        { "charging", "lights-pulse", "ripple=0.9", "alternator", "case-ground" },
        { "charging", "flat-after-days", "output-drop=1.9", "output-cable", "computer" },
        { "blower", "only-top", "pack-ohms=20000000", "pack", "motor" },
        { "blower", "weak roar", "wheel-looked=debris", "clean", "module" },
        { "blower", "dead", "plug-volts=12.3;wheel-spun=smooth", "motor", "pack" },
        { "blower", "loud-but-weak", "filter-looked=blocked", "filter", "motor" },
        { "wiper", "dead", "bonnet-checked=inhibits", "bonnet-switch", "linkage" },
        { "wiper", "slow", "low-current=7;free-current=1.6;linkage-moved=stiff", "linkage", "ground" },
        { "wiper", "one-arm", "linkage-moved=off", "linkage", "stalk" },
        { "window", "down-only", "other-switch=works", "switch", "motor" },
        { "window", "slow", "up-current=9.5;guides-greased=better", "guides", "fuse" },
        { "window", "runs-glass-stays", "regulator-looked=broken", "regulator", "switch" },
        { "fan", "only-ac", "sensor-read=wrong;sensor-plug=on", "sensor", "motor" },
        { "fan", "this-dead", "plug-volts=12.2;fan-spun=free;direct-feed=dead", "motor", "sensor" },
        // Several unrelated lamps lit by one failed actuator; the reference comes back when it is unplugged.
        { "actuator", "several-lamps", "reference-plugged=1.2;reference-unplugged=5.0", "actuator", "fuse" },
        { "actuator", "several-lamps", "reference-plugged=0.4;reference-unplugged=0.4", "sensor-wires", "shaft" },
    };

    [Theory]
    [MemberData(nameof(Facts))]
    public void Facts_of_the_trade_follow_from_the_circuit(string family, string behaviours, string readings, string likeliest, string impossible)
    {
        var judgement = Judge(family, behaviours, readings);
        Assert.Equal(likeliest, judgement.Repairs[0].Repair.Id);
        Assert.True(impossible == None || judgement.Repairs.Single(r => r.Repair.Id == impossible).Probability < 0.08, $"{impossible}: {judgement.Repairs.Single(r => r.Repair.Id == impossible).Probability:0.000}");
    }

    /// <summary>An unloaded voltage and a bright lamp say almost nothing of milliohms (common practice, no source).</summary>
    [Fact]
    public void A_meter_and_a_lamp_without_load_hardly_move_the_belief()
    {
        var judgement = Judge("starting", "slow-crank", "battery-rest=12.6;main-terminal-key-off=12.58;lamp-main-terminal=bright");
        Assert.All(judgement.Evidence.Where(e => e.Test?.Id is "main-terminal-key-off" or "lamp-main-terminal"), e => Assert.InRange(e.Bits, 0, 0.35));
        var drop = Judge("starting", "slow-crank", "ground-drop-cranking=1.6").Evidence.Single(e => e.Test?.Id == "ground-drop-cranking");
        Assert.True(drop.Bits > 1);
        Assert.Contains(drop.SpeaksFor, f => f.Id == "ground");
        Assert.True(drop.ExpectedHigh < 0.35 && drop.ExpectedLow > -0.1, $"{drop.ExpectedLow} to {drop.ExpectedHigh}");
    }

    [Theory]
    [MemberData(nameof(Families))]
    public void Probabilities_sum_to_one_and_answers_are_complete(string family)
    {
        var system = JobStory.Library.System(family)!;
        foreach (var behaviour in system.Behaviours)
        {
            var judgement = Judge(family, behaviour.Id, "");
            Assert.Equal(1, judgement.Beliefs.Sum(b => b.Probability) + judgement.Unknown, 9);
            Assert.Equal(1, judgement.Repairs.Sum(r => r.Probability) + judgement.Unknown, 9);
            Assert.Equal(system.Faults.Count, judgement.Beliefs.Count);
            Assert.NotEmpty(judgement.Next);
            Assert.All(judgement.Next, n => Assert.True(n.ForProof || n.GainBits >= DiagnosisEngine.LeastGain / 10));
            Assert.All(judgement.Next, n => Assert.StartsWith("Because", n.Because, StringComparison.Ordinal));
            Assert.Equal(0, judgement.Unsolved);
        }
    }

    [Property(MaxTest = 12)]
    public void The_order_of_readings_does_not_matter_and_a_withdrawn_one_leaves_no_trace(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        foreach (var system in JobStory.Library.Systems)
        {
            var c = RandomCase(system, random, 6);
            var engine = Engine(system.Id);
            var shuffled = c.Readings.ToArray();
            random.Shuffle(shuffled);
            var (one, other) = (engine.BeliefsOf(c, ShopHistory.None), engine.BeliefsOf(c with { Readings = shuffled }, ShopHistory.None));
            Assert.Equal(one.ByFault, other.ByFault);
            Assert.Equal(engine.Judge(new Inquiry(c)).Next.Select(n => n.Test.Id), engine.Judge(new Inquiry(c with { Readings = shuffled })).Next.Select(n => n.Test.Id));
            // Taking a reading and withdrawing it is never having taken it; judged without it is judged before it.
            var before = engine.BeliefsOf(c with { Readings = [.. c.Readings.SkipLast(1)] }, ShopHistory.None);
            var at = one.Observations.ToList().FindIndex(o => o.Test >= 0 && system.Tests[o.Test].Id == c.Readings[^1].Test);
            Assert.Equal(one.Observations.Count - 1, before.Observations.Count);
            Assert.Equal(engine.BeliefsOf(c with { Readings = [.. c.Readings.SkipLast(1)] }, ShopHistory.None).ByFault, before.ByFault);
            // What it moved is told by leaving it out, nearly: only the likeliest explanation of each component is asked.
            Assert.All(before.ByFault.Zip(one.ByFaultWithout(at)), x => Assert.Equal(x.First, x.Second, 1e-9));
        }
    }

    [Theory]
    [MemberData(nameof(Families))]
    public void The_same_vehicle_gets_the_same_table(string family)
    {
        var system = JobStory.Library.System(family)!;
        var setting = VehicleSetting.Usual.With(VehicleSetting.Volts, 24);
        var (one, other) = (FaultTable.Build(system, setting, 96), FaultTable.Build(system, setting, 96));
        foreach (var (a, b) in one.Components.SelectMany(f => f).Zip(other.Components.SelectMany(f => f)))
        {
            Assert.Equal(a.Weight, b.Weight);
            Assert.All(Enumerable.Range(0, one.NumberTests.Length), v => Assert.Equal((a.Mean(v), a.Covariance(v, v)), (b.Mean(v), b.Covariance(v, v))));
            Assert.All(Enumerable.Range(0, system.Tests.Count), t => Assert.Equal(a.Answers(t), b.Answers(t)));
        }

        Assert.True(Engine(family).Table.Bytes < 5_000_000);
    }

    /// <summary>Blackwell's ordering of experiments: a worse meter is the better one with noise added.</summary>
    [Theory]
    [InlineData("starting", "ground-drop-cranking")]
    [InlineData("starting", "cranking-current")]
    [InlineData("charging", "ripple")]
    [InlineData("window", "up-current")]
    public void A_more_accurate_meter_never_loses_information_on_average(string family, string test)
    {
        var system = JobStory.Library.System(family)!;
        var last = double.MaxValue;
        foreach (var worse in new[] { 1.0, 3.0, 10.0, 100.0 })
        {
            var meter = system with { Tests = [.. system.Tests.Select(t => t.Id == test ? t with { Accuracy = t.Accuracy * worse, Relative = t.Relative * worse } : t)] };
            var table = FaultTable.Build(meter, VehicleSetting.Usual.With(VehicleSetting.Volts, 12), 256);
            var bits = DiagnosisEngine.Information(new Beliefs(table, ShopHistory.None.Priors(meter), []).Outcomes(system.Tests.ToList().FindIndex(t => t.Id == test)));
            Assert.True(bits <= last + 0.01, $"{worse}: {bits} after {last}");
            last = bits;
        }
    }

    /// <summary>Mutual information of a noiseless and of a useless channel (Shannon 1948).</summary>
    [Fact]
    public void Information_is_that_of_Shannon()
    {
        Assert.Equal(1, DiagnosisEngine.Information(new[,] { { 0.5, 0 }, { 0, 0.5 } }), 12);
        Assert.Equal(0, DiagnosisEngine.Information(new[,] { { 0.25, 0.25 }, { 0.25, 0.25 } }), 12);
        // A binary symmetric channel with 11 % errors carries 1 - H(0.11) = 0.500 bit.
        Assert.Equal(0.5, DiagnosisEngine.Information(new[,] { { 0.445, 0.055 }, { 0.055, 0.445 } }), 3);
    }

    [Fact]
    public void Readings_that_no_fault_explains_are_a_surprise_and_the_contradiction_is_named()
    {
        // More along the way than between its ends: not on one vehicle.
        var judgement = Judge("starting", "slow-crank", "battery-cranking=11.3;battery-load=10.2;starter-volts-cranking=10.9;cable-drop-cranking=4.2;ground-drop-cranking=0.05");
        Assert.NotNull(judgement.Surprise);
        Assert.NotNull(judgement.Contradiction);
        Assert.Contains("starter-volts-cranking", judgement.Contradiction!.Readings.Select(r => r.Id));
        Assert.Equal(Act.Test, judgement.Decision.Act);
        Assert.Contains(judgement.Next[0].Test, judgement.Contradiction.TakeAgain);
        Assert.Null(Judge("starting", "slow-crank", "battery-cranking=11.3;battery-load=10.2;starter-volts-cranking=9.4;ground-drop-cranking=1.6").Surprise);
    }

    [Fact]
    public void Access_is_charged_once_and_not_again_for_what_is_off()
    {
        var system = JobStory.Library.System("starting")!;
        var test = system.Test("starter-volts-cranking")!;
        var own = new Dictionary<string, double>();
        Assert.Equal(6, new Tour(system, own).AccessMinutes(test, new HashSet<string>()));
        Assert.Equal(0, new Tour(system, own).AccessMinutes(test, new HashSet<string> { "raised" }));
        Assert.Equal(9, new Tour(system, new Dictionary<string, double> { [test.Id] = 9 }).AccessMinutes(test, new HashSet<string>()));
        var window = JobStory.Library.System("window")!;
        Assert.Equal(11, new Tour(window, own).AccessMinutes(window.Test("regulator-looked")!, new HashSet<string>()));
    }

    [Fact]
    public void Proven_needs_the_four_ways_and_a_guess_is_called_one()
    {
        var full = Judge("starting", "one-clunk", "battery-rest=12.6;battery-cranking=12.5;starter-volts-cranking=12.4;switched-terminal-cranking=12.2;engine-turns=turns;starter-volts-cranking=12.38");
        Assert.Equal((Act.Proven, "starter"), (full.Decision.Act, full.Decision.Repair!.Id));
        var lacking = Judge("starting", "one-clunk", "battery-rest=12.6;battery-cranking=12.5;starter-volts-cranking=12.4;switched-terminal-cranking=12.2");
        Assert.NotEqual(Act.Proven, lacking.Decision.Act);
        Assert.True(lacking.Repairs[0].Probability > DiagnosisEngine.ProvenAt);
        Assert.Equal("engine-turns", lacking.Next[0].Test.Id);
        // All four are shown, and what decides was read once: it is read again.
        var once = Judge("starting", "one-clunk", "battery-rest=12.6;battery-cranking=12.5;starter-volts-cranking=12.4;switched-terminal-cranking=12.2;engine-turns=turns");
        Assert.NotEqual(Act.Proven, once.Decision.Act);
        Assert.Contains(once.Next[0].Test.Id, new[] { "starter-volts-cranking", "battery-cranking" });
        Assert.Equal(Act.None, Judge("starting", "", "").Decision.Act);
    }

    /// <summary>A pack leaves the top speed alone and a module does not: what is read tells which is fitted, against the record if need be.</summary>
    [Fact]
    public void Equipment_that_a_reading_contradicts_is_asked_about()
    {
        var system = JobStory.Library.System("blower")!;
        Judgement Judged(VehicleSetting setting, string readings) => new DiagnosisEngine(FaultTable.Build(system, setting, 256)).Judge(new Inquiry(FindTests.CaseOf(system, 12, "", readings)));
        var usual = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);
        var unstated = Assert.Single(Judged(usual, "blower-speeds=only-top;middle-volts=0.02;plug-volts=12.1").Equipment);
        Assert.Equal(("control", 0, (int?)null), (unstated.Parameter.Id, unstated.Choice, unstated.Stated));
        Assert.True(unstated.Probability > 0.9);
        var wrong = Assert.Single(Judged(usual.With("control", 1), "control-fitted=pack;blower-speeds=only-top;middle-volts=0.02;plug-volts=12.1").Equipment);
        Assert.True(wrong.IsContradicted);
        Assert.False(Assert.Single(Judged(usual.With("control", 1), "blower-speeds=always-top").Equipment).IsContradicted);
    }

    /// <summary>Stopping is a money decision: what is quick to change is guessed, what is behind hours of work is tested (common practice, no source).</summary>
    [Fact]
    public void A_cheap_part_is_guessed_and_a_dear_one_tested()
    {
        var system = JobStory.Library.System("starting")!;
        var c = FindTests.CaseOf(system, 12, "one-clunk", "battery-rest=12.6;battery-cranking=12.5");
        Judgement With(double minutes, double price) => Engine("starting").Judge(new Inquiry(c) with
        {
            Assumptions = Assumptions.Usual with { Minutes = new Dictionary<string, double> { ["starter"] = minutes }, Prices = new Dictionary<string, double> { ["starter"] = price }, Comeback = minutes > 100 ? 200 : 20 },
        });
        Assert.Equal(Act.Guess, With(2, 1).Decision.Act);
        Assert.Equal("starter", With(2, 1).Decision.Repair!.Id);
        var dear = With(600, 900).Decision;
        Assert.Equal(Act.Test, dear.Act);
        Assert.True(dear.CostTested < dear.CostNow);
    }

    /// <summary>Closed jobs add to the priors as counts: the mean of a Dirichlet distribution (Gelman and others, Bayesian Data Analysis, from memory).</summary>
    [Fact]
    public void Closed_jobs_shift_what_is_likely_by_their_stated_weight()
    {
        var system = JobStory.Library.System("starting")!;
        double Of(ShopHistory h, string repair) => h.Priors(system).Zip(system.Faults).Where(x => x.Second.Repair == repair).Sum(x => x.First);
        var prior = Of(ShopHistory.None, "ground-path");
        var history = new ShopHistory("van", new Dictionary<string, int> { ["ground-path"] = 10 }, new Dictionary<string, int> { ["starter"] = 10 });
        Assert.Equal(13, history.Weight);
        Assert.Equal((ShopHistory.PriorJobs * prior + 10) / (ShopHistory.PriorJobs + 13), Of(history, "ground-path"), 9);
        Assert.Equal(1, history.Priors(system).Sum(), 9);
        Assert.True(Engine("starting").BeliefsOf(FindTests.CaseOf(system, 12, "slow-crank", ""), history).ByRepair[system.Repairs.ToList().FindIndex(r => r.Id == "ground-path")]
            > Engine("starting").BeliefsOf(FindTests.CaseOf(system, 12, "slow-crank", ""), ShopHistory.None).ByRepair[system.Repairs.ToList().FindIndex(r => r.Id == "ground-path")]);
    }

    /// <summary>n attempts that all succeeded say something, not everything (common practice, no source).</summary>
    [Fact]
    public void Attempts_tell_an_intermittent_fault_from_a_lasting_one()
    {
        double Sticking(string readings) => Judge("starting", "silence", readings).Beliefs.Single(b => b.Fault.Id == "sticking").Probability;
        Assert.True(Sticking("repeat-command=sometimes") > 5 * Sticking("repeat-command=always"));
        Assert.True(Sticking("repeat-command=never") > 0);
        var system = JobStory.Library.System("starting")!;
        var tried = FindTests.CaseOf(system, 12, "silence", "") with { Tried = 8, Failed = 3 };
        Assert.True(Engine("starting").Judge(new Inquiry(tried)).Beliefs.Single(b => b.Fault.Id == "sticking").Probability > Sticking(""));
    }

    [Theory]
    [InlineData("volts", 18, "$.vehicle.volts")]
    [InlineData("cca", 5, "$.vehicle.cca")]
    [InlineData("button", 0.5, "$.vehicle.button")]
    [InlineData("brush", 1, "$.vehicle.brush")]
    [InlineData("wings", 2, "$.vehicle.wings")]
    [InlineData("cca", double.NaN, "$.vehicle.cca")]
    public void A_vehicle_out_of_range_is_refused_at_its_path(string parameter, double value, string path) =>
        Assert.Equal(path, Assert.Single(VehicleSetting.Usual.With(parameter, value).Faults(JobStory.Library.System("starting")!)).Path);

    [Fact]
    public void What_the_vehicle_states_narrows_what_a_good_one_reads()
    {
        var system = JobStory.Library.System("starting")!;
        var stated = VehicleSetting.Usual.With("volts", 12).With("power", 1.8).With("cable_length", 1.6).With("cca", 640);
        double Width(VehicleSetting setting)
        {
            var evidence = new DiagnosisEngine(FaultTable.Build(system, setting, 256)).Judge(new Inquiry(FindTests.CaseOf(system, 12, "", "cranking-current=180"))).Evidence.Single();
            return evidence.ExpectedHigh!.Value - evidence.ExpectedLow!.Value;
        }

        Assert.True(Width(stated) < 0.8 * Width(VehicleSetting.Usual.With("volts", 12)));
    }

    /// <summary>The load-test table, 9.6 V at 21 °C and falling with cold (widely published): a sound battery passes it at every temperature.</summary>
    [Theory]
    [InlineData(21, 9.6)]
    [InlineData(-1, 9.1)]
    [InlineData(-18, 8.5)]
    public void A_good_battery_under_its_load_test_reads_above_the_table(double celsius, double least)
    {
        var system = JobStory.Library.System("starting")!;
        var table = FaultTable.Build(system, VehicleSetting.Usual.With("volts", 12) with { Celsius = celsius }, 256);
        var load = system.Tests.ToList().FindIndex(t => t.Id == "battery-load");
        Assert.True(table.Scales[load].From(table.Sound[0][load].Low) > least - 0.4);
        Assert.True(table.Components[0].Sum(c => c.Weight * table.Scales[load].From(c.Mean(table.Variable[load]))) / table.Configurations.Count > least);
    }

    private static FindCase RandomCase(FaultSystem system, Random random, int count)
    {
        // Readings that some vehicle gave: the middle of a component, so that they are not all outliers.
        var table = Engine(system.Id).Table;
        var from = random.GetItems(table.Components.SelectMany(c => c).ToArray(), 1)[0];
        // Where the complaint answers a test already, its answer would take the place of a withdrawn reading.
        var tests = system.Tests.Where(t => !t.Complaint && system.Behaviours.All(b => b.Test != t.Id)).ToArray();
        random.Shuffle(tests);
        return new FindCase(system, 12, [system.Behaviours[random.Next(system.Behaviours.Count)].Id], [.. tests.Take(count).Select(t =>
        {
            var i = system.Tests.ToList().IndexOf(t);
            return t.Unit is null
                ? new Evidence(t.Id, null, t.Choices[random.Next(t.Choices.Count)].Id)
                : new Evidence(t.Id, new Figure(decimal.Round((decimal)Math.Clamp((double)t.Unit.FromBase((decimal)table.Scales[i].From(from.Mean(table.Variable[i]))), -1e6, 1e6), 3), t.Unit), null);
        })]);
    }

    /// <summary>A judgement is kept under this name: it must differ with everything the judgement follows from, and with nothing else.</summary>
    [Fact]
    public void An_inquirys_key_differs_with_every_part_of_it()
    {
        var system = JobStory.Library.System("starting")!;
        static Dictionary<string, double> Figures(double figure) => new(StringComparer.Ordinal) { ["starter"] = figure, ["battery-replace"] = 1 };
        Inquiry Plain() => new(
            FindTests.CaseOf(system, 12, "one-clunk", "battery-rest=12.6;engine-turns=turns") with { Tried = 5, Failed = 4 },
            new HashSet<string> { "undertray", "heat-shield" }, Figures(7), new ShopHistory("m", new Dictionary<string, int> { ["starter"] = 2 }, new Dictionary<string, int> { ["starter"] = 3 }),
            new Assumptions(60, 90, Figures(40), Figures(200)));
        var (a, c) = (Plain(), Plain().Case);
        Inquiry[] others =
        [
            a, a with { Case = FindTests.CaseOf(JobStory.Library.System("charging")!, 12, "", "") }, a with { Case = c with { NominalVolts = 24 } }, a with { Case = c with { Tried = 6 } }, a with { Case = c with { Failed = 5 } }, a with { Case = c with { Behaviours = [] } },
            a with { Case = c with { Readings = [.. c.Readings.Reverse()] } }, a with { Case = c with { Readings = [.. c.Readings.Skip(1)] } },
            a with { Case = c with { Readings = [c.Readings[0] with { Value = new Figure(12.60m, Units.Volt) }, .. c.Readings.Skip(1)] } }, a with { Case = c with { Readings = [c.Readings[0] with { Value = new Figure(12.6m, Units.Millivolt) }, .. c.Readings.Skip(1)] } },
            a with { Case = c with { Readings = [.. c.Readings.SkipLast(1), c.Readings[^1] with { Choice = "stuck" }] } },
            a with { Done = new HashSet<string> { "undertray" } }, a with { Done = new HashSet<string> { "undertrayheat-shield" } }, a with { AccessMinutes = Figures(8) }, a with { AccessMinutes = new Dictionary<string, double>() },
            a with { History = a.History with { Model = "n" } }, a with { History = a.History with { OnModel = a.History.OnOthers } }, a with { History = a.History with { OnOthers = a.History.OnModel } },
            a with { Assumptions = a.Assumptions with { LabourPerHour = 61 } }, a with { Assumptions = a.Assumptions with { Comeback = 91 } }, a with { Assumptions = a.Assumptions with { Minutes = Figures(41) } }, a with { Assumptions = a.Assumptions with { Prices = Figures(201) } },
        ];
        Assert.Equal(others.Length, others.Select(o => o.Key()).Distinct(StringComparer.Ordinal).Count());
        // The order in which sets and tables were filled says nothing.
        Assert.Equal(a.Key(), (Plain() with { Done = new HashSet<string> { "heat-shield", "undertray" }, AccessMinutes = new Dictionary<string, double> { ["battery-replace"] = 1, ["starter"] = 7 } }).Key());
    }
}
