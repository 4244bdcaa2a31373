using System.Numerics;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Screeline.Core.Formats;
using Screeline.Core.Motion;

namespace Screeline.Core.Tests;

/// <summary>Balance, windows, actuators and belts. Sources in docs/checks.md.</summary>
public sealed class MotionTests
{
    private static BalanceRun Run(Complex imbalance, double influence, params RotorWeight[] weights)
    {
        var run = new BalanceRun(0, weights);
        return run with { Amplitude = influence * (imbalance + run.Weight).Magnitude };
    }

    private static List<BalanceRun> FourRuns(Complex imbalance, double influence, double grams, params double[] angles) =>
        [Run(imbalance, influence), .. angles.Select(a => Run(imbalance, influence, new RotorWeight(grams, a)))];

    private static Arbitrary<(Complex Imbalance, double Influence, double Trial, double Turn)> Rotors() => (
        from grams in Gen.Choose(5, 400)
        from degrees in Gen.Choose(0, 359)
        from influence in Gen.Choose(1, 500)
        from trial in Gen.Choose(50, 200)
        from turn in Gen.Choose(0, 119)
        select (Complex.FromPolarCoordinates(grams / 100.0, degrees * Math.PI / 180), influence / 100.0, trial / 100.0 * grams / 100.0, (double)turn)).ToArbitrary();

    [Property(MaxTest = 500)]
    public Property Four_runs_find_the_imbalance_of_any_rotor() => Prop.ForAll(Rotors(), rotor =>
    {
        var balance = Balance.FromRuns(FourRuns(rotor.Imbalance, rotor.Influence, rotor.Trial, rotor.Turn, rotor.Turn + 120, rotor.Turn + 240));
        Assert.Equal(0, (balance.Imbalance - rotor.Imbalance).Magnitude, 1e-6);
        Assert.Equal(rotor.Influence, balance.Influence, 1e-6);
        Assert.True(balance.Misfit < 1e-9);
        // With the correction on it runs still, and its two shares are the correction.
        Assert.Equal(0, Run(rotor.Imbalance, rotor.Influence, balance.Correction).Amplitude, 1e-6);
        var shares = Balance.Split(balance.Correction, 7, 10).Select(s => s.Weight).ToList();
        Assert.Equal(0, (shares[0].Vector + shares[1].Vector - balance.Correction.Vector).Magnitude, 1e-9);
        Assert.All(shares, s => Assert.True(s.Grams >= -1e-9));
    });

    // The vector method with a phase reading (influence coefficient): amplitude and phase as found 3.4 at 116°, with 2 g at 0° 1.8 at 42°
    // (figures in the manner of a maker's application note on single-plane balancing, from memory). Four runs without phase must agree.
    [Fact]
    public void Without_phase_the_same_weight_is_found_as_with_it()
    {
        Complex Read(double amplitude, double degrees) => Complex.FromPolarCoordinates(amplitude, degrees * Math.PI / 180);
        var (found, with) = (Read(3.4, 116), Read(1.8, 42));
        var influence = (with - found) / 2;
        var correction = RotorWeight.FromVector(-found / influence);
        double At(double degrees) => (found + influence * Complex.FromPolarCoordinates(2, degrees * Math.PI / 180)).Magnitude;
        var balance = Balance.FromRuns([new(3.4, []), new(1.8, [new(2, 0)]), new(At(120), [new(2, 120)]), new(At(240), [new(2, 240)])]);
        Assert.Equal(correction.Grams, balance.Correction.Grams, 1e-6);
        Assert.Equal(correction.Degrees, balance.Correction.Degrees, 1e-4);
        Assert.Equal(2.01, balance.Correction.Grams, 0.01);
    }

    [Fact]
    public void A_run_with_the_correction_on_makes_the_next_one_better()
    {
        var (imbalance, influence) = (Complex.FromPolarCoordinates(3, 2.1), 0.8);
        var random = new Random(5);
        var runs = FourRuns(imbalance, influence, 2, 0, 120, 240).Select(r => r with { Amplitude = r.Amplitude * (1 + 0.04 * (random.NextDouble() - 0.5)) }).ToList();
        var first = Balance.FromRuns(runs);
        var corrected = Run(imbalance, influence, first.Correction);
        var second = Balance.FromRuns([.. runs, corrected]);
        Assert.Equal(corrected.Amplitude / second.Influence, second.LeftInLastRun, 1e-12);
        Assert.True((second.Imbalance - imbalance).Magnitude <= (first.Imbalance - imbalance).Magnitude + 1e-9);
        Assert.Equal(0, (second.Addition.Vector + corrected.Weight - second.Correction.Vector).Magnitude, 1e-9);
    }

