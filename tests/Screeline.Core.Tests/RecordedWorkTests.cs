using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using static Screeline.Core.Tests.RecordedStory;

namespace Screeline.Core.Tests;

/// <summary>Work on a vehicle without a map: what is recorded, and what follows from it.</summary>
public sealed class RecordedWorkTests
{
    [Fact]
    public void Fasteners_belong_to_what_their_author_tells_next()
    {
        var story = Begun();
        story.Say(new GroupOut("screw", "T30", 6, 1));
        story.Say(new GroupOut("push-pin", null, 2, 1));
        Assert.Equal("6 T30 screws, 2 push pins loose", story.Job.TitleOf(story.Job.Pending(JobStory.Ansa)!.Id));
        Assert.Equal(8, story.Job.Count.Out);
        var tray = Take(story, TakenAct.Part, "Engine cover");
        Assert.Null(story.Job.Pending(JobStory.Ansa));
        Assert.Equal([6, 2], story.Job.FastenersOf(tray).Select(f => f.Count));
        Assert.Equal("Engine cover off", story.Job.TitleOf(tray));
        Assert.Equal(1, story.Job.Removed[tray].Payload.Cell);
        Assert.Equal(8, story.Job.Count.InTray.Sum(a => a.InCell));
        // A group that frees nothing is a step of its own.
        story.Say(new GroupOut("bolt", "hex-13", 2, 2));
        var loose = Take(story, TakenAct.Loosened, "Two bolts");
        Assert.Equal("Two bolts loose", story.Job.TitleOf(loose));
        // A step that was expected takes them too.
        story.Say(new GroupOut("nut", "hex-10", 1, 3));
        Frame(story, "codes-saved", "chocked", "negative-off");
        Assert.Equal(["nut"], story.Job.FastenersOf("codes-saved").Select(f => f.Kind));
        Assert.Empty(story.Job.Disputes);
    }

    [Fact]
    public void Two_devices_that_did_not_see_each_other_keep_their_fasteners_apart_in_either_order()
    {
        // Ansa takes out three and lifts the tray; Bram two and lifts the liner.
        (Guid By, Payload Payload)[] ansa = [(JobStory.Ansa, new GroupOut("screw", "T30", 3, 1)), (JobStory.Ansa, new TakenOff(TakenAct.Part, "Engine cover", "bay"))];
        (Guid By, Payload Payload)[] bram = [(Bram, new GroupOut("push-pin", null, 2, 1)), (Bram, new TakenOff(TakenAct.Part, "Intake duct", "bay"))];
        foreach (var order in new[] { ansa.Concat(bram), bram.Concat(ansa), new[] { ansa[0], bram[0], ansa[1], bram[1] }, new[] { bram[0], ansa[0], bram[1], ansa[1] } })
        {
            var story = Begun();
            order.ToList().ForEach(x => story.Say(x.Payload, by: x.By));
            var off = story.Job.Things.ToDictionary(t => t.Press!.Payload.What, t => story.Job.FastenersOf(t.Id).Sum(f => f.Count));
            Assert.Equal((3, 2), (off["Engine cover"], off["Intake duct"]));
            Assert.Empty(story.Job.Disputes);
            Assert.Equal(5, story.Job.Count.Out);
        }

        Assert.All(ansa.SelectMany(a => bram.Select(b => (a, b))), x => Assert.False(ConflictingEntries.Clashes(x.a.Payload, x.b.Payload)));
    }

