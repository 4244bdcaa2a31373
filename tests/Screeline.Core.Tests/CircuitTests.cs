using System.Diagnostics;
using System.Globalization;
using System.Text.RegularExpressions;
using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Circuits;
using Switch = Screeline.Core.Circuits.Switch;

namespace Screeline.Core.Tests;

/// <summary>Circuits against ngspice on netlists written by hand, against tables of wire, and against facts of the trade.</summary>
public sealed partial class CircuitTests
{
    private static readonly MechanicalLoad Engine = new(1.2, 0.012);
    private static readonly MechanicalLoad Wheel = new(0.02, 0.0001, 2.2e-6);

    private static Element[] Battery(double volts = 12.6, double ohms = 0.006) => [new Battery("battery", "plus", "0", volts, ohms)];

    private static Element[] Starter(double cable = 0.0012, double ground = 0.0006, MechanicalLoad? load = null) =>
        [new Resistor("cable", "plus", "main", cable), new Resistor("strap", "block", "0", ground), new MagnetMotor("m", "main", "block", 0.012, 0.028, load ?? Engine)];

    private static Network Of(params Element[][] parts) => new([.. parts.SelectMany(p => p)]);

    /// <summary>The same circuit as the netlist of that name; what is told is its probes in order.</summary>
    private static readonly Dictionary<string, (Network Network, Func<Solution, double>[] Probes)> Pairs = new()
    {
        ["01-joint-and-meter"] = (Of(Battery(12.6, 0.008), [new Resistor("joint", "plus", "point", 50), new Resistor("meter", "point", "0", Instruments.MeterOhms)]), [s => s.Voltage("point"), s => s.Voltage("plus")]),
        ["02-joint-and-lamp"] = (Of(Battery(12.6, 0.008), [new Resistor("joint", "plus", "point", 50), new Lamp("lamp", "point", "0", 12, 5)]), [s => s.Voltage("point")]),
        ["03-lamp-on-battery"] = (Of(Battery(12.6, 0.008), [new Lamp("lamp", "plus", "0", 12, 21)]), [s => s.Voltage("plus"), s => s.Current("lamp")]),
        ["04-magnet-starter"] = (Of(Battery(), Starter()), [s => s.Voltage("plus"), s => s.Voltage("main"), s => s.Voltage("block"), s => s.Current("m")]),
        ["05-bad-cable"] = (Of(Battery(), Starter(cable: 0.0212)), [s => s.Voltage("plus"), s => s.Voltage("main"), s => s.Voltage("block"), s => s.Current("m")]),
        ["06-stalled-starter"] = (Of(Battery(), Starter(load: Engine with { Stuck = true })), [s => s.Voltage("plus"), s => s.Voltage("main"), s => s.Voltage("block")]),
        ["07-series-starter"] = (Of(Battery(12.5, 0.007), [new Resistor("cable", "plus", "main", 0.0015), new Resistor("strap", "block", "0", 0.0005), new SeriesMotor("m", "main", "block", 0.009, 0.05, 250, new MechanicalLoad(2, 0.03))]), [s => s.Voltage("plus"), s => s.Voltage("main"), s => s.Voltage("block"), s => s.Current("m")]),
        ["08-two-batteries-dead-cell"] = (Of([new Battery("lower", "mid", "0", 10.5, 0.02), new Battery("upper", "plus", "mid", 12.6, 0.008), new Resistor("heater", "plus", "0", 0.6)]), [s => s.Voltage("mid"), s => s.Voltage("plus")]),
        ["09-blower-resistor"] = (Of(Battery(12.6, 0.008), [new Resistor("wire", "plus", "a", 0.03), new Resistor("step", "a", "m", 0.8), new MagnetMotor("m", "m", "0", 0.25, 0.03, Wheel)]), [s => s.Voltage("m"), s => s.Current("m")]),
        ["10-blower-chopped"] = (Of(Battery(12.6, 0.02), [new ChoppedDrive("drive", "plus", "m", "0", 0.6), new MagnetMotor("m", "m", "0", 0.25, 0.03, Wheel)]), [s => s.Voltage("plus"), s => s.Voltage("m"), s => s.Current("m")]),
        ["11-diode-and-lamp"] = (Of(Battery(12.6, 0.008), [new Diode("d", "plus", "a"), new Lamp("lamp", "a", "0", 12, 5)]), [s => s.Voltage("a")]),
        ["12-diode-blocking"] = (Of(Battery(12.6, 0.008), [new Diode("d", "a", "plus"), new Resistor("load", "a", "0", 30)]), [s => s.Voltage("a")]),
        ["13-charging"] = (Of(Battery(12.2, 0.012), [new RegulatedSource("alternator", "out", "0", 14.4, 70), new Resistor("cable", "out", "plus", 0.002), new Lamp("lamps", "plus", "0", 12, 220), new Resistor("screen", "plus", "0", 0.2)]), [s => s.Voltage("out"), s => s.Voltage("plus")]),
        ["14-relay-and-fan"] = (new Network([.. Battery(12.6, 0.01), new Resistor("wire", "m", "n", 0.02), new MagnetMotor("fan", "n", "0", 0.18, 0.04, new MechanicalLoad(0.05, 0.0002, 4e-6))], [new Relay("relay", "plus", "0", 90, "plus", "f", 0.002, 7, 2)], [new Fuse("fuse", "f", "m", 30)]), [s => s.Voltage("n"), s => s.Current("fan")]),
        ["15-fuse-blown"] = (new Network([.. Battery(12.6, 0.01), new Resistor("short", "a", "0", 0.05), new Resistor("load", "plus", "0", 10)], [], [new Fuse("fuse", "plus", "a", 10)]), [s => s.Voltage("plus"), s => s.Voltage("a")]),
        ["17-two-brush-wiper"] = (Of(Battery(12.6, 0.02),
            [new Resistor("low", "plus", "lo", 0.1), new Resistor("hi-leak", "hi", "0", 1e10), new TwoBrushMotor("m", "lo", "hi", "0", 0.95, 0.8, 0.034, 0.024, new MechanicalLoad(0.075, 0.00012))],
            [new Resistor("high", "plus", "hi2", 0.1), new Resistor("lo-leak", "lo2", "0", 1e10), new TwoBrushMotor("m2", "lo2", "hi2", "0", 0.95, 0.8, 0.034, 0.024, new MechanicalLoad(0.075, 0.00012))]),
            [s => s.Voltage("lo"), s => s.Voltage("hi"), s => s.Current("m"), s => s.Voltage("hi2"), s => s.Current("high"), s => s.Voltage("lo2")]),
        ["18-source-at-its-limit"] = (Of(Battery(12.4, 0.012), [new RegulatedSource("alternator", "out", "0", 14.4, 70), new Resistor("cable", "out", "plus", 0.002), new Resistor("load", "plus", "0", 0.11)]), [s => s.Voltage("out"), s => s.Voltage("plus")]),
        ["19-charge-lamp-dark"] = (Of(Battery(12.4, 0.012), [new RegulatedSource("alternator", "out", "0", 14.4, 70), new Resistor("cable", "out", "plus", 0.002), new Resistor("load", "plus", "0", 0.6)],
            [new Lamp("lamp", "plus", "field", 12, 2.4), new Resistor("trio", "out", "field", 0.3), new Resistor("rotor", "field", "0", 3.6)],
            [new Lamp("second", "plus", "brush", 12, 2.4), new Resistor("worn", "brush", "0", 9000)]),
            [s => s.Voltage("plus"), s => s.Between("plus", "field"), s => s.Between("plus", "brush")]),
        ["16-two-grounds"] = (Of(Battery(), [new Resistor("cable", "plus", "main", 0.0012), new Resistor("m", "main", "block", 0.03), new Resistor("strap", "block", "0", 0.025), new Resistor("second", "block", "body", 0.004), new Resistor("third", "body", "0", 0.003)]), [s => s.Voltage("main"), s => s.Voltage("block"), s => s.Voltage("body")]),
    };