    [Fact]
    public void Runs_that_cannot_belong_together_are_refused_or_shown_as_misfit()
    {
        Assert.Contains("three", Assert.Throws<MotionException>(() => Balance.FromRuns([new(5, []), new(4, [new(2, 0)])])).Message, StringComparison.Ordinal);
        Assert.Contains("angles", Assert.Throws<MotionException>(() => Balance.FromRuns(FourRuns(3, 1, 2, 0, 0, 120))).Message, StringComparison.Ordinal);
        Assert.Contains("belong", Assert.Throws<MotionException>(() => Balance.FromRuns([new(9, []), new(4, [new(2, 0)]), new(4, [new(2, 120)]), new(4, [new(2, 240)])])).Message, StringComparison.Ordinal);
        Assert.Contains("nothing to balance", Assert.Throws<MotionException>(() => Balance.FromRuns(FourRuns(0, 1, 2, 0, 120, 240))).Message, StringComparison.Ordinal);
        Assert.True(Balance.FromRuns([new(5, []), new(9, [new(2, 0)]), new(9, [new(2, 120)]), new(9, [new(2, 240)])]).Misfit > Balance.LargestMisfit);
    }

    // ISO 21940-11: U = 9549·G·m/n; G 6.3 at 3000 rev/min is 20 µm, at 1500 rev/min 40 µm, G 2.5 at 3000 rev/min 8 µm (its diagram, from memory).
    [Theory]
    [InlineData(6.3, 1, 3000, 20.05)]
    [InlineData(6.3, 1, 1500, 40.1)]
    [InlineData(2.5, 1, 3000, 7.96)]
    [InlineData(6.3, 0.35, 4200, 5.01)]
    public void Permissible_imbalance_follows_the_standard(double grade, double kilograms, double speed, double permissible)
    {
        Assert.Equal(permissible, BalanceGrade.Permissible(grade, kilograms, speed), 0.01);
        Assert.Equal(grade, BalanceGrade.Reached(BalanceGrade.Permissible(grade, kilograms, speed), kilograms, speed), 1e-9);
        // The standard's own meaning of G: the speed of the centre of mass, e·ω.
        Assert.Equal(grade, permissible / kilograms / 1000 * speed * Math.PI / 30, 0.01 * grade);
    }

    [Theory]
    [InlineData(VibrationSource.Imbalance, "1000.0 1 2000 4 3000 9")]
    [InlineData(VibrationSource.Imbalance, "1000.0 1.1 2000 3.7 3000 9.6 4000 15")]
    [InlineData(VibrationSource.Bearing, "1000.0 2 2000 2.4 3000 2.6")]
    [InlineData(VibrationSource.Resonance, "1000.0 1 1500 6 2000 3 3000 5")]
    [InlineData(VibrationSource.MoreSpeeds, "1000.0 1 1200 2")]
    public void Growth_with_speed_tells_imbalance_from_a_bearing(VibrationSource source, string points) =>
        Assert.Equal(source, VibrationGrowth.Judge([.. points.Split(' ').Select(p => double.Parse(p, System.Globalization.CultureInfo.InvariantCulture)).Chunk(2).Select(p => (p[0], p[1]))]).Source);

    private static readonly WindowLift Lift = new(30, 1.5, 1.2, 3.2);

    // Friction and weight by force; from it the current a motor draws.
    private static WindowRun Glass(GlassWay way, Func<double, double> friction, double seconds = 4, double weight = 31.4) =>
        new(way, seconds, [.. Enumerable.Range(0, WindowRun.Steps).Select(i => Lift.IdleAmperes + (friction(WindowRun.Position(i)) + (way == GlassWay.Up ? weight : -weight)) / Lift.NewtonsPerAmpere)]);

    private static readonly Dictionary<GlassWay, WindowBand> Bands = Enum.GetValues<GlassWay>().ToDictionary(w => w, w => WindowBand.FromRuns([Glass(w, _ => 70), Glass(w, _ => 74), Glass(w, _ => 72)]));

    [Fact]
    public void Friction_and_weight_are_told_apart_by_going_both_ways()
    {
        var answer = WindowTravel.Judge([Glass(GlassWay.Up, p => 60 + 20 * p), Glass(GlassWay.Down, p => 60 + 20 * p)], Bands, Lift);
        Assert.Equal(31.4, answer.Weight!.Value, 1e-9);
        Assert.Equal(70, answer.Friction![25], 1e-9);
    }

