using Screeline.Core.Access;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>Records say what was done: torques, joints without a figure, causes, how a vehicle came, what was seen beside, and time that was paused.</summary>
public sealed class RecordTests
{
    private static readonly DateTimeOffset Now = new(2036, 5, 4, 20, 0, 0, TimeSpan.FromHours(2));

    [Fact]
    public void A_structural_joint_without_its_figure_is_not_driven_until_somebody_who_may_has_checked_it()
    {
        var story = new JobStory { Way = JobStory.WheelWay }.Together();
        var (step, fastener) = ("wheel-off", "wheel-bolts");
        bool Waits() => story.Job.NotDrivenUntilChecked.Any(j => j.Step == step && j.Fastener.Id == fastener);
        Assert.True(Waits());
        story.Say(new TorqueSet(step, fastener, TorqueHow.ByHand, null, null));
        Assert.True(Waits());
        Assert.Contains(story.Job.NotDriven, words => words.EndsWith("by hand", StringComparison.Ordinal));
        story.Say(new TorqueSet(step, fastener, TorqueHow.NotDone, null, null, Why: "no room"));
        Assert.True(Waits());
        story.Say(new TorqueSet(step, fastener, TorqueHow.Wrench, new Figure(47, Units.NewtonMetre), "w"));
        Assert.False(Waits());
        Assert.NotNull(JobRules.OutOfOrder(story.Job, new JointChecked(step, fastener, "looked"), Now));
        // The last word counts.
        story.Say(new TorqueSet(step, fastener, TorqueHow.ByHand, null, null));
        Assert.True(Waits());
        Assert.Null(JobRules.OutOfOrder(story.Job, new JointChecked(step, fastener, "tightened again, 47 N·m"), Now));
        story.Say(new JointChecked(step, fastener, "tightened again, 47 N·m"));
        Assert.False(Waits());
        // Undone, it has to be checked anew.
        story.Say(new SentBack(null, step, "loose"));
        story.On(step);
        Assert.True(Waits());
    }

    [Fact]
    public void It_goes_back_so_and_is_checked_and_explained_afterwards()
    {
        var story = new JobStory { Way = JobStory.WheelWay }.Proved();
        Assert.NotEmpty(story.Job.NotDrivenUntilChecked);
        var closing = new HandedBack("open inside", null, null, null, [.. story.Job.Checks.Select(c => c.Id)]);
        Assert.Empty(JobRules.Malformed(story.Job, closing));
        Assert.Null(JobRules.OutOfOrder(story.Job, closing, Now));
        story.Say(closing);
        Assert.Null(story.Job.Cause);
        Assert.NotNull(JobSummary.FromJob(story.Job).NotDriven);
        Assert.Null(JobFacts.FromJob(story.Job).Cause);

        Assert.NotNull(JobRules.OutOfOrder(story.Job, new ToolBack("stands"), Now));
        Assert.NotNull(JobRules.OutOfOrder(story.Job, new JobResumed(null), Now));
        var told = new CauseTold(new CauseSaid("age", null));
        Assert.Null(JobRules.OutOfOrder(story.Job, told, Now));
        story.Say(told);
        Assert.Equal("age", JobFacts.FromJob(story.Job).Cause);
        foreach (var joint in story.Job.NotDrivenUntilChecked)
        {
            var seen = new JointChecked(joint.Step, joint.Fastener.Id, "tightened");
            Assert.Null(JobRules.OutOfOrder(story.Job, seen, Now));
            story.Say(seen);
        }

        Assert.Empty(story.Job.Disputes);
        Assert.Null(JobSummary.FromJob(story.Job).NotDriven);
    }

    [Fact]
    public void What_was_off_when_it_came_is_off_and_the_count_balances_from_there()
    {
        var plan = JobStory.Plan.Removal.Select(a => a.Id).ToList();
        // Two things that somebody took off before: in the order of the map.
        List<string> off = [.. WalkRules.InOrder(JobStory.Map.Map).Where(o => o.Kind == OperationKind.Open && plan.Contains(o.Id)).Take(2).Select(o => o.Id)];
        var story = new JobStory();
        var came = new ArrivalNoted(JobStory.Map.Hash, off, ["belt"], ["one screw of the undertray"], []);
        Assert.Empty(JobRules.Malformed(story.Job, came));
        story.Say(came);
        Assert.Equal(off.ToHashSet(), story.Job.Open.ToHashSet());
        Assert.Equal(JobStory.Map.Map.Operations.Where(o => off.Contains(o.Id)).Sum(o => o.Fasteners.Sum(f => f.Count)), story.Job.Count.Out);

        story.Proven();
        List<string> all = [.. off, .. plan.Where(id => !off.Contains(id))];
        Assert.Contains("must stay part", JobRules.OutOfOrder(story.Job, new RouteTaken(JobStory.Map.Hash, JobStory.Map.Map.Targets[0].Id, plan[^1..], []), Now)!, StringComparison.Ordinal);
        story.Say(new RouteTaken(JobStory.Map.Hash, JobStory.Map.Map.Targets[0].Id, all, [.. JobStory.Plan.Refit.Select(a => a.Id)]));
        foreach (var id in plan.Where(id => !off.Contains(id)))
        {
            story.Off(id);
        }

        Assert.True(story.Job.IsDone(Stage.TakeApart), story.Job.Next);
        // Nobody here took it off: it is no tick of anybody's and no time.
        Assert.All(off, id => Assert.IsType<ArrivalNoted>(story.Job.Removed[id].Entry.Payload));
        Assert.DoesNotContain(WorkTime.InJob(story.Job), t => off.Contains(t.Action));
        foreach (var id in JobStory.Plan.Refit.Select(a => a.Id))
        {
            if (id == "crank-test")
            {
                story.Gate();
            }

            story.On(id);
        }

        Assert.True(story.Job.Count.Balances);
        Assert.Empty(story.Job.Open);
        Assert.Empty(story.Job.Disputes);
        Assert.NotNull(JobRules.OutOfOrder(story.Job, came, Now));
    }