    public static TheoryData<string> Netlists => [.. Pairs.Keys];

    /// <summary>ngspice (Debian's package, version 39) solves the netlist, we the same circuit; both agree to a millionth.</summary>
    [Theory]
    [MemberData(nameof(Netlists))]
    public void Agrees_with_ngspice(string name)
    {
        var (network, probes) = Pairs[name];
        var solved = Solver.Solve(network);
        var spice = Ngspice(name);
        Assert.Equal(probes.Length, spice.Count);
        foreach (var (ours, theirs) in probes.Select(p => p(solved)).Zip(spice))
        {
            Assert.InRange(ours, theirs - 1e-6 * (1 + Math.Abs(theirs)), theirs + 1e-6 * (1 + Math.Abs(theirs)));
        }
    }

    [Fact]
    public void Every_committed_netlist_is_compared() =>
        Assert.Equal(Directory.GetFiles(Folder(), "*.cir").Select(Path.GetFileNameWithoutExtension).Order(), Pairs.Keys.Order());

    /// <summary>Resistance of solid copper wire in ohm per kilometre at 20 °C (ASTM B258 table, from memory).</summary>
    [Theory]
    [InlineData(0, 0.3224)]
    [InlineData(4, 0.8152)]
    [InlineData(6, 1.296)]
    [InlineData(10, 3.277)]
    [InlineData(14, 8.286)]
    [InlineData(18, 20.95)]
    public void Gauge_wire_agrees_with_ASTM_B258(int gauge, double ohmsPerKilometre) =>
        Assert.InRange(Wire.Ohms(1000, Wire.GaugeSection(gauge)), ohmsPerKilometre * 0.997, ohmsPerKilometre * 1.003);