    public static TheoryData<string, WindowRun[], string> Windows => new()
    {
        { "good", [Glass(GlassWay.Up, _ => 72), Glass(GlassWay.Down, _ => 72)], "Within the band" },
        { "guide", [Glass(GlassWay.Up, p => p is > 0.4 and < 0.6 ? 130 : 72), Glass(GlassWay.Down, p => p is > 0.4 and < 0.6 ? 130 : 72)], "both ways" },
        { "tilt", [Glass(GlassWay.Up, p => p > 0.7 ? 150 : 72), Glass(GlassWay.Down, _ => 72)], "Set the guide" },
        { "dry", [Glass(GlassWay.Up, _ => 140), Glass(GlassWay.Down, _ => 140)], "Stiff all the way, both ways" },
        { "cable off", [Glass(GlassWay.Up, _ => 0, weight: 0), Glass(GlassWay.Down, _ => 72)], "cable off" },
        { "low supply", [Glass(GlassWay.Up, _ => 72, seconds: 7)], "supply is low" },
    };

    [Theory]
    [MemberData(nameof(Windows))]
    public void What_the_glass_does_is_named(string what, WindowRun[] runs, string says)
    {
        var said = WindowTravel.Judge(runs, Bands, Lift).Said;
        Assert.True(said.Any(s => $"{s.What} {s.Because}".Contains(says, StringComparison.Ordinal)), $"{what}: {string.Join("; ", said)}");
    }

    [Fact]
    public void Inrush_and_stall_belong_to_no_band()
    {
        var run = Glass(GlassWay.Up, p => p < 0.06 || p > 0.98 ? 700 : 72);
        Assert.Empty(WindowTravel.Judge([run], Bands, Lift).Stretches);
    }

    [Fact]
    public void The_margin_shrinks_with_volts_and_cold()
    {
        var (available, needed) = WindowTravel.Margin(Lift, 72, 12, 20);
        Assert.Equal(30 * (10 - 1.5), available, 1e-9);
        Assert.Equal(3.2 * 9.81 + 72, needed, 1e-9);
        var cold = WindowTravel.Margin(Lift, 72, 9, -20);
        Assert.True(cold.Needed > needed && cold.Available < available);
        Assert.Equal(3.2 * 9.81 + WindowTravel.ColdSeals * 72, cold.Needed, 1e-9);
        Assert.Equal(100, WindowTravel.AntiTrapNewtons);
        Assert.Equal(0.573, WindowTravel.Tilt(405, 400, 500), 0.001);
    }

    [Theory]
    [InlineData(0, 20, 0, CutOut.Closed)]
    [InlineData(12, 10, 0, CutOut.Perhaps)]
    [InlineData(30, 0, 0, CutOut.Open)]
    [InlineData(30, 0, 600, CutOut.Closed)]
    public void A_hot_motor_is_not_condemned(double stalled, double running, double rested, CutOut state)
    {
        var (told, wait) = ThermalCutOut.After(stalled, running, rested);
        Assert.Equal(state, told);
        Assert.Equal(CutOut.Closed, ThermalCutOut.After(stalled, running, rested + wait + 1).State);
    }

    private static string Csv(string header, Func<int, string> row, int rows = 21) => header + "\n" + string.Join("\n", Enumerable.Range(0, rows).Select(row));

    [Fact]
    public void Runs_written_as_CSV_come_back()
    {
        WindowRun[] runs = [Glass(GlassWay.Up, p => 60 + 20 * p), Glass(GlassWay.Down, p => 60 + 20 * p, 3.5)];
        var read = WindowCsv.Read(WindowCsv.Write(runs), "test");
        Assert.Equal(2, read.Count);
        Assert.All(read.Zip(runs), r =>
        {
            Assert.Equal((r.Second.Way, r.Second.Seconds), (r.First.Way, r.First.Seconds));
            Assert.All(r.First.Amperes.Zip(r.Second.Amperes), a => Assert.Equal(a.Second, a.First, 0.001));
        });
        var byTime = Assert.Single(WindowCsv.Read(Csv("time_s;current_a", i => $"{i * 0.2:0.0};5,5"), "test"));
        Assert.Equal((GlassWay.Up, 4.0), (byTime.Way, byTime.Seconds));
        Assert.All(byTime.Amperes, a => Assert.Equal(5.5, a));
    }

