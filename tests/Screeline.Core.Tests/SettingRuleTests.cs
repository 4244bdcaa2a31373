using System.Text.Json.Nodes;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Screeline.Core.Access;
using Screeline.Core.Circuits;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Core.Motion;
using Screeline.Library.Demo;

namespace Screeline.Core.Tests;

/// <summary>Settings in a job, their format and words, and what must hold whatever is measured.</summary>
public sealed class SettingRuleTests
{
    private static readonly Library.ShippedMap Wiper = JobStory.Library.MapsFor("wiper", "Orlo Petrel")[0];

    // The demo's wiper job up to the step that sets the tips.
    private static (List<Entry> Entries, Func<Job> Fold) TipsDue()
    {
        var knowledge = new JobKnowledge(new Library.Families(JobStory.Library), new Dictionary<string, AccessMap> { [Wiper.Hash] = Wiper.Map, [JobStory.Map.Hash] = JobStory.Map.Map });
        var now = DateTimeOffset.UnixEpoch.AddYears(66);
        var told = new DemoStory(JobStory.Library, DemoFleet.Load(), now).Jobs().Single(j => j.Entries[0].Payload is JobOpened { Family: "wiper" } && j.Entries.All(e => e.Payload is not HandedBack));
        List<Entry> entries = [.. told.Entries.Select((e, i) => new Entry(new EntryDraft(e.Id ?? Guid.NewGuid(), told.Id, i, e.Actor, now - e.Ago, e.Payload), i + 1, e.Actor, now - e.Ago))];
        return (entries, () => Job.Fold(entries, knowledge));
    }

    private static void Say(List<Entry> entries, Payload payload)
    {
        var (job, at) = (entries[0].Draft.Job, DateTimeOffset.UnixEpoch.AddYears(66).AddMinutes(entries.Count));
        entries.Add(new Entry(new EntryDraft(Guid.NewGuid(), job, entries.Count, JobStory.Ansa, at, payload), entries.Count + 1, JobStory.Ansa, at));
    }

    private static SettingKept Kept(bool holds, string? step = "tips-set", string kind = "wiper") => new(step, kind, holds ? "Tips in their bands" : "Turn the crank 6.3° with the clock", holds, new Dictionary<string, string>());

    [Fact]
    public void A_step_with_a_setting_stays_shut_until_it_holds()
    {
        var (entries, fold) = TipsDue();
        Assert.Empty(fold().Disputes);
        var tick = new StepDone(WorkPhase.Refit, "tips-set", null, []);
        string? Refused() => JobRules.OutOfOrder(fold(), tick, DateTimeOffset.UnixEpoch.AddYears(67));
        Assert.Contains("not kept yet", Refused(), StringComparison.Ordinal);
        Say(entries, Kept(true, step: null));
        Say(entries, Kept(true, kind: "park"));
        Assert.Contains("not kept yet", Refused(), StringComparison.Ordinal);
        Say(entries, Kept(false));
        Assert.Contains("Turn the crank", Refused(), StringComparison.Ordinal);
        Say(entries, Kept(true));
        Assert.Null(Refused());
        // Measured again and no longer right: shut again; taken back: as before.
        Say(entries, Kept(false));
        Assert.NotNull(Refused());
        Say(entries, new EntryWithdrawn(entries[^1].Id));
        Assert.Null(Refused());
    }

    [Fact]
    public void A_setting_that_is_not_right_keeps_the_job_from_going_back_until_it_is_or_is_taken_back()
    {
        var (entries, fold) = TipsDue();
        IEnumerable<string> Wrong() => fold().MissingFromProof.Where(m => m.StartsWith("Not right yet", StringComparison.Ordinal));
        Assert.Empty(Wrong());
        Say(entries, Kept(false, step: null));
        Assert.Equal(["Not right yet: Turn the crank 6.3° with the clock"], Wrong());
        Say(entries, new EntryWithdrawn(entries[^1].Id));
        Assert.Empty(Wrong());
        // As found, then right: only the last word counts, at whichever step it was said.
        Say(entries, Kept(false, step: null));
        Say(entries, Kept(true));
        Assert.Empty(Wrong());
    }