    /// <summary>Flexible copper conductors, class 5: the greatest resistance allowed, ohm per kilometre at 20 °C (IEC 60228 table 3, from memory).</summary>
    [Theory]
    [InlineData(1.5, 13.3)]
    [InlineData(2.5, 7.98)]
    [InlineData(4, 4.95)]
    [InlineData(6, 3.30)]
    [InlineData(16, 1.21)]
    [InlineData(25, 0.780)]
    [InlineData(50, 0.386)]
    public void Metric_wire_stays_just_under_IEC_60228(double section, double most) =>
        Assert.InRange(Wire.Ohms(1000, section), most * 0.84, most);

    /// <summary>IEC 60028: 1/58 ohm·mm²/m at 20 °C, 0.003 93 per kelvin.</summary>
    [Fact]
    public void Copper_warms_as_IEC_60028_says()
    {
        Assert.Equal(0.0172414, Wire.Ohms(1, 1), 7);
        Assert.Equal(1.3144, Wire.Ohms(1, 1, 100) / Wire.Ohms(1, 1), 4);
    }

    // A lamp of 5 W put between two points: dark under a quarter of its voltage, bright from three quarters on.
    private static Glow TestLamp(Network network, string one, string other)
    {
        var share = Math.Abs(Solver.Solve(network.With(new Lamp("test lamp", one, other, 12, 5))).Between(one, other)) / 12;
        return share < 0.25 ? Glow.Dark : share < 0.75 ? Glow.Dim : Glow.Bright;
    }

    /// <summary>Common practice, no source: a meter sees full volts behind 50 ohm, a 5 W lamp stays dark.</summary>
    [Fact]
    public void A_corroded_joint_shows_full_voltage_to_the_meter_and_leaves_the_lamp_dark()
    {
        var network = Of(Battery(), [new Resistor("joint", "plus", "point", 50)]);
        Assert.InRange(Instruments.Voltmeter(network, "point", "0"), 12.59, 12.6);
        Assert.Equal(Glow.Dark, TestLamp(network, "point", "0"));
        Assert.Equal(Glow.Bright, TestLamp(network, "plus", "0"));
    }