    [Fact]
    public void What_is_said_again_before_the_work_begins_takes_the_place_of_what_was_said()
    {
        var story = new JobStory();
        var first = WalkRules.InOrder(JobStory.Map.Map).First(o => o.Kind == OperationKind.Open).Id;
        story.Say(new ArrivalNoted(JobStory.Map.Hash, [first], [], [], []));
        Assert.Single(story.Job.Open);
        story.Say(new ArrivalNoted(null, [], [], [], ["two cables on one stud"]));
        Assert.Empty(story.Job.Open);
        Assert.Null(story.Job.Map);
        var undone = story.Say(new ArrivalNoted(JobStory.Map.Hash, [first], [], [], [], "no belt"));
        Assert.Contains("no belt", story.Job.NotDriven);
        story.Say(new EntryWithdrawn(undone.Id));
        Assert.Empty(story.Job.Open);
        Assert.Empty(story.Job.NotDriven);
    }

    [Fact]
    public void A_lunch_moves_no_estimate()
    {
        // Ticks of JobStory stand a minute apart.
        static IReadOnlyList<WorkTime> Times(params ClockedMoment[] said)
        {
            var story = new JobStory().OnItsWay();
            story.Off(JobStory.Plan.Removal[0].Id);
            foreach (var moment in said)
            {
                story.Say(new WorkClocked(moment));
            }

            story.Off(JobStory.Plan.Removal[1].Id);
            return WorkTime.InJob(story.Job);
        }

        // One minute either way: two with a pause of one minute between.
        var plain = Assert.Single(Times());
        Assert.Equal(plain.Minutes + 1, Assert.Single(Times(ClockedMoment.Start)).Minutes, 2);
        Assert.Equal(plain.Minutes + 1, Assert.Single(Times(ClockedMoment.Pause, ClockedMoment.Start)).Minutes, 2);
        Assert.Equal(plain.Minutes + 1, Assert.Single(Times(ClockedMoment.Pause, ClockedMoment.Pause, ClockedMoment.Start)).Minutes, 2);
        // A pause that nobody ended: no time is told rather than a wrong one.
        Assert.Empty(Times(ClockedMoment.Pause));
        Assert.Empty(Times(ClockedMoment.EndOfDay));
    }

    [Fact]
    public void A_pause_ends_with_the_next_thing_done()
    {
        var story = new JobStory().OnItsWay();
        Assert.Null(story.Job.PauseOf(JobStory.Ansa));
        story.Say(new WorkClocked(ClockedMoment.Pause));
        Assert.NotNull(story.Job.PauseOf(JobStory.Ansa));
        Assert.Null(story.Job.PauseOf(Guid.NewGuid()));
        story.Say(new NoteAdded(null, "thought of something"));
        Assert.NotNull(story.Job.PauseOf(JobStory.Ansa));
        story.Off(JobStory.Plan.Removal[0].Id);
        Assert.Null(story.Job.PauseOf(JobStory.Ansa));
    }

    [Fact]
    public void What_is_seen_beside_stands_until_it_is_settled()
    {
        var story = new JobStory().OnItsWay();
        var leak = story.Say(new SeenBeside("oil at the sump seam", SeenUrgency.Soon, "undertray"));
        Assert.Null(Assert.Single(story.Job.Seen).Settled);
        story.Say(new SeenSettled(leak.Id, SeenEnd.LetBe, "has no money"));
        Assert.Equal("left by the customer (has no money)", Assert.Single(story.Job.Seen).Settled!.Payload.Words);
        // It is no part of the proof, and does not keep the vehicle here.
        Assert.DoesNotContain(story.Job.MissingFromProof, m => m.Contains("oil", StringComparison.Ordinal));
    }
}
