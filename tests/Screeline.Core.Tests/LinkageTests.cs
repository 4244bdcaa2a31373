using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Screeline.Core.Motion;

namespace Screeline.Core.Tests;

/// <summary>Wiper linkages: position, setting, tolerance, fit. Sources in docs/checks.md.</summary>
public sealed class LinkageTests
{
    internal static WiperLinkage Front(WiperDrive drive = WiperDrive.Continuous) => new(
        "front", drive, new Planar(-170, -92), 42, drive == WiperDrive.AlternatingPark ? [182, 190] : [182], drive == WiperDrive.Reversing ? (182, 352) : null, new CrankGauge(42, 3, 1, 1),
        [
            new WiperRocker("Driver's", new Planar(-470, -38), -1, 311, 62, false, 0, 0, new WiperArm(151.91, 600, 110, 60), new TipBand(10, 5)),
            new WiperRocker("Passenger's", new Planar(70, -38), 0, 542, 64, true, 62, 0, new WiperArm(144.85, 520, 90, 60), new TipBand(10, 5)),
        ],
        new Windscreen([new(-690, -26), new(-350, -4), new(0, 2), new(350, -4), new(690, -26)], [new(-690, -26), new(-560, 690)], [new(690, -26), new(560, 690)]));

    private static double Normal(Random random) => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());

    // Norton, "Design of Machinery", example 4-1 (from memory): a 40, b 120, c 80, d 100, crank at 40°.
    [Theory]
    [InlineData(false, 57.33)]
    [InlineData(true, -98.01)]
    public void A_four_bar_linkage_stands_where_a_textbook_says(bool crossed, double rocker)
    {
        Assert.True(new FourBar(40, 120, 80, 100, crossed).TrySolve(40, out var degrees));
        Assert.Equal(rocker, degrees, 0.01);
    }

    [Theory]
    [InlineData(40, 120, 80, 100, FourBarKind.CrankRocker)]
    [InlineData(100, 120, 80, 40, FourBarKind.DoubleCrank)]
    [InlineData(80, 120, 40, 100, FourBarKind.RockerCrank)]
    [InlineData(80, 40, 100, 120, FourBarKind.DoubleRocker)]
    [InlineData(60, 70, 80, 140, FourBarKind.NoneTurns)]
    [InlineData(50, 100, 50, 100, FourBarKind.ChangePoint)]
    [InlineData(10, 20, 30, 70, FourBarKind.Impossible)]
    public void What_can_turn_follows_Grashof(double crank, double link, double rocker, double ground, FourBarKind kind) =>
        Assert.Equal(kind, new FourBar(crank, link, rocker, ground).Kind);

    private static Arbitrary<FourBar> CrankRockers() => (
        from crank in Gen.Choose(20, 80)
        from link in Gen.Choose(60, 500)
        from rocker in Gen.Choose(40, 150)
        from ground in Gen.Choose(60, 500)
        from crossed in Gen.Elements(true, false)
        let bars = new FourBar(crank, link, rocker, ground, crossed)
        where bars.Kind == FourBarKind.CrankRocker
        select bars).ToArbitrary();

    // What Freudenstein's equation leaves over: cos(θ − ψ) − (d/a)·cos ψ + (d/c)·cos θ − (a² − b² + c² + d²)/(2ac), zero for every position of
    // the linkage (F. Freudenstein, "An analytical approach to the design of four-link mechanisms", 1954; from memory).
    private static double FreudensteinResidual(FourBar bars, double crankDegrees, double rockerDegrees)
    {
        var (theta, psi) = (crankDegrees * Math.PI / 180, rockerDegrees * Math.PI / 180);
        return Math.Cos(theta - psi) - bars.Ground / bars.Crank * Math.Cos(psi) + bars.Ground / bars.Rocker * Math.Cos(theta)
            - (bars.Crank * bars.Crank - bars.Link * bars.Link + bars.Rocker * bars.Rocker + bars.Ground * bars.Ground) / (2 * bars.Crank * bars.Rocker);
    }

    // Crank angles at which a crank-rocker's rocker turns back, degrees: crank and link stretched, then folded. The angle lies at the crank's
    // pivot, between ground and the line through crank and link; the rocker closes the triangle.
    private static double[] DeadCentres(FourBar bars)
    {
        double At(double reach) => Math.Acos(Math.Clamp((reach * reach + bars.Ground * bars.Ground - bars.Rocker * bars.Rocker) / (2 * reach * bars.Ground), -1, 1)) * 180 / Math.PI;
        var (side, folded) = (bars.Crossed ? -1 : 1, bars.Link - bars.Crank);
        return [side * At(bars.Link + bars.Crank), side * At(Math.Abs(folded)) + (folded > 0 ? 180 : 0)];
    }

    [Property(MaxTest = 500)]
    public Property Every_position_fulfils_Freudensteins_equation_and_an_independent_search() => Prop.ForAll(CrankRockers(), Gen.Choose(0, 359).ToArbitrary(), (bars, crank) =>
    {
        Assert.True(bars.TrySolve(crank, out var rocker));
        Assert.Equal(0, FreudensteinResidual(bars, crank, rocker), 1e-9);

        // Without the closed form: the length of the link as a function of the rocker's angle, halved down to the root on the same side.
        var joint = Planar.At(bars.Crank, crank);
        var towards = (joint - new Planar(bars.Ground, 0)).Degrees;
        double Off(double degrees) => (joint - (new Planar(bars.Ground, 0) + Planar.At(bars.Rocker, degrees))).Length - bars.Link;
        var (near, far) = (towards, towards + (bars.Crossed ? 180 : -180));
        for (var i = 0; i < 60; i++)
        {
            var middle = (near + far) / 2;
            (near, far) = Off(middle) < 0 ? (middle, far) : (near, middle);
        }

        Assert.Equal(0, Math.IEEERemainder(near - rocker, 360), 1e-6);
    });

    [Property(MaxTest = 300)]
    public Property A_rocker_turns_back_at_the_dead_centres() => Prop.ForAll(CrankRockers(), bars =>
    {
        double Rocker(double crank) => bars.TrySolve(crank, out var r) ? r : double.NaN;
        foreach (var dead in DeadCentres(bars))
        {
            Assert.Equal(0, Math.IEEERemainder(Rocker(dead + 0.01) - Rocker(dead - 0.01), 360), 1e-4);
        }
    });

    [Fact]
    public void Speed_ratio_and_transmission_angle_agree_with_differences_and_with_the_law_of_cosines()
    {
        var linkage = Front();
        foreach (var at in linkage.Turn(5))
        {
            var (before, after) = (linkage.At(at.CrankDegrees - 1e-4)!, linkage.At(at.CrankDegrees + 1e-4)!);
            for (var r = 0; r < 2; r++)
            {
                Assert.Equal((after.Rockers[r].ArmDegrees - before.Rockers[r].ArmDegrees) / 2e-4, at.Rockers[r].Ratio, 1e-5);
                var rocker = linkage.Rockers[r];
                var open = (at.Rockers[r].LinkFrom - rocker.Pivot).Length;
                var mu = Math.Acos((rocker.Link * rocker.Link + rocker.Lever * rocker.Lever - open * open) / (2 * rocker.Link * rocker.Lever)) * 180 / Math.PI;
                Assert.Equal(Math.Min(mu, 180 - mu), at.Rockers[r].Transmission, 1e-6);
                Assert.Equal(rocker.Link, (at.Rockers[r].LinkTo - at.Rockers[r].LinkFrom).Length, 1e-9);
            }
        }

        // 45 and 65 turns a minute are 270 and 390 degrees a second.
        var fastest = linkage.Turn(1).MaxBy(p => Math.Abs(p.Rockers[0].Ratio))!.Rockers[0];
        Assert.Equal(270 * Math.Abs(fastest.Ratio), WiperLinkage.ArmSpeed(fastest, 45), 1e-9);
        Assert.Equal(65.0 / 45, WiperLinkage.ArmSpeed(fastest, 65) / WiperLinkage.ArmSpeed(fastest, 45), 1e-9);
    }

    [Fact]
    public void The_ends_of_the_sweep_are_the_dead_centres()
    {
        var linkage = Front();
        var sweep = linkage.SweepOf(0);
        var (bars, ground) = linkage.BarsOf(0)!.Value;
        double[] dead = [.. DeadCentres(bars).Select(d => d + ground)];
        Assert.All(new[] { sweep.LowCrank, sweep.HighCrank }, c => Assert.Contains(dead, d => Math.Abs(Math.IEEERemainder(d - c, 360)) < 0.01));
        var every = linkage.Turn(0.1).Select(p => p.Rockers[1].ArmDegrees).ToList();
        var second = linkage.SweepOf(1);
        Assert.Equal(every.Min(), second.Low, 0.001);
        Assert.Equal(every.Max(), second.High, 0.001);
    }

    // Facts of the trade: one tooth of 60 at 560 mm moves the tip by about 59 mm.
    [Fact]
    public void One_tooth_of_sixty_moves_a_tip_at_560_mm_by_59() => Assert.Equal(59, new WiperArm(0, 560, 0, 60).ToothAtTip!.Value, 0.5);

    // The check values of the trade: gap 3 ± 1 mm, tip 10 ± 5 mm.
    [Fact]
    public void The_gap_in_its_tolerance_holds_both_tips_and_the_window_is_where_they_leave()
    {
        var linkage = Front();
        Assert.All(ParkTolerance.Spans(linkage, 2, 4).Zip(linkage.Rockers), s => Assert.True(s.Second.Band.Holds(s.First.Low) && s.Second.Band.Holds(s.First.High)));
        var (low, high) = ParkTolerance.AllHold(linkage)!.Value;
        Assert.True(low < 2 && high > 4);
        double Height(double gap, int r) => linkage.TipHeights(182 + linkage.Gauge!.DegreesAt(gap))[r];
        Assert.Contains(linkage.Rockers, r => Math.Min(Math.Abs(Height(high, linkage.Rockers.ToList().IndexOf(r)) - r.Band.High), Math.Abs(Height(high, linkage.Rockers.ToList().IndexOf(r)) - r.Band.Low)) < 0.01);
        var wrong = Change.Arm(linkage, 0, 6);
        Assert.Null(ParkTolerance.AllHold(wrong with { Rockers = [wrong.Rockers[0], wrong.Rockers[1] with { Band = new TipBand(-200, 1) }] }));
    }

    [Fact]
    public void A_gaps_tolerance_carried_through_agrees_with_five_thousand_random_gaps()
    {
        var linkage = Front() with { Park = [190] };
        var random = new Random(7);
        var spans = ParkTolerance.Spans(linkage, 2, 4);
        List<double[]> seen = [.. Enumerable.Range(0, 5000).Select(_ => linkage.TipHeights(190 + linkage.Gauge!.DegreesAt(2 + 2 * random.NextDouble())).ToArray())];
        for (var r = 0; r < 2; r++)
        {
            Assert.InRange(seen.Min(h => h[r]), spans[r].Low - 0.001, spans[r].Low + 0.1);
            Assert.InRange(seen.Max(h => h[r]), spans[r].High - 0.1, spans[r].High + 0.001);
        }
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void A_fit_finds_a_known_linkage_from_measurements_with_noise(int seed)
    {
        var truth = Front();
        var random = new Random(seed);
        var (one, other) = (truth.SweepOf(0), truth.SweepOf(1));
        ArmMeasured Measured(ArmSeen what, int r, double value) => new(what, r, value + 0.2 * Normal(random), 0.2);
        ArmMeasured[] measured =
        [
            Measured(ArmSeen.AtPark, 0, truth.At(182)!.Rockers[0].ArmDegrees), Measured(ArmSeen.AtLow, 0, one.Low), Measured(ArmSeen.AtHigh, 0, one.High),
            Measured(ArmSeen.AtLow, 1, other.Low), Measured(ArmSeen.AtHigh, 1, other.High),
        ];
        Sought[] sought = [new(LinkageLength.Crank, -1, 45, 4), new(LinkageLength.ArmAngle, 0, 149, 4), new(LinkageLength.Lever, 1, 67, 4), new(LinkageLength.ArmAngle, 1, 148, 5)];
        var found = LinkageFit.Fit(truth, sought, measured);
        double[] right = [42, 151.91, 64, 144.85];
        Assert.All(found.Found.Zip(right), f => Assert.True(Math.Abs(f.First.Value - f.Second) < 4 * f.First.Error, $"{f.First.Sought.What} {f.First.Value} ± {f.First.Error}, {f.Second}"));
        Assert.All(found.Found, f => Assert.True(f.IsFixed));
        Assert.True(found.Misfit < 2.5);
    }

    [Fact]
    public void What_the_measurements_say_nothing_of_stays_as_uncertain_as_the_guess()
    {
        var truth = Front();
        var found = LinkageFit.Fit(truth, [new(LinkageLength.Crank, -1, 44, 3), new(LinkageLength.Lever, 1, 66, 3)], [new(ArmSeen.Sweep, 0, truth.SweepOf(0).Angle, 0.3)]);
        Assert.True(found.Found[0].IsFixed);
        Assert.False(found.Found[1].IsFixed);
        Assert.Equal(3, found.Found[1].Error, 0.05);
    }

    public static TheoryData<WiperDrive, SettingFault, int, double> Faults => new()
    {
        { WiperDrive.Continuous, SettingFault.CrankAngle, -1, 9 }, { WiperDrive.Continuous, SettingFault.CrankAngle, -1, 14 },
        { WiperDrive.Continuous, SettingFault.ArmTooth, 0, 1 }, { WiperDrive.Continuous, SettingFault.ArmTooth, 1, -1 }, { WiperDrive.Continuous, SettingFault.ArmTooth, 1, 2 },
        { WiperDrive.Continuous, SettingFault.ArmFine, 0, 1.5 }, { WiperDrive.Continuous, SettingFault.ArmFine, 1, -1.4 },
        { WiperDrive.Continuous, SettingFault.CrankLength, -1, 4 }, { WiperDrive.Continuous, SettingFault.LinkLength, 1, 5 },
        { WiperDrive.Reversing, SettingFault.CrankAngle, -1, 6 }, { WiperDrive.Reversing, SettingFault.ArmTooth, 0, -1 }, { WiperDrive.AlternatingPark, SettingFault.CrankAngle, -1, 10 },
    };

    [Theory]
    [MemberData(nameof(Faults))]
    public void What_was_done_wrong_is_found_and_how_far(WiperDrive drive, SettingFault fault, int arm, double amount)
    {
        var linkage = Front(drive);
        var now = fault switch
        {
            SettingFault.CrankAngle => Change.Crank(linkage, amount),
            SettingFault.ArmTooth => Change.Arm(linkage, arm, 6 * amount),
            SettingFault.ArmFine => Change.Arm(linkage, arm, amount),
            SettingFault.CrankLength => linkage with { Crank = linkage.Crank + amount },
            _ => Change.Link(linkage, arm, amount),
        };
        var random = new Random(3);
        var seen = (from r in new[] { 0, 1 } from what in Enum.GetValues<TipMeasure>() where what != TipMeasure.LowHeight || drive != WiperDrive.Reversing select new TipSeen(what, r, 0, TipSeen.UsualError(what)))
            .Select(s => s with { Value = s.On(now) + 0.5 * s.Error * Normal(random) }).ToList();
        var answer = SettingFinder.Find(linkage, seen);
        Assert.False(answer.FitsNone);
        var found = answer.Causes.First(c => c.Changes.Count == 1 && (c.Changes[0].Fault == fault || (fault == SettingFault.CrankAngle && c.Changes[0].Fault == SettingFault.LearnedEnds)));
        Assert.True(found.Probability >= 0.5 * answer.Causes[0].Probability, $"{found.Probability:0.00} of {answer.Causes[0].Probability:0.00}, {answer.Causes[0].Changes.FirstOrDefault()}");
        Assert.Equal(arm, found.Changes[0].Arm);
        Assert.InRange(found.Changes[0].Amount, amount - Math.Max(0.5, 0.2 * Math.Abs(amount)), amount + Math.Max(0.5, 0.2 * Math.Abs(amount)));
        // Put right, every measurement is where it belongs.
        Assert.All(found.After.Zip(answer.Expected, seen), x => Assert.True(Math.Abs(x.First - x.Second) < 4 * x.Third.Error));
    }

    [Fact]
    public void With_a_turning_motor_a_wrong_crank_moves_park_and_leaves_the_ends_with_a_reversing_one_all_of_it()
    {
        foreach (var (drive, moves) in new[] { (WiperDrive.Continuous, false), (WiperDrive.Reversing, true) })
        {
            var (right, wrong) = (Front(drive), Change.Crank(Front(drive), 8));
            Assert.NotEqual(right.TipHeights(right.Park[0])[0], wrong.TipHeights(wrong.Park[0])[0], 1);
            Assert.Equal(moves, Math.Abs(right.SweepOf(0).High - wrong.SweepOf(0).High) > 0.1 || Math.Abs(right.SweepOf(0).Low - wrong.SweepOf(0).Low) > 0.1);
        }
    }

    [Fact]
    public void Two_things_at_once_are_found_together()
    {
        var linkage = Front();
        var now = Change.Arm(Change.Crank(linkage, 10), 1, -6);
        var seen = (from r in new[] { 0, 1 } from what in Enum.GetValues<TipMeasure>() select new TipSeen(what, r, 0, TipSeen.UsualError(what))).Select(s => s with { Value = s.On(now) }).ToList();
        var best = SettingFinder.Find(linkage, seen).Causes[0];
        Assert.Equal([SettingFault.CrankAngle, SettingFault.ArmTooth], best.Changes.Select(c => c.Fault));
        Assert.Equal(-1, best.Changes[1].Amount);
    }

    [Fact]
    public void A_right_setting_is_called_right_and_nonsense_fits_nothing()
    {
        var linkage = Front();
        var right = (from r in new[] { 0, 1 } from what in Enum.GetValues<TipMeasure>() select new TipSeen(what, r, 0, TipSeen.UsualError(what))).Select(s => s with { Value = s.On(linkage) }).ToList();
        Assert.Empty(SettingFinder.Find(linkage, right).Causes[0].Changes);
        List<TipSeen> nonsense = [new(TipMeasure.ParkHeight, 0, 300, 1.5), new(TipMeasure.LowHeight, 0, -200, 1.5), new(TipMeasure.SweepAngle, 0, 20, 1), new(TipMeasure.SweepAngle, 1, 160, 1), new(TipMeasure.ParkHeight, 1, -90, 1.5), new(TipMeasure.PillarClearance, 0, 400, 3)];
        Assert.True(SettingFinder.Find(linkage, nonsense).FitsNone);
    }

    [Fact]
    public void From_one_height_alone_it_names_what_to_measure_next()
    {
        var linkage = Front();
        var answer = SettingFinder.Find(linkage, [new TipSeen(TipMeasure.ParkHeight, 0, 40, 1.5)]);
        Assert.NotNull(answer.Next);
        Assert.NotEqual((TipMeasure.ParkHeight, 0), (answer.Next.What, answer.Next.Arm));
        Assert.True(answer.Causes[0].Probability < 0.9);
    }

    public static TheoryData<string, Func<WiperLinkage, WiperLinkage>, string> Impossible => new()
    {
        { "$.crank", l => l with { Crank = 0 }, "above nothing" },
        { "$.rockers[0].lever", l => Change.Lever(l, 0, -100), "above nothing" },
        { "$.rockers[0].link", l => Change.Link(l, 0, 200), "together" },
        { "$.rockers[0].link", l => l with { Crank = 75 }, "Grashof" },
        { "$.rockers[1].link", l => Change.Link(l, 1, 40), "does not reach" },
        { "$.rockers[1].driven_by", l => l with { Rockers = [l.Rockers[0], l.Rockers[1] with { DrivenBy = 1 }] }, "before this one" },
        { "$.park", l => l with { Park = [1, 2] }, "one angle" },
        { "$.ends", l => l with { Drive = WiperDrive.Reversing }, "two angles" },
        { "$.rockers[0].arm.tip", l => l with { Rockers = [l.Rockers[0] with { Arm = new WiperArm(0, 100, 200, 60) }, l.Rockers[1]] }, "farther out" },
        { "$.rockers[0].pivot", l => l with { Rockers = [l.Rockers[0] with { Pivot = l.Motor }, l.Rockers[1]] }, "same place" },
    };

    [Theory]
    [MemberData(nameof(Impossible))]
    public void A_linkage_that_cannot_turn_says_so_and_where(string path, Func<WiperLinkage, WiperLinkage> spoil, string says)
    {
        Assert.Empty(LinkageChecks.FaultsOf(Front()));
        Assert.Contains(LinkageChecks.FaultsOf(spoil(Front())), f => f.Path == path && f.Message.Contains(says, StringComparison.Ordinal));
    }

    [Theory]
    [InlineData(ParkVerdict.Holds, null, "10.0 11 10 9 10.5 10 11 9.5 10 10")]
    [InlineData(ParkVerdict.Alternates, null, "10.0 22 11 21 10 22 10.5 21.5 10 22")]
    [InlineData(ParkVerdict.Alternates, true, "10.0 22 11 21 10 22 10.5 21.5 10 22")]
    [InlineData(ParkVerdict.TwoPlaces, false, "10.0 22 11 21 10 22 10.5 21.5 10 22")]
    [InlineData(ParkVerdict.TwoPlaces, null, "10.0 10 11 31 10 32 31.5 10 10 11")]
    [InlineData(ParkVerdict.Creeps, null, "10.0 12 13.5 15 17 18.5 20 22 24 25")]
    [InlineData(ParkVerdict.Scatters, null, "10.0 18 4 14 22 7 12 19 3 15")]
    [InlineData(ParkVerdict.MoreStops, null, "10.0 11 12")]
    public void Ten_stops_tell_what_parks_badly(ParkVerdict verdict, bool? alternating, string stops) =>
        Assert.Equal(verdict, ParkStops.Judge([.. stops.Split(' ').Select(s => double.Parse(s, System.Globalization.CultureInfo.InvariantCulture))], alternating).Verdict);

    [Fact]
    public void The_places_of_alternating_park_keep_their_own_mean_and_spread()
    {
        var stops = ParkStops.Judge([10, 22, 11, 21, 10, 22, 10.5, 21.5, 10, 22]);
        Assert.Equal(2, stops.Places.Count);
        Assert.Equal(10.3, stops.Places[0].Mean, 1e-9);
        Assert.Equal(21.7, stops.Places[1].Mean, 1e-9);
        Assert.All(stops.Places, p => Assert.InRange(p.Spread, 0.3, 0.6));
        Assert.Equal([0, 1, 0, 1, 0, 1, 0, 1, 0, 1], stops.PlaceOf);
    }
}