    /// <summary>Common practice, no source: 20 milliohm costs 8 mV with a lamp and 4 V with 200 A.</summary>
    [Fact]
    public void Twenty_milliohm_are_found_by_the_motor_and_not_by_the_lamp()
    {
        var still = Of(Battery(), [new Resistor("cable", "plus", "main", 0.0212)]);
        Assert.Equal(Glow.Bright, TestLamp(still, "main", "0"));
        var lit = Solver.Solve(still.With(new Lamp("lamp", "main", "0", 12, 5)));
        Assert.InRange(lit.Between("plus", "main"), 0.008, 0.0095);
        var cranking = Solver.Solve(Of(Battery(), Starter(cable: 0.0212)));
        Assert.InRange(cranking.Between("plus", "main") / cranking.Current("m") * 200, 4.1, 4.4);
        Assert.InRange(cranking.Between("plus", "main"), 2.5, 4.5);
    }

    /// <summary>Common practice, no source: an open starter hardly sags, a stalled one sags deeply.</summary>
    [Fact]
    public void An_open_starter_hardly_sags_and_a_stalled_one_deeply()
    {
        Assert.InRange(Solver.Solve(Of(Battery(), Starter(load: Engine with { Stuck = true }))).Voltage("plus"), 0, 9.6);
        var open = Of(Battery(), [new Resistor("cable", "plus", "main", 0.0012), new Switch("brushes", "main", "0", false)]);
        Assert.InRange(Solver.Solve(open).Voltage("plus"), 12.59, 12.6);
        Assert.InRange(Solver.Solve(Of(Battery(), Starter())).Voltage("plus"), 9.6, 12);
    }

    /// <summary>Common practice, no source: with a weak supply the solenoid lets go as soon as it has closed, again and again.</summary>
    [Fact]
    public void A_collapsing_supply_makes_the_solenoid_chatter()
    {
        Network With(double ohms) => new([.. Battery(12.4, ohms), new Resistor("cable", "plus", "main", 0.001), new MagnetMotor("m", "on", "0", 0.012, 0.028, Engine with { Stuck = true })],
            [new Relay("solenoid", "plus", "0", 0.5, "main", "on", 0.0005, 7, 3)], []);
        var good = Solver.Solve(With(0.006));
        Assert.Contains("solenoid", good.PulledIn);
        Assert.Equal(0, Chatters(good));
        Assert.Equal(1, Chatters(Solver.Solve(With(0.08))));

        static double Chatters(Solution solved)
        {
            double[] told = [0];
            solved.Tell([("chatter", "solenoid")], told);
            return told[0];
        }
    }

    /// <summary>5 W at 12 V draws about 0.4 A and is about 29 ohm hot (common practice, no source; it is 12²/5).</summary>
    [Fact]
    public void A_test_lamp_is_what_its_rating_says()
    {
        var lamp = new Lamp("l", "a", "0", 12, 5);
        Assert.Equal(28.8, lamp.HotOhms, 10);
        Assert.Equal(5 / 12.0, lamp.At(12).Current, 10);
        Assert.Equal(2.88, 0.001 / lamp.At(0.001).Current, 1);
    }

    /// <summary>SAE J537 (from memory): at −18 °C the rated current leaves 7.2 V of a full battery; half of it at 21 °C leaves well over 9.6 V.</summary>
    [Fact]
    public void A_good_battery_passes_its_load_test()
    {
        Assert.Equal(7.2, Circuits.Battery.RestingVolts(1) - 600 * Circuits.Battery.OhmsFromRating(600, -18), 9);
        foreach (var (celsius, least) in new[] { (21, 9.6), (16, 9.5), (10, 9.4), (4, 9.3), (-1, 9.1), (-7, 8.9), (-12, 8.7), (-18, 8.5) })
        {
            Assert.InRange(Circuits.Battery.RestingVolts(1) - 300 * Circuits.Battery.OhmsFromRating(600, celsius), least, 12.6);
            Assert.InRange(Circuits.Battery.RestingVolts(1, deadCells: 1) - 300 * Circuits.Battery.OhmsFromRating(600, celsius), 0, least);
        }
    }