    [Fact]
    public void Nobody_works_under_it_or_at_what_is_live_before_it_is_said_to_be_safe()
    {
        var story = Begun();
        string? Why(string what, string place) => JobRules.OutOfOrder(story.Job, new TakenOff(TakenAct.Part, what, place), DateTimeOffset.Now);
        Assert.Contains("First: Raise it", Why("Undertray", "under"), StringComparison.Ordinal);
        Assert.Contains("First: Battery negative lead off", Why("Main cable", "bay"), StringComparison.Ordinal);
        Assert.Contains("While there is power", JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Apart, "negative-off", null, []), DateTimeOffset.Now), StringComparison.Ordinal);
        Assert.Contains("cool", Why("Exhaust", "bay"), StringComparison.Ordinal);
        // That nothing is hot here can be said; that the stands are not there cannot make it safe.
        story.Say(new ExpectationStruck("cooled", null));
        story.Say(new ExpectationStruck("raised", null));
        Assert.Null(Why("Exhaust", "bay"));
        Assert.NotNull(Why("Undertray", "under"));
        Frame(story, "codes-saved", "chocked", "negative-off");
        Assert.Null(Why("Main cable", "bay"));
        // Done all the same: kept, and disputed.
        var told = story.Say(new TakenOff(TakenAct.Part, "Undertray", "under"));
        Assert.Equal(told.Id, Assert.Single(story.Job.Disputes).Entry.Id);
        Assert.Contains(story.Job.Things, t => t.Press?.Entry.Id == told.Id);
    }

    [Fact]
    public void What_is_expected_is_confirmed_struck_or_replaced_and_never_there_by_itself()
    {
        var story = Begun("blower", "Remove the lower cover.", "Disconnect the blower plug", "Remove three screws and lower the blower");
        Assert.Equal(0, story.Job.OpenOperations);
        Assert.Equal(["Every speed tried, hand on the dash", "Remove the lower cover.", "Disconnect the blower plug", "Remove three screws and lower the blower"], story.Job.Expected.Where(o => o.Id.StartsWith("line", StringComparison.Ordinal) || o.Id == "felt").Select(o => o.Title));
        story.Say(new GroupOut("screw", "T20", 2, 1));
        story.Say(new StepDone(WorkPhase.Apart, "line-1", 1, []));
        story.Say(new ExpectationStruck("felt", "no battery in it"));
        Take(story, TakenAct.Plug, "Blower plug", "footwell");
        story.Say(new TakenOff(TakenAct.Part, "Blower housing", "footwell", IsTarget: true, Instead: "line-3"));
        var job = story.Job;
        Assert.Equal(["line-2"], job.Expected.Where(o => o.Id.StartsWith("line", StringComparison.Ordinal)).Select(o => o.Id));
        Assert.Equal((2, 3), (job.FastenersOf("line-1").Sum(f => f.Count), job.OpenOperations));
        Assert.DoesNotContain("line-2", Refit.Order(job));
        Assert.Contains("fan-starts", job.Map![job.Things[0].Id].Cautions);
        Assert.Empty(job.Disputes);
    }

    [Fact]
    public void What_is_told_afterwards_stands_where_it_was_done_and_can_be_put_right_moved_and_taken_back()
    {
        var story = Begun("blower");
        var plug = Take(story, TakenAct.Plug, "Blower plug", "footwell");
        var cover = Id(story.Say(new TakenOff(TakenAct.Part, "Lower cover", "footwell", Before: plug)), story);
        Assert.Equal([cover, plug], story.Job.Route!.Payload.Removal);
        story.Say(new OrderMoved(WorkPhase.Apart, cover, null));
        Assert.Equal([plug, cover], story.Job.Route!.Payload.Removal);
        var group = story.Say(new GroupOut("screw", "T20", 3, 1));
        var blower = Take(story, TakenAct.Part, "Blower", "footwell", target: true);
        story.Say(new EntryCorrected(group.Id, EntryKinds.Write(new GroupOut("screw", "T25", 4, 1))));
        Assert.Equal((4, "T25"), (story.Job.FastenersOf(blower)[0].Count, story.Job.FastenersOf(blower)[0].Drive));
        // Its name taken back, the fasteners are out still.
        var press = story.Job.Things.First(t => t.Id == blower).Press!.Entry;
        story.Say(new EntryWithdrawn(press.Id));
        Assert.Null(story.Job.Reached);
        Assert.Equal(4, story.Job.Pending(JobStory.Ansa)!.Groups.Sum(g => g.Payload.Count));
        Take(story, TakenAct.Part, "Blower", "footwell", target: true);
        // A group taken back does not rename what it was of.
        var wheel = Id(story.Say(new GroupOut("clip", null, 2, 4)), story);
        story.Say(new TakenOff(TakenAct.Part, "Wheel", "bench"));
        story.Say(new EntryWithdrawn(story.Job.Things.First(t => t.Id == wheel).Groups[0].Entry.Id));
        Assert.Equal("Wheel off", story.Job.TitleOf(wheel));
        story.Say(new EntryWithdrawn(story.Job.Things.First(t => t.Id == wheel).Press!.Entry.Id));
        // What is back is not taken back.
        story.Say(new StepDone(WorkPhase.Refit, blower, null, []));
        Assert.Contains("back already", JobRules.OutOfOrder(story.Job, new EntryWithdrawn(group.Id), DateTimeOffset.Now), StringComparison.Ordinal);
    }

    [Fact]
    public void A_structural_joint_counts_only_with_the_makers_figure()
    {
        var story = Begun("blower");
        story.Say(new GroupOut("bolt", "hex-17", 4, 1));
        var mount = Take(story, TakenAct.Part, "Engine mount");
        story.Say(new GroupOut("bolt", "hex-16", 2, 2));
        var knorz = Take(story, TakenAct.Part, "Knorz", target: true);
        var (first, second) = (story.Job.FastenersOf(mount)[0], story.Job.FastenersOf(knorz)[0]);
        Assert.True(first.Structural);
        Assert.False(second.Structural);
        void Back(string id)
        {
            story.Say(new StepDone(WorkPhase.Refit, id, null, [.. story.Job.FastenersOf(id).Select(f => FastenerCount.Expected(story.Job, id, f))]));
        }

        story.Say(new FigureTold(knorz, second.Id, FigureFrom.Worked, null, null, "M10", "8.8", Joint.Steel, true));
        var told = story.Job.FastenersOf(knorz)[0];
        Assert.Equal(("M10", "8.8", true), (told.Thread, told.Strength, told.Structural));
        Assert.NotNull(TorqueAdvice.For(told, [], new DateOnly(2036, 5, 4)).Worked);
        Back(knorz);
        story.Say(new TorqueSet(knorz, second.Id, TorqueHow.Wrench, new Figure(48, Units.NewtonMetre), null));
        Assert.Equal(knorz, Assert.Single(story.Job.NotDrivenUntilChecked).Step);
        story.Say(new FigureTold(mount, first.Id, FigureFrom.Maker, new Figure(60, Units.NewtonMetre), "maker's manual"));
        Assert.Equal(60, story.Job.FastenersOf(mount)[0].Torque!.Value.Number);
        story.Say(new ProofTaken("top-current-after", new Figure(8, Units.Ampere), null));
        Back(mount);
        Assert.Equal(2, story.Job.NotDrivenUntilChecked.Count);
        story.Say(new TorqueSet(mount, first.Id, TorqueHow.Wrench, new Figure(60, Units.NewtonMetre), null));
        Assert.Equal([knorz], story.Job.NotDrivenUntilChecked.Select(j => j.Step));
        story.Say(new JointChecked(knorz, second.Id, "maker's figure looked up: 45 N·m, held"));
        Assert.Empty(story.Job.NotDrivenUntilChecked);
    }

    [Fact]
    public void A_mapped_job_takes_in_what_its_map_did_not_know_and_leaves_out_what_is_not_there()
    {
        var story = new JobStory().OnItsWay();
        var removal = story.Job.Route!.Payload.Removal;
        foreach (var id in removal.Take(6))
        {
            story.Off(id);
        }

        story.Say(new GroupOut("screw", "T25", 2, 9));
        var bracket = Take(story, TakenAct.Part, "Bracket of somebody's alarm", "bay");
        Assert.Equal(6, story.Job.Route!.Payload.Removal.ToList().IndexOf(bracket));
        Assert.Equal(removal.Count + 1, story.Job.Route!.Payload.Removal.Count);
        foreach (var id in removal.Skip(6))
        {
            story.Off(id);
        }

        var job = story.Job;
        Assert.True(job.IsDone(Stage.TakeApart));
        Assert.Empty(job.Disputes);
        var back = Refit.Order(job).ToList();
        Assert.Equal(WalkRules.RefitActions(job.Map!, job.Set).Order(), back.Order());
        Assert.True(Refit.Holds(job.Map!, back, job.RefitProgress));
        // Behind all that came off after it, before all that came off before it.
        Assert.All(removal.Skip(6).Where(back.Contains), id => Assert.True(back.IndexOf(id) < back.IndexOf(bracket), id));
        Assert.Contains(removal.Take(6).Where(back.Contains), id => back.IndexOf(id) > back.IndexOf(bracket));

        var without = new JobStory().OnItsWay();
        without.Say(new ExpectationStruck("intake-duct", "somebody left it out"));
        Assert.DoesNotContain("intake-duct", without.Job.Route!.Payload.Removal);
        Assert.Null(without.Job.Map!.Operation("intake-duct"));
        Assert.Contains("makes the work safe", JobRules.OutOfOrder(without.Job, new ExpectationStruck("negative-off", null), DateTimeOffset.Now), StringComparison.Ordinal);
        // Told late, it is disputed and changes nothing.
        without.Say(new ExpectationStruck("negative-off", null));
        Assert.NotNull(without.Job.Map!.Operation("negative-off"));
        Assert.Contains("negative-off", without.Job.Route!.Payload.Removal);
    }

    public static TheoryData<Payload, string> Malformed => new()
    {
        { new GroupOut("screw", "T20", 0, null), "$.payload.count" },
        { new GroupOut("screw", "T20", 501, null), "$.payload.count" },
        { new GroupOut("thing", null, 1, null), "$.payload.kind" },
        { new GroupOut("screw", "banana", 1, null), "$.payload.drive" },
        { new GroupOut("screw", "T20", 1, 0), "$.payload.cell" },
        { new GroupOut("bolt", "hex-13", 1, 1, -3), "$.payload.length_millimetres" },
        { new GroupOut("bolt", "hex-13", 1, 1, null, "Q8"), "$.payload.thread" },
        { new GroupOut("bolt", "hex-13", 1, 1, Note: new string('x', 501)), "$.payload.note" },
        { new TakenOff(TakenAct.Part, "", "bay"), "$.payload.what" },
        { new TakenOff(TakenAct.Part, new string('x', 201), "bay"), "$.payload.what" },
        { new TakenOff(TakenAct.Part, "Cover", "moon"), "$.payload.place" },
        { new TakenOff(TakenAct.Part, "Cover", "bay", Before: "r-9"), "$.payload.before" },
        { new TakenOff(TakenAct.Part, "Cover", "bay", Instead: "line-9"), "$.payload.instead" },
        { new TakenOff(TakenAct.Part, "Cover", "bay", Tools: [" "]), "$.payload.tools[0]" },
        { new TakenOff((TakenAct)99, "Cover", "bay"), "$.payload.act" },
        { new ExpectationStruck("moon", null), "$.payload.step" },
        { new DangersTold("Knorz", ["boring"]), "$.payload.dangers[0]" },
        { new DangersTold("Knorz", ["hot", "hot"]), "$.payload.dangers[1]" },
        { new WayTried("", null), "$.payload.what" },
        { new WayTried("from above", 2000), "$.payload.minutes" },
        { new WayTried("from above", 5, "moon"), "$.payload.place" },
        { new OnlyThis("r-9", []), "$.payload.step" },
        { new OrderMoved(WorkPhase.Refit, "r-9", null), "$.payload.step" },
        { new NeededFor("r-9", []), "$.payload.step" },
        { new BecauseOf("filled", "r-9"), "$.payload.step" },
        { new StepBesides(" ", "bay"), "$.payload.what" },
        { new StepBesides("Greased", "roof"), "$.payload.place" },
        { new SisterLooked("", "Plug", true), "$.payload.map" },
        { new FigureTold("r-9", "g-9", FigureFrom.Hand, null, null), "$.payload.fastener" },
        { new FigureTold("r-9", "g-9", FigureFrom.Maker, null, "manual"), "$.payload.value" },
        { new FigureTold("r-9", "g-9", FigureFrom.Maker, new Figure(5, Units.Volt), "manual"), "$.payload.value" },
        { new FigureTold("r-9", "g-9", FigureFrom.Maker, new Figure(5, Units.NewtonMetre), " "), "$.payload.source" },
        { new FigureTold("r-9", "g-9", FigureFrom.Worked, new Figure(5, Units.NewtonMetre), null, "M8"), "$.payload.value" },
        { new FigureTold("r-9", "g-9", FigureFrom.Worked, null, null), "$.payload.thread" },
        { new FigureTold("r-9", "g-9", FigureFrom.Worked, null, null, "M8", "soft"), "$.payload.strength" },
        { new RecordingBegun("0", false, []), "$.payload.map" },
        { new RecordingBegun(null, false, [" "]), "$.payload.lines[0]" },
        { new RecordingBegun(null, false, [.. Enumerable.Repeat("step", 201)]), "$.payload.lines" },
        { new StepDone(WorkPhase.Refit, "r-9", null, []), "$.payload.step" },
    };

    [Theory]
    [MemberData(nameof(Malformed))]
    public void What_cannot_be_is_told_at_its_place(Payload payload, string path) =>
        Assert.Contains(JobRules.Malformed(Begun().Job, payload), f => f.Path == path);

    [Fact]
    public void Twice_is_told_and_kept_once()
    {
        var story = Begun("blower");
        story.Say(new GroupOut("screw", "T20", 3, 1));
        var blower = Take(story, TakenAct.Part, "Blower", "footwell", target: true);
        var group = story.Job.FastenersOf(blower)[0].Id;
        Assert.Contains(JobRules.Malformed(story.Job, new StepDone(WorkPhase.Refit, blower, null, [new FastenerOutcome(group, 4, 0, 0)])), f => f.Message.Contains("there are 3", StringComparison.Ordinal));
        story.Say(new StepDone(WorkPhase.Refit, blower, null, [new FastenerOutcome(group, 3, 0, 0)]));
        Assert.Contains("Ticked already", JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Refit, blower, null, []), DateTimeOffset.Now), StringComparison.Ordinal);
        Assert.True(story.Job.Count.Balances);
    }

    /// <summary>Words of the trade, common practice, no source.</summary>
    [Theory]
    [InlineData("Battery tray out", "starting", "battery-tray", "")]
    [InlineData("Battery out", "starting", "battery", "battery,weight")]
    [InlineData("Main cable nut off", "starting", "main-cable", "live-terminal,copper-stud")]
    [InlineData("Motor plug off", "blower", "blower-plug", "fan-starts")]
    [InlineData("Motor plug off", "wiper", "wiper-plug", "linkage-moves")]
    [InlineData("Both wiper arms off", "wiper", "wiper-arms", "arm-snaps")]
    [InlineData("Seat belt buckle", "blower", "seat-belt", "restraint")]
    [InlineData("Steering wheel", "blower", "steering-wheel", "restraint")]
    [InlineData("Front COVERS off", "fan", "cover", "")]
    [InlineData("Fuel lines", "starting", "fuel-line", "fuel-brake")]
    [InlineData("Orange cable", "starting", "hv-cable", "high-voltage")]
    [InlineData("Knorz", "starting", null, "")]
    public void A_word_brings_its_cautions(string text, string family, string? id, string cautions)
    {
        var found = JobStory.Library.PartWords.In(text, family);
        Assert.Equal(id, found.Count == 0 ? null : found[0].Id);
        Assert.Equal(cautions.Split(',', StringSplitOptions.RemoveEmptyEntries), found.SelectMany(w => w.Cautions).Distinct());
    }

    [Fact]
    public void What_is_likely_is_counted()
    {
        var words = JobStory.Library.PartWords;
        WorkSequence[] seen = [WorkSequence.FromOrder("fan", ["cover@bay", "fan-plug@bay", "fan@bay"]), WorkSequence.FromOrder("fan", ["cover@bay", "hoses@bay", "fan-plug@bay", "fan@bay"]), WorkSequence.FromOrder("wiper", ["cowl@screen"])];
        IReadOnlyList<string> Next(params string[] off) => [.. LikelyNext.Rank(seen, words, "fan", "bay", off.ToHashSet()).Select(l => l.Word.Id)];
        Assert.Equal("cover", Next()[0]);
        Assert.Equal("fan-plug", Next("cover")[0]);
        Assert.Equal("fan-plug", Next("cover", "hoses")[0]);
        Assert.Equal("fan", Next("cover", "hoses", "fan-plug")[0]);
        Assert.DoesNotContain("cover", Next("cover"));
        Assert.Equal((2, 2), LikelyNext.Rank(seen, words, "fan", "bay", new HashSet<string>()) is [var first, ..] ? (first.In, first.Of) : default);
        Assert.Contains("cowl", Next("cover"));
    }

    [Fact]
    public void Somebody_who_may_not_record_is_told_so() => Assert.All(
        new Payload[] { new RecordingBegun(null, false, []), new GroupOut("screw", null, 1, 1), new TakenOff(TakenAct.Part, "Cover", "bay"), new FigureTold("a", "b", FigureFrom.Hand, null, null) },
        p => Assert.Equal(Role.Apprentice, EntryKinds.ForPayload(p).By));
}
