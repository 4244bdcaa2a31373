using System.Text.Json;
using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Proof;
using Screeline.Core.Diagnosis;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>The job as a fold: what follows what, undo, corrections, gates, counts.</summary>
public sealed class JobTests
{
    [Fact]
    public void A_job_walks_through_its_stages_without_a_dispute()
    {
        Assert.Equal(Stage.Complaint, new JobStory().Job.Current);
        Assert.Equal(Stage.Find, new JobStory().Noted().Job.Current);
        Assert.Equal(Stage.WayIn, new JobStory().Proven().Job.Current);
        Assert.Equal(Stage.TakeApart, new JobStory().OnItsWay().Job.Current);
        Assert.Equal(Stage.Refit, new JobStory().Apart().Job.Current);
        Assert.Equal(Stage.Prove, new JobStory().Together().Job.Current);
        var story = new JobStory().Proved();
        Assert.Equal(Stage.HandBack, story.Job.Current);
        story.Say(new HandedBack("open inside", null, null));
        Assert.NotNull(story.Job.HandedBack);
        Assert.Empty(story.Job.Disputes);
        Assert.All(Stages.All, s => Assert.Equal(StageState.Done, story.Job.StateOf(s)));
    }

    [Fact]
    public void A_fault_elsewhere_goes_straight_to_the_proof()
    {
        var story = new JobStory().Noted();
        story.Say(new DecisionMade(DecisionAct.Elsewhere, "ground strap cleaned", "1.6 V on the ground side"));
        Assert.Equal(Stage.Prove, story.Job.Current);
        Assert.Equal(StageState.NotNeeded, story.Job.StateOf(Stage.TakeApart));
        Assert.Empty(story.Job.Disputes);
    }

    public static TheoryData<string, Payload, string> OutOfTurn => new()
    {
        { "opened", new DecisionMade(DecisionAct.Guess, "starter", "x"), "No behaviour" },
        { "noted", new DecisionMade(DecisionAct.Proven, "starter", "x"), "would be a guess" },
        { "noted", new RouteTaken(JobStory.Map.Hash, "starter-exchanged", [], []), "not decided" },
        { "noted", new StepDone(WorkPhase.Apart, "raised", null, []), "No way in" },
        { "route", new StepDone(WorkPhase.Apart, "main-nut", 1, []), "Before “Main cable nut off the starter”" },
        { "route", new StepDone(WorkPhase.Apart, "wheel-off", 1, []), "does not belong" },
        { "route", new StepDone(WorkPhase.Refit, "negative-off", null, []), "Not everything on the way in" },
        { "route", new HandedBack("x", null, null), "Not proved yet" },
        { "apart", new StepDone(WorkPhase.Refit, "starter-out", null, []), "not possible yet" },
        { "apart", new StepDone(WorkPhase.Refit, "wheel-off", null, []), "does not belong" },
        { "apart", new DecisionMade(DecisionAct.Guess, "x", "x"), "apart already" },
        { "gate", new StepDone(WorkPhase.Refit, "crank-test", null, []), "The gate holds" },
        { "gate", new StepDone(WorkPhase.Refit, "loom-clips", null, []), "Gate first" },
        { "together", new StepDone(WorkPhase.Refit, "undertray", null, []), "Ticked already" },
    };

    [Theory]
    [MemberData(nameof(OutOfTurn))]
    public void What_is_out_of_turn_is_kept_and_shown_as_disputed(string where, Payload payload, string reason)
    {
        var story = where switch
        {
            "opened" => new JobStory(),
            "noted" => new JobStory().Noted(),
            "route" => new JobStory().OnItsWay(),
            "apart" => new JobStory().Apart(),
            "gate" => new JobStory().Together("crank-test"),
            _ => new JobStory().Together(),
        };
        var entry = story.Say(payload);
        var dispute = Assert.Single(story.Job.Disputes);
        Assert.Equal(entry.Id, dispute.Entry.Id);
        Assert.Contains(reason, dispute.Reason, StringComparison.Ordinal);
    }

    /// <summary>What failed proves the repairs of its own part and of no other; four things shown prove the motor alone.</summary>
    [Fact]
    public void A_failed_ground_proves_no_fuse_no_relay_and_no_engine()
    {
        var ground = new JobStory().Noted();
        ground.Say(new ReadingTaken("battery-cranking", new Figure(11.8m, Units.Volt), null));
        ground.Say(new ReadingTaken("ground-drop-cranking", new Figure(1.6m, Units.Volt), null));
        // Read once it proves nothing.
        Assert.Empty(Proven(ground.Job));
        ground.Say(new ReadingTaken("ground-drop-cranking", new Figure(1.55m, Units.Volt), null));
        Assert.Equal(["ground-path"], Proven(ground.Job));
        var noted = new JobStory().Noted();
        Assert.DoesNotContain("starter", Proven(noted.Job));
        Assert.Equal(["starter"], Proven(new JobStory().Proven().Job));
    }