    [Theory]
    [InlineData(1, 12.6)]
    [InlineData(0.75, 12.4)]
    [InlineData(0.5, 12.2)]
    public void Resting_volts_are_those_of_common_practice(double charge, double volts) => Assert.Equal(volts, Circuits.Battery.RestingVolts(charge), 9);

    [Property(MaxTest = 200)]
    public void Slopes_are_the_derivatives_of_currents(DoNotSize<int> millivolts)
    {
        var at = millivolts.Item % 15_000 / 1000.0;
        TwoTerminal[] elements =
        [
            new Lamp("l", "a", "b", 12, 5), new MagnetMotor("m", "a", "b", 0.25, 0.03, Wheel), new SeriesMotor("s", "a", "b", 0.009, 0.05, 250, new MechanicalLoad(2, 0.03)),
            new Resistor("r", "a", "b", 3), new Battery("v", "a", "b", 12, 0.01), new RegulatedSource("g", "a", "b", 14.4, 70),
        ];
        foreach (var element in elements)
        {
            const double h = 1e-6;
            var (left, slope, right) = (element.At(at - h).Current, element.At(at).Slope, element.At(at + h).Current);
            var (before, after) = ((element.At(at).Current - left) / h, (right - element.At(at).Current) / h);
            // At a kink (a motor breaking loose, a source at its limit) either side will do.
            Assert.True(Near(slope, before) || Near(slope, after) || Near(slope, (right - left) / (2 * h)), $"{element.Id} at {at}: {slope}, {before}, {after}");
        }

        static bool Near(double a, double b) => Math.Abs(a - b) <= 1e-3 * (1 + Math.Abs(a));
    }

    [Property(MaxTest = 100)]
    public void Currents_balance_at_every_node_of_random_circuits(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        string Node() => random.Next(6) is var n && n == 0 ? "0" : $"n{n}";
        var elements = new List<Element> { new Battery("b", "n1", "0", 12 + random.NextDouble(), 0.005 + random.NextDouble() / 50) };
        for (var i = 0; i < 12; i++)
        {
            var (from, to) = (Node(), Node());
            if (from == to)
            {
                continue;
            }

            elements.Add(random.Next(6) switch
            {
                0 => new Lamp($"e{i}", from, to, 12, 5 + 50 * random.NextDouble()),
                1 => new MagnetMotor($"e{i}", from, to, 0.05 + random.NextDouble(), 0.03, new MechanicalLoad(0.05 * random.NextDouble(), 0.0003, random.Next(2) * 1e-6, random.Next(4) == 0)),
                2 => new Diode($"e{i}", from, to),
                3 => new Switch($"e{i}", from, to, random.Next(2) == 0),
                _ => new Resistor($"e{i}", from, to, Math.Pow(10, -3 + 6 * random.NextDouble())),
            });
        }

        var solved = Solver.Solve(new Network(elements));
        foreach (var node in elements.SelectMany(e => e.Nodes).Where(n => n != "0").Distinct())
        {
            var sum = elements.OfType<TwoTerminal>().Sum(e => (e.From == node ? solved.Current(e.Id) : 0) - (e.To == node ? solved.Current(e.Id) : 0));
            Assert.InRange(sum, -2e-6, 2e-6);
            Assert.InRange(solved.Voltage(node), -0.001, 13.2);
        }
    }