    [Fact]
    public void What_cannot_be_kept_is_told_with_its_path()
    {
        var job = TipsDue().Fold();
        Assert.Empty(JobRules.Malformed(job, Kept(true)));
        Assert.Equal("$.payload.setting", Assert.Single(JobRules.Malformed(job, Kept(true, kind: "door"))).Path);
        Assert.Equal("$.payload.step", Assert.Single(JobRules.Malformed(job, Kept(true, step: "nowhere"))).Path);
        Assert.Equal("$.payload.words", Assert.Single(JobRules.Malformed(job, Kept(true) with { Words = "" })).Path);
        Assert.Equal("$.payload.asked", Assert.Single(JobRules.Malformed(job, Kept(true) with { Asked = new Dictionary<string, string> { ["a"] = new('x', 2001) } })).Path);
    }

    [Fact]
    public void Two_people_who_set_the_same_thing_are_asked_others_are_not()
    {
        Assert.True(ConflictingEntries.Clashes(Kept(true), Kept(false)));
        Assert.False(ConflictingEntries.Clashes(Kept(true), Kept(true, step: "park-repeats", kind: "park")));
        Assert.False(ConflictingEntries.Clashes(Kept(true), new NoteAdded(null, "n")));
    }

    public static TheoryData<WiperDrive, SettingFault, int, double, string> Words => new()
    {
        { WiperDrive.Continuous, SettingFault.CrankAngle, -1, 6.3, "Turn the crank 6.3° with the clock" },
        { WiperDrive.Continuous, SettingFault.CrankAngle, -1, -2.1, "Turn the crank 2.1° against the clock" },
        { WiperDrive.Continuous, SettingFault.CrankAngle, -1, 6.3, "The gap goes from 7.6 to 3 mm" },
        { WiperDrive.Continuous, SettingFault.CrankAngle, -1, 6.3, "the ends of the sweep are right" },
        { WiperDrive.Reversing, SettingFault.CrankAngle, -1, 6.3, "the whole sweep is shifted" },
        { WiperDrive.Reversing, SettingFault.LearnedEnds, -1, 6.3, "learn its ends again" },
        { WiperDrive.Continuous, SettingFault.ArmTooth, 0, 1, "Move the driver's arm 1 tooth down" },
        { WiperDrive.Continuous, SettingFault.ArmTooth, 1, -2, "Move the passenger's arm 2 teeth up" },
        { WiperDrive.Continuous, SettingFault.ArmTooth, 0, 1, "63 mm at its tip" },
        { WiperDrive.Continuous, SettingFault.ArmFine, 0, 1.5, "down 1.5°: 16 mm at its tip" },
        { WiperDrive.Continuous, SettingFault.CrankLength, -1, -2, "2 mm too short, or bent" },
        { WiperDrive.Continuous, SettingFault.LinkLength, 1, 4, "Renew the passenger's link: 4 mm too long" },
        { WiperDrive.Continuous, SettingFault.LeverLength, 0, 2, "the driver's lever" },
        { WiperDrive.Continuous, SettingFault.WrongArm, 0, 40, "40 mm too far out" },
        { WiperDrive.Continuous, SettingFault.WornJoint, 1, 0, "Feel the passenger's joints for play" },
        { WiperDrive.Continuous, SettingFault.None, -1, 0, "Turn nothing" },
    };

    [Theory]
    [MemberData(nameof(Words))]
    public void The_hand_is_told_what_to_do_and_why(WiperDrive drive, SettingFault fault, int arm, double amount, string says)
    {
        var advice = SettingAdvice.For(LinkageTests.Front(drive), new SettingChange(fault, arm, amount, 0.1));
        Assert.Contains(says, $"{advice.Act} {advice.Because} {advice.Check}", StringComparison.Ordinal);
        Assert.StartsWith("Because", advice.Because, StringComparison.Ordinal);
        Assert.NotEmpty(SettingAdvice.Name(LinkageTests.Front(drive), new SettingChange(fault, arm, amount, 0.1)));
    }