    private static IEnumerable<string> Proven(Job job) =>
        job.System.Repairs.Where(r => JobRules.OutOfOrder(job, new DecisionMade(DecisionAct.Proven, r.Title, "x", r.Id), DateTimeOffset.Now) is null).Select(r => r.Id);

    [Fact]
    public void A_failed_check_holds_the_gate()
    {
        var story = new JobStory().Together("crank-test");
        story.Gate();
        story.Say(new ProofTaken("cable-drop-refit", new Figure(0.9m, Units.Volt), null));
        Assert.NotNull(JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Refit, "crank-test", null, []), DateTimeOffset.Now));
        story.Say(new ProofTaken("cable-drop-refit", new Figure(0.3m, Units.Volt), null));
        Assert.Null(JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Refit, "crank-test", null, []), DateTimeOffset.Now));
    }

    [Fact]
    public void Undo_brings_the_job_back_and_undoing_the_undo_forward()
    {
        var story = new JobStory().Apart("main-nut");
        var before = JobSummary.FromJob(story.Job);
        var tick = story.Off("main-nut");
        var undo = story.Say(new EntryWithdrawn(tick.Id));
        Assert.False(story.Job.Removed.ContainsKey("main-nut"));
        Assert.Equal(before.Next, JobSummary.FromJob(story.Job).Next);
        Assert.Equal(undo.Id, story.Job.History[tick.Position - 1].WithdrawnBy!.Id);
        story.Say(new EntryWithdrawn(undo.Id));
        Assert.True(story.Job.Removed.ContainsKey("main-nut"));
    }

    [Fact]
    public void A_withdrawal_that_arrives_before_what_it_withdraws_still_holds()
    {
        var story = new JobStory().Noted();
        var id = Guid.NewGuid();
        story.Say(new EntryWithdrawn(id));
        story.Say(new ReadingTaken("battery-rest", new Figure(12.6m, Units.Volt), null), id);
        Assert.Empty(story.Job.Readings);
    }

    [Fact]
    public void Withdrawing_what_others_stand_on_is_told()
    {
        var story = new JobStory().Apart("heat-shield");
        story.Off("heat-shield");
        story.Say(new EntryWithdrawn(story.Job.Removed["undertray"].Entry.Id));
        Assert.Contains(story.Job.Disputes, d => d.Reason.Contains("Before “Heat shield off the starter”", StringComparison.Ordinal));
    }

    [Fact]
    public void A_correction_stands_in_the_place_of_what_it_corrects()
    {
        var story = new JobStory().Noted();
        var reading = story.Say(new ReadingTaken("battery-rest", new Figure(12.6m, Units.Volt), null));
        story.Say(new EntryCorrected(reading.Id, EntryKinds.Write(new ReadingTaken("battery-rest", new Figure(12.1m, Units.Volt), null))));
        Assert.Equal(12.1m, Assert.Single(story.Job.Readings).Payload.Value!.Value.Number);
        Assert.Equal(ProofState.Failed, story.Job.Finding[ProofPart.Power].State);
    }

    [Fact]
    public void A_correction_that_does_not_fit_is_shown_and_changes_nothing()
    {
        var story = new JobStory().Noted();
        var reading = story.Say(new ReadingTaken("battery-rest", new Figure(12.6m, Units.Volt), null));
        story.Say(new EntryCorrected(reading.Id, JsonDocument.Parse("{\"nonsense\": 1}").RootElement));
        Assert.Single(story.Job.Disputes);
        Assert.Equal(12.6m, Assert.Single(story.Job.Readings).Payload.Value!.Value.Number);
    }

    public static TheoryData<Payload, string> Malformed => new()
    {
        { new ReadingTaken("moon-phase", new Figure(1, Units.Volt), null), "$.payload.test" },
        { new ReadingTaken("battery-rest", null, "bright"), "$.payload.value" },
        { new ReadingTaken("battery-rest", new Figure(12.6m, Units.Volt), null, 90), "$.payload.celsius" },
        { new ProofTaken("five-starts", null, "five", double.NaN), "$.payload.celsius" },
        { new ReadingTaken("battery-rest", new Figure(12, Units.Ampere), null), "$.payload.value" },
        { new ReadingTaken("battery-rest", new Figure(125, Units.Volt), null), "$.payload.value" },
        { new ReadingTaken("engine-turns", null, "perhaps"), "$.payload.choice" },
        { new ComplaintNoted("x", [], "x", 1, 1, null), "$.payload.behaviours" },
        { new ComplaintNoted("x", ["sings"], "x", 1, 1, null), "$.payload.behaviours[0]" },
        { new ComplaintNoted("x", ["silence"], "x", 1, 2, null), "$.payload.failed" },
        { new StepDone(WorkPhase.Apart, "fly", null, []), "$.payload.step" },
        { new StepDone(WorkPhase.Apart, "undertray", 0, []), "$.payload.cell" },
        { new StepDone(WorkPhase.Refit, "undertray", null, [new FastenerOutcome("edge", 9, 0, 0)]), "$.payload.fasteners[0]" },
        { new StepDone(WorkPhase.Refit, "undertray", null, [new FastenerOutcome("edge", -1, 0, 0)]), "$.payload.fasteners[0]" },
        { new StepDone(WorkPhase.Refit, "undertray", null, [new FastenerOutcome("wing", 1, 0, 0)]), "$.payload.fasteners[0].fastener" },
        { new FastenerFound("undertray", "edge", FastenerState.Missing, 9, null, null), "$.payload.count" },
        { new FastenerFound("undertray", "wing", FastenerState.Missing, 1, null, null), "$.payload.fastener" },
        { new TorqueSet("undertray", "edge", TorqueHow.Wrench, new Figure(5, Units.Volt), null), "$.payload.value" },
        { new TorqueSet("undertray", "edge", TorqueHow.Wrench, null, null), "$.payload.value" },
        { new TorqueSet("undertray", "edge", TorqueHow.ByHand, new Figure(5, Units.NewtonMetre), null), "$.payload.value" },
        { new TorqueSet("undertray", "edge", TorqueHow.NotDone, null, null, Why: " "), "$.payload.why" },
        { new TorqueSet("undertray", "edge", TorqueHow.RecordedThen, new Figure(5, Units.NewtonMetre), null), "$.payload.how" },
        { new ProofTaken("five-starts", null, "six"), "$.payload.choice" },
        { new ToolBack("elephant"), "$.payload.tool" },
        { new RouteTaken("0", "starter-exchanged", [], []), "$.payload.map" },
        { new RouteTaken(JobStory.Map.Hash, "moon", [.. JobStory.Plan.Removal.Select(a => a.Id)], []), "$.payload.target" },
        { new RouteTaken(JobStory.Map.Hash, "starter-exchanged", ["compared"], []), "$.payload.removal[0]" },
        { new RouteTaken(JobStory.Map.Hash, "starter-exchanged", [.. JobStory.Plan.Removal.Select(a => a.Id)], []), "$.payload.refit" },
        { new HandedBack(new string('x', 2001), null, null), "$.payload.found" },
        { new HandedBack("x", null, null), "$.payload.checks" },
        { new HandedBack("x", null, null, new CauseSaid("gremlins", "chased"), []), "$.payload.cause.cause" },
        { new HandedBack("x", null, null, new CauseSaid("age", new string('x', 2001)), []), "$.payload.cause.done" },
        { new HandedBack("x", null, null, null, [], RecordedThen: true), "$.payload.recorded_then" },
        { new CauseTold(new CauseSaid("gremlins", null)), "$.payload.cause.cause" },
        { new JointChecked("undertray", "edge", " "), "$.payload.how" },
        { new JointChecked("undertray", "nothing", "looked"), "$.payload.fastener" },
        { new JobLeft(WayOut.HandedOn, new string('x', 2001), null, null), "$.payload.why" },
        { new ArrivalNoted("h2", ["undertray"], [], [], []), "$.payload.map" },
        { new ArrivalNoted(null, ["undertray"], [], [], []), "$.payload.off[0]" },
        { new ArrivalNoted(null, [], [""], [], []), "$.payload.loose[0]" },
        { new ArrivalNoted(null, [], ["lower bolt"], ["Lower bolt"], []), "$.payload.loose[0]" },
        { new IntakeNoted([], Meter: new MeterReading(-1, MeterUnit.Hours)), "$.payload.meter.number" },
        { new IntakeNoted([" "]), "$.payload.damage[0]" },
        { new SeenBeside("", SeenUrgency.Soon, null), "$.payload.what" },
        { new SeenBeside("leak", SeenUrgency.Soon, "nowhere"), "$.payload.step" },
        { new SeenBeside("leak", SeenUrgency.Soon, null, "no hash"), "$.payload.sha256" },
        { new SeenSettled(Guid.Empty, SeenEnd.Done, null), "$.payload.seen" },
        { new PictureTaken(null, new string('a', 64), 1, 1, null, null, "album"), "$.payload.about" },
        { new SentBack("five-starts", null, ""), "$.payload.why" },
        { new SentBack("six-starts", null, "x"), "$.payload.check" },
        { new SentBack("five-starts", "fly", "x"), "$.payload.step" },
    };

    [Theory]
    [MemberData(nameof(Malformed))]
    public void What_cannot_be_is_told_with_its_path(Payload payload, string path) =>
        Assert.Contains(JobRules.Malformed(new JobStory().OnItsWay().Job, payload), f => f.Path == path);

    [Fact]
    public void The_opening_of_a_job_cannot_be_withdrawn()
    {
        var job = new JobStory().Job;
        Assert.NotEmpty(JobRules.Malformed(job, new EntryWithdrawn(job.Opened.Entry.Id)));
    }

    [Fact]
    public void The_count_balances_when_all_is_back_and_names_what_is_not()
    {
        var story = new JobStory().Together("undertray");
        story.Say(new StepDone(WorkPhase.Refit, "undertray", null, [new FastenerOutcome("edge", 7, 0, 0), new FastenerOutcome("hidden", 1, 0, 0)]));
        var lost = Assert.Single(story.Job.Count.Unaccounted, a => a.Refitted);
        Assert.StartsWith("1 M6 screw unaccounted for", lost.Words, StringComparison.Ordinal);
        Assert.Contains("Last seen: cell", lost.Words, StringComparison.Ordinal);
        Assert.Contains(story.Job.MissingFromProof, m => m.Contains("unaccounted", StringComparison.Ordinal));
        Assert.True(new JobStory().Together().Job.Count.Balances);
    }

    [Fact]
    public void Missing_on_arrival_stays_declared_missing_and_broken_ones_are_renewed()
    {
        var story = new JobStory().Apart("undertray");
        story.Say(new FastenerFound("undertray", "edge", FastenerState.Missing, 2, null, null));
        story.Say(new FastenerFound("undertray", "edge", FastenerState.Broken, 1, null, null));
        var edge = JobStory.Map.Map["undertray"].Fasteners.First(f => f.Id == "edge");
        Assert.Equal(new FastenerOutcome("edge", 5, 1, 2), FastenerCount.Expected(story.Job, "undertray", edge));
    }

    [Property(MaxTest = 60)]
    public void Out_is_always_in_and_renewed_and_missing_and_unaccounted(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var story = new JobStory().OnItsWay();
        for (var i = 0; i < 60; i++)
        {
            var job = story.Job;
            if (random.Next(6) == 0 && job.Removed.Count > 0)
            {
                // Undo anything that stands, also what others stand on.
                var ticks = job.Removed.Values.Concat(job.Refitted.Values).ToList();
                story.Say(new EntryWithdrawn(ticks[random.Next(ticks.Count)].Entry.Id));
            }
            else if (!job.IsDone(Stage.TakeApart))
            {
                var id = job.Route!.Payload.Removal.First(x => !job.Removed.ContainsKey(x));
                if (random.Next(4) == 0 && JobStory.Map.Map[id].Fasteners is [var f, ..])
                {
                    story.Say(new FastenerFound(id, f.Id, (FastenerState)random.Next(4), 1, "hex-1", null));
                }

                story.Off(id);
            }
            else if (Refit.Order(job).FirstOrDefault(x => !job.Refitted.ContainsKey(x)) is { } next)
            {
                story.On(next);
            }
        }

        var count = story.Job.Count;
        Assert.Equal(count.Out, count.Back + count.Renewed + count.Missing + count.Unaccounted.Sum(a => a.Unaccounted));
        Assert.Equal(count.InTray.Select(a => a.Cell).Distinct().Count(), count.InTray.GroupBy(a => a.Step).Count());
        Assert.DoesNotContain(count.Accounts, a => a.Unaccounted < 0);
    }

    [Fact]
    public void The_line_sinks_and_climbs_back()
    {
        var line = SectionLine.ForJob(new JobStory().Together().Job);
        Assert.Equal(0, line.Travelled[^1].Depth);
        Assert.True(line.Deepest > 10);
        Assert.Equal(JobStory.Map.Map.Operations.Count(o => o.Kind == OperationKind.Open && JobStory.Plan.Removal.Any(a => a.Id == o.Id)), line.Deepest);
        Assert.Equal(7, (line.Ahead.Count > 0 ? line.Ahead : line.Now)[^1].X);
    }

    [Fact]
    public void Before_and_after_stand_side_by_side()
    {
        var row = ProofSheet.Row(new JobStory().Proved().Job, JobStory.Library.System("starting")!.Check("cranking-volts")!);
        Assert.Equal(("12.4 V", "at least 9.6 V", "10.56 V", true), (row.Before, row.Limit, row.After, row.Held));
    }
}