    [Fact]
    public void The_high_brush_turns_the_wiper_faster_and_a_stuck_one_draws_what_its_windings_let()
    {
        var motor = new TwoBrushMotor("m", "l", "h", "0", 0.95, 0.8, 0.034, 0.024, new MechanicalLoad(0.075, 0.00012));
        double On(string low, string high)
        {
            var solved = Solver.Solve(Of(Battery(), [motor with { Low = low, High = high }]));
            return motor.Speed(solved.Voltage(low), solved.Voltage(high));
        }

        Assert.True(On("l", "plus") > 1.15 * On("plus", "h"), "the high brush is faster");
        Assert.Equal(0, motor.Speed(1.5, 0));
        Assert.True(motor.Speed(-12, 0) < 0);
        var stuck = Solver.Solve(Of(Battery(), [motor with { Load = motor.Load with { Stuck = true }, Low = "plus" }]));
        Assert.Equal(stuck.Voltage("plus") / 0.95, stuck.Current("m"), 6);
    }

    /// <summary>Thévenin's theorem: what an instrument reads is what putting it into the circuit gives.</summary>
    [Property(MaxTest = 60)]
    public void Instruments_placed_by_Thevenin_read_what_they_read_in_the_circuit(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        double Ohms() => Math.Pow(10, -3 + 7 * random.NextDouble());
        var network = new Network([.. Battery(12 + random.NextDouble(), 0.01), new Resistor("a", "plus", "n1", Ohms()), new Resistor("b", "n1", "n2", Ohms()), new Resistor("c", "n2", "0", Ohms()), new Resistor("d", "n1", "n3", Ohms()), new Switch("s", "n3", "0", random.Next(2) == 0)]);
        var solved = Solver.Solve(network);
        foreach (var (plus, minus) in new[] { ("n1", "0"), ("n2", "n3"), ("plus", "n1") })
        {
            var placed = solved.Between(plus, minus) * Instruments.MeterOhms / (Instruments.MeterOhms + solved.TheveninOhms(plus, minus));
            Assert.InRange(Instruments.Voltmeter(network, plus, minus), placed - 1e-6, placed + 1e-6);
            Assert.Equal(TestLamp(network, plus, minus), Instruments.Glowing(Math.Abs(solved.Between(plus, minus)), solved.TheveninOhms(plus, minus)));
        }
    }

    /// <summary>
    /// Thévenin's theorem at an operating point: a milliampere that is sent from one node to another, either way, changes the voltage
    /// between them by what stands behind them, also where a wiper motor with two brushes, a lamp and a rectifier are in its way.
    /// </summary>
    [Property(MaxTest = 200)]
    public void What_an_instrument_sees_behind_it_is_what_a_small_current_meets(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        double Ohms() => Math.Pow(10, -2 + 3 * random.NextDouble());
        Element[] parts =
        [
            .. Battery(12 + random.NextDouble(), 0.01), new Resistor("a", "plus", "n1", Ohms()), new Resistor("b", "n1", "n2", Ohms()), new Lamp("lamp", "n2", "n3", 12, 21),
            new Resistor("c", "n3", "n4", Ohms()), new Resistor("d", "n4", "0", Ohms()), new Resistor("e", "n1", "n5", Ohms()), new Resistor("low", "n5", "n6", Ohms()),
            new TwoBrushMotor("wiper", "n5", "n6", "n4", 0.95, 0.8, 0.034, 0.024, new MechanicalLoad(0.075, 0.00012)), new Diode("diode", "n6", "n7"), new Resistor("f", "n7", "0", Ohms()),
        ];
        var solved = Solver.Solve(Of(parts));
        foreach (var (from, to) in new[] { ("n1", "0"), ("n2", "n5"), ("n3", "n7"), ("n6", "n4"), ("plus", "n4") })
        {
            // A thousand volts behind a megohm. Where a motor is about to break loose one way meets more than the other.
            double Sent(double volts) => Solver.Solve(Of(parts, [new Battery("sent", from, to, volts, 1e6)])).Between(from, to);
            var (more, less) = ((Sent(1000) - solved.Between(from, to)) / 1e-3, (solved.Between(from, to) - Sent(-1000)) / 1e-3);
            var ohms = solved.TheveninOhms(from, to);
            // Where the bend lies within that milliampere one way meets a little of both.
            var error = 2e-4 * (0.01 + ohms) + 0.03 * Math.Abs(more - less);
            Assert.InRange(ohms, Math.Min(more, less) - error, Math.Max(more, less) + error);
        }
    }