    [Theory]
    [InlineData("$.crank", "crank", "-3")]
    [InlineData("$.motor", "motor", "[1, 2, 3]")]
    [InlineData("$.park", "park", "\"up\"")]
    [InlineData("$.drive", "drive", "\"wind\"")]
    [InlineData("$.glass.cowl", "glass.cowl", "[[0, 0], [0, 0]]")]
    [InlineData("$.rockers[1].lever", "rockers.1.lever", "\"long\"")]
    [InlineData("$.rockers[1].link", "rockers.1.link", "900")]
    [InlineData("$.rockers[0].arm.teeth", "rockers.0.arm.teeth", "2.5")]
    [InlineData("$.gauge", "gauge.tolerance", "60")]
    [InlineData("$.ends", "ends", "[1, 90]")]
    [InlineData("$.note", "note", "1")]
    public void A_linkage_file_with_a_fault_names_it(string path, string at, string to)
    {
        JsonNode root = LinkageFormat.Write(JobStory.Library.Linkages.Single(l => l.Id == "petrel-front"));
        var keys = at.Split('.');
        var node = keys[..^1].Aggregate(root, (n, key) => int.TryParse(key, out var i) ? n[i]! : n[key]!);
        node[keys[^1]] = JsonNode.Parse(to);
        Assert.Contains(Assert.Throws<RefusedFileException>(() => LinkageFormat.Read(root.ToJsonString(), "spoiled")).Faults, f => f.Path == path);
    }

    [Fact]
    public void Every_shipped_linkage_parks_in_its_bands_and_clears_its_pillars() => Assert.All(JobStory.Library.Linkages, named =>
    {
        var l = named.Linkage;
        Assert.Empty(LinkageChecks.FaultsOf(l));
        for (var r = 0; r < l.Rockers.Count; r++)
        {
            Assert.Equal(l.Rockers[r].Band.Height, l.TipHeights(l.Park[0])[r], 0.3);
            Assert.True(new TipSeen(TipMeasure.PillarClearance, r, 0, 1).On(l) > 20, named.Id);
            Assert.InRange(l.SweepOf(r).Angle, 70, 170);
            Assert.All(l.Turn(2), p => Assert.True(l.Glass.HeightAbove(p.Rockers[r].Tip) > 0, $"{named.Id} touches the cowl at {p.CrankDegrees}"));
        }
    });

    private static List<TipSeen> AllSeen(WiperLinkage now, int seed)
    {
        var random = new Random(seed);
        return [.. (from r in new[] { 0, 1 } from what in Enum.GetValues<TipMeasure>() select new TipSeen(what, r, 0, TipSeen.UsualError(what))).Select(s => s with { Value = s.On(now) + s.Error * (random.NextDouble() - 0.5) })];
    }

    [Property(MaxTest = 25)]
    public void The_order_of_the_readings_changes_nothing(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var seen = AllSeen(Change.Crank(LinkageTests.Front(), 20 * random.NextDouble() - 6), seed.Item);
        var one = SettingFinder.Find(LinkageTests.Front(), seen);
        var shuffled = seen.ToArray();
        random.Shuffle(shuffled);
        var other = SettingFinder.Find(LinkageTests.Front(), shuffled);
        Assert.Equal(one.Causes[0].Probability, other.Causes[0].Probability, 1e-6);
        Assert.Equal(one.Causes[0].Changes.Select(c => (c.Fault, c.Arm, Math.Round(c.Amount, 3))), other.Causes[0].Changes.Select(c => (c.Fault, c.Arm, Math.Round(c.Amount, 3))));
        Assert.True(one.Causes.Sum(c => c.Probability) <= 1 + 1e-9);
    }

    [Property(MaxTest = 200)]
    public Property Where_zero_lies_does_not_change_what_ten_stops_say() => Prop.ForAll(
        Gen.Choose(-40, 40).ListOf(10).Select(s => s.Select(x => x / 2.0).ToArray()).ToArbitrary(), Gen.Choose(-200, 200).ToArbitrary(),
        (stops, shift) =>
        {
            var (one, moved) = (ParkStops.Judge(stops), ParkStops.Judge([.. stops.Select(s => s + shift)]));
            Assert.Equal(one.Verdict, moved.Verdict);
            Assert.Equal(one.Places.Select(p => p.Mean + shift), moved.Places.Select(p => p.Mean), (a, b) => Math.Abs(a - b) < 1e-9);
            Assert.Equal(stops.Length, one.Places.Sum(p => p.Count));
        });