    public static TheoryData<string, string, string> BadCsv => new()
    {
        { Csv("time_ms,current_a", i => $"{i},5"), "row 1, column 1", "time_s (seconds)" },
        { Csv("time_s,current_ma", i => $"{i},5"), "row 1, column 2", "current_a (amperes)" },
        { Csv("time_s,colour", i => $"{i},5"), "row 1, column 2", "none of" },
        { Csv("time_s", i => $"{i}"), "row 1, column current_a", "missing" },
        { Csv("current_a", i => "5"), "row 1, column time_s", "missing" },
        { Csv("time_s,current_a", i => i == 7 ? "1.4,x" : $"{i * 0.2},5"), "row 9, column current_a", "“x”" },
        { Csv("time_s,current_a", i => i == 7 ? "," : $"{i * 0.2},5"), "row 9, column current_a", "empty" },
        { Csv("way,time_s,current_a", i => $"sideways,{i * 0.2},5"), "row 2, column way", "up or down" },
        { Csv("position_percent,current_a", i => $"{(i < 10 ? i * 2 : 60 + i * 2)},5"), "row 12, column position_percent", "gap" },
        { Csv("position_percent,current_a", i => $"{i * 2},5"), "row 22, column position_percent", "stop to stop" },
        { Csv("time_s,current_a", i => $"{i * 0.2},5", 4), "row 5, column current_a", "at least 10" },
        { "", "row 1", "header" },
        { "time_s,current_a\n", "row 2", "no sample" },
    };

    [Theory]
    [MemberData(nameof(BadCsv))]
    public void A_CSV_with_faults_names_row_and_column(string text, string path, string says) =>
        Assert.Contains(Assert.Throws<RefusedFileException>(() => WindowCsv.Read(text, "test")).Faults, f => f.Path == path && f.Message.Contains(says, StringComparison.Ordinal));

    public static TheoryData<ActuatorMeasured, string, bool> Actuators => new()
    {
        { new(1000, 30, new EndStop(12, 0.9), new EndStop(1005, 0.95), MovingAmperes: (0.3, 0.32)), "Stroke 993", false },
        { new(1000, 30, new EndStop(12, 0.9), new EndStop(1205, 0.35), MovingAmperes: (0.3, 0.32)), "Runs 193 counts over at the high end: that stop is missing", true },
        { new(1000, 30, new EndStop(12, null), new EndStop(1205, null)), "a stop is missing or broken", true },
        { new(1000, 30, new EndStop(12, 0.9), new EndStop(700, 0.9), MovingAmperes: (0.3, 0.32)), "Stops 312 counts short", true },
        { new(1000, 30, new EndStop(12, 0.9), new EndStop(1005, 0.31), MovingAmperes: (0.3, 0.32)), "No rise of current at the high end", true },
        { new(1000, 30, new EndStop(0, null), new EndStop(1000, null), 10, 45, 3), "4.5° at the output", true },
        { new(1000, 30, new EndStop(0, null), new EndStop(1000, null), 10, 20, 3), "2.0° at the output", false },
        { new(1000, 30, new EndStop(0, null), new EndStop(1000, null), MovingAmperes: (0.9, 0.3)), "one way", false },
        { new(1000, 30, new EndStop(0, null), new EndStop(1000, null), MovingAmperes: (0.9, 0.8), LargestMoving: 0.5), "usual is up to", true },
    };

    [Theory]
    [MemberData(nameof(Actuators))]
    public void End_stops_play_and_current_are_judged(ActuatorMeasured measured, string says, bool bad) =>
        Assert.Contains(ActuatorSetting.Judge(measured), s => s.What.Contains(says, StringComparison.Ordinal) && s.Bad == bad);

    [Fact]
    public void Play_is_carried_through_the_gears()
    {
        // The motor's stage hardly counts at the output, the last one in full.
        Assert.Equal(0.5 + 1.0 / 5 + 3.0 / 20, ActuatorSetting.Backlash([new GearStage(40, 3), new GearStage(4, 1), new GearStage(5, 0.5)]), 1e-12);
        Assert.False(ActuatorSetting.Renew(true, false, false).Pair);
        Assert.True(ActuatorSetting.Renew(true, false, true).Pair);
        Assert.True(ActuatorSetting.Renew(true, true, false).Pair);
    }

    // A string's waves run at √(T/m); its first tone is one wave to and fro over the span (M. Mersenne).
    [Theory]
    [InlineData(0.02, 0.25, 120)]
    [InlineData(0.11, 0.4, 55)]
    public void Belt_tension_agrees_with_the_wave_on_a_string(double mass, double span, double hertz)
    {
        var tension = BeltDrive.TensionByFrequency(mass, span, hertz);
        Assert.Equal(1 / hertz, 2 * span / Math.Sqrt(tension / mass), 1e-12);
        Assert.Equal(hertz, BeltDrive.FrequencyAt(mass, span, tension), 1e-9);
    }

    [Fact]
    public void Belt_tension_by_pressing_and_speed_by_pulleys()
    {
        // For small deflections F·L/(4·d).
        Assert.Equal(100 * 400 / (4 * 5.0), BeltDrive.TensionByDeflection(100, 400, 5), 1.5);
        Assert.Equal(2400, BeltDrive.DrivenSpeed(800, 150, 50), 1e-9);
    }
}