    /// <summary>A star of three is a triangle of conductances GaGb/(Ga + Gb + Gc) (Kennelly 1899, from memory), whatever hangs on it.</summary>
    [Property(MaxTest = 60)]
    public void A_star_and_its_triangle_cannot_be_told_apart(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        double Ohms() => Math.Pow(10, -3 + 6 * random.NextDouble());
        var (a, b, c) = (Ohms(), Ohms(), Ohms());
        Element[] around = [.. Battery(), new Resistor("one", "plus", "a", Ohms()), new Resistor("two", "plus", "b", Ohms()), new Resistor("three", "c", "0", Ohms()), new Lamp("lamp", "b", "0", 12, 21)];
        var star = Solver.Solve(Of(around, [new Resistor("sa", "a", "middle", a), new Resistor("sb", "b", "middle", b), new Resistor("sc", "c", "middle", c)]));
        double Side(double one, double other, double third) => one * other * (1 / one + 1 / other + 1 / third);
        var triangle = Solver.Solve(Of(around, [new Resistor("ab", "a", "b", Side(a, b, c)), new Resistor("bc", "b", "c", Side(b, c, a)), new Resistor("ca", "c", "a", Side(c, a, b))]));
        foreach (var node in new[] { "a", "b", "c" })
        {
            // The star has one node more, which leaks ten picoampere a volt.
            Assert.InRange(star.Voltage(node) - triangle.Voltage(node), -1e-6, 1e-6);
            Assert.Equal(1, star.TheveninOhms(node, "0") / triangle.TheveninOhms(node, "0"), 3);
        }
    }

    /// <summary>Ohm's law: what an open contact lets through keeps its digits beside a cable of milliohms.</summary>
    [Fact]
    public void The_leak_of_an_open_contact_is_not_lost_beside_a_cable()
    {
        var solved = Solver.Solve(Of(Battery(), [new Switch("contact", "plus", "a", false), new Resistor("brush", "a", "b", 1e-5), new MagnetMotor("m", "b", "c", 0.012, 0.028, Engine), new Resistor("strap", "c", "0", 1e-6)]));
        Assert.Equal(1, solved.Current("m") / (12.6 / Switch.OpenOhms), 5);
        Assert.Equal(1, solved.Current("brush") / (12.6 / Switch.OpenOhms), 5);
    }

    [Fact]
    public void Many_quantities_told_at_once_are_those_told_one_by_one()
    {
        var network = new Network([.. Battery(), new Resistor("cable", "plus", "main", 0.001), new MagnetMotor("m", "on", "0", 0.012, 0.028, Engine)], [new Relay("solenoid", "plus", "0", 0.5, "main", "on", 0.0005, 7, 3)], [new Fuse("fuse", "plus", "short", 10)]);
        var solved = Solver.Solve(network with { Elements = [.. network.Elements, new Resistor("short", "short", "0", 0.1)] });
        (string, string)[] wanted = [("v", "main"), ("v", "0"), ("i", "cable"), ("i", "m"), ("i", "solenoid.contact"), ("speed", "m"), ("speed", "cable"), ("pulled", "solenoid"), ("chatter", "solenoid"), ("blown", "fuse")];
        var told = new double[wanted.Length];
        solved.Tell(wanted, told);
        var speed = new MagnetMotor("m", "on", "0", 0.012, 0.028, Engine).Speed(solved.Voltage("on"));
        Assert.True(speed > 10, "it turns");
        Assert.Equal([solved.Voltage("main"), 0, solved.Current("cable"), solved.Current("m"), solved.Current("solenoid.contact"), speed, 0, 1, 0, 1], told);
    }