    [Property(MaxTest = 200)]
    public Property Turning_the_mark_turns_the_correction_and_another_unit_changes_nothing() => Prop.ForAll(
        Gen.Choose(1, 359).ToArbitrary(), Gen.Choose(1, 50).ToArbitrary(),
        (turn, unit) =>
        {
            BalanceRun[] Runs(double angle, double scale) => [.. new[] { (0.0, 0.0), (2, 0), (2, 120), (2, 240) }.Select(w => new BalanceRun(scale * (System.Numerics.Complex.FromPolarCoordinates(3, 1.1) + new RotorWeight(w.Item1, w.Item2).Vector).Magnitude, w.Item1 == 0 ? [] : [new RotorWeight(w.Item1, w.Item2 + angle)]))];
            var (one, turned) = (Balance.FromRuns(Runs(0, 1)).Correction, Balance.FromRuns(Runs(turn, unit)).Correction);
            Assert.Equal(one.Grams, turned.Grams, 1e-6);
            Assert.Equal(0, Math.IEEERemainder(turned.Degrees - one.Degrees - turn, 360), 1e-4);
        });

    [Property(MaxTest = 100)]
    public void Good_runs_lie_in_their_own_band_and_friction_comes_back(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var lift = new WindowLift(20 + 20 * random.NextDouble(), 1, 1.2, 3);
        var friction = Enumerable.Range(0, WindowRun.Steps).Select(_ => 50 + 30 * random.NextDouble()).ToArray();
        WindowRun Run(GlassWay way) => new(way, 4, [.. friction.Select(f => lift.IdleAmperes + (f + (way == GlassWay.Up ? 29.4 : -29.4)) / lift.NewtonsPerAmpere)]);
        var runs = new[] { Run(GlassWay.Up), Run(GlassWay.Down) };
        var answer = WindowTravel.Judge(runs, runs.ToDictionary(r => r.Way, r => WindowBand.FromRuns([r])), lift);
        Assert.Empty(answer.Stretches);
        Assert.Equal(29.4, answer.Weight!.Value, 1e-9);
        Assert.Equal(friction, answer.Friction!, (a, b) => Math.Abs(a - b) < 1e-9);
    }

    [Theory]
    [InlineData(0, 10, 10)]
    [InlineData(0, -4, -4)]
    [InlineData(60, 0, 7.0710678)]
    [InlineData(-30, 5, 5)]
    public void Distance_from_a_line_has_its_side_and_goes_on_beyond_its_ends(double x, double y, double distance)
    {
        // Level to x = 50, then up at 45°: left of it is above.
        Planar[] line = [new(-20, 0), new(50, 0), new(100, 50)];
        Assert.Equal(x > 50 ? -distance : distance, new Planar(x, y).DistanceFrom(line), 1e-6);
    }

    // The load test's table and the charge voltages: common practice, no source.
    [Theory]
    [InlineData(21, 9.6)]
    [InlineData(-1, 9.1)]
    [InlineData(-18, 8.5)]
    [InlineData(-40, 8.5)]
    [InlineData(35, 9.6)]
    [InlineData(18.5, 9.55)]
    public void A_battery_must_hold_under_load_by_its_temperature(double celsius, double volts) => Assert.Equal(volts, Battery.LoadTestVolts(celsius), 0.001);

    [Theory]
    [InlineData(12.6, 1)]
    [InlineData(12.4, 0.75)]
    [InlineData(12.2, 0.5)]
    [InlineData(13.1, 1)]
    [InlineData(10.5, double.NaN)]
    public void Volts_at_rest_tell_the_charge(double volts, double charge) => Assert.Equal(charge, Battery.Charge(volts), 1e-6);

    [Property(MaxTest = 200)]
    public Property The_section_for_a_limit_holds_it_and_the_next_smaller_does_not() => Prop.ForAll(Gen.Choose(1, 100).ToArbitrary(), Gen.Choose(1, 300).ToArbitrary(), Gen.Choose(1, 50).ToArbitrary(), (metres, amperes, tenths) =>
    {
        var section = Wire.SectionFor(metres / 10.0, amperes, tenths / 10.0);
        double Lost(double s) => Wire.Ohms(metres / 10.0, s) * amperes;
        if (section is not { } s)
        {
            Assert.True(Lost(Wire.Sections[^1]) > tenths / 10.0);
            return;
        }

        Assert.True(Lost(s) <= tenths / 10.0);
        Assert.All(Wire.Sections.Where(x => x < s), x => Assert.True(Lost(x) > tenths / 10.0));
    });
}