    /// <summary>Kirchhoff's voltage law: what a lamp gets and what is lost behind it are the source's voltage.</summary>
    [Property(MaxTest = 60)]
    public void A_lamp_and_its_source_are_in_balance(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var (volts, ohms) = (30 * random.NextDouble(), Math.Pow(10, -3 + 9 * random.NextDouble()));
        var lamp = Instruments.Share(volts, ohms) * 12;
        Assert.InRange(lamp + new Lamp("lamp", "", "", 12, 5).At(lamp).Current * ohms, volts * (1 - 1e-6), volts * (1 + 1e-6));
        Assert.Equal(0, Instruments.Share(0, ohms));
    }

    /// <summary>A blade fuse bears 110 % for a hundred hours and blows at 160 % within a minute (ISO 8820-3, from memory); between, fuses differ.</summary>
    [Theory]
    [InlineData(1.00, Fuse.Least, false)]
    [InlineData(1.09, Fuse.Least, false)]
    [InlineData(1.11, Fuse.Least, true)]
    [InlineData(1.34, Fuse.BlowsAt, false)]
    [InlineData(1.36, Fuse.BlowsAt, true)]
    [InlineData(1.59, Fuse.Most, false)]
    [InlineData(1.61, Fuse.Most, true)]
    public void A_fuse_blows_above_what_it_bears(double load, double blowsAt, bool blows)
    {
        var solved = Solver.Solve(new Network([new RegulatedSource("source", "plus", "0", 12, 1e6, 1e-6), new Resistor("load", "a", "0", 12 / (10 * load) - 0.003)], [], [new Fuse("f", "plus", "a", 10)]), null, blowsAt);
        Assert.Equal(blows, solved.Blown.Contains("f"));
        Assert.Equal(blows ? 0 : load, solved.Borne, 4);
    }

    [Fact]
    public void A_fuse_that_blew_before_stays_blown() =>
        Assert.InRange(Solver.Solve(new Network([.. Battery(), new Resistor("load", "a", "0", 10)], [], [new Fuse("f", "plus", "a", 10)]), new HashSet<string> { "f" }).Voltage("a"), 0, 0.01);

    [Fact]
    public void More_fuses_than_states_can_be_told_apart_are_refused() =>
        Assert.Throws<ArgumentException>(() => Solver.Solve(new Network([.. Battery()], [], [.. Enumerable.Range(0, 65).Select(i => new Fuse($"f{i}", "plus", "a", 10))])));

    [Fact]
    public void Two_parts_with_one_id_are_refused() =>
        Assert.Throws<ArgumentException>(() => Solver.Solve(Of(Battery(), [new Resistor("battery", "plus", "0", 1)])));

    private static List<double> Ngspice(string name)
    {
        var start = new ProcessStartInfo("ngspice", ["-b", Path.Combine(Folder(), name + ".cir")]) { RedirectStandardOutput = true, RedirectStandardError = true };
        using var process = Process.Start(start)!;
        var output = process.StandardOutput.ReadToEndAsync();
        var errors = process.StandardError.ReadToEndAsync();
        Assert.True(process.WaitForExit(30_000), "ngspice does not end");
        var values = Printed().Matches(output.Result).Select(m => double.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture)).ToList();
        Assert.True(values.Count > 0, output.Result + errors.Result);
        return values;
    }

    private static string Folder()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Screeline.slnx")))
        {
            folder = folder.Parent!;
        }

        return Path.Combine(folder.FullName, "tests/Screeline.Core.Tests/netlists");
    }

    [GeneratedRegex(@"^p\d+ = (\S+)", RegexOptions.Multiline)]
    private static partial Regex Printed();
}
