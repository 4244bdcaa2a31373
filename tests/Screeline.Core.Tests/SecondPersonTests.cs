using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>An apprentice's critical work waits for a second person, and its gate stays shut until then.</summary>
public sealed class SecondPersonTests
{
    private static readonly Guid Bram = new("5c0a0000-0000-4000-8000-000000000002");

    private static Entry As(JobStory story, Guid who, Payload payload)
    {
        var said = story.Say(payload);
        var entry = said with { Draft = said.Draft with { Actor = who } };
        story.Entries[^1] = entry;
        return entry;
    }

    [Fact]
    public void Supports_gates_and_structural_torques_are_critical_and_nothing_else()
    {
        var apart = new JobStory().Apart("undertray").Job;
        Assert.StartsWith("Supports:", new StepDone(WorkPhase.Apart, "raised", null, []).NeedsSecondPerson(apart), StringComparison.Ordinal);
        Assert.Null(new StepDone(WorkPhase.Apart, "undertray", null, []).NeedsSecondPerson(apart));
        Assert.StartsWith("Gate:", new StepDone(WorkPhase.Refit, "crank-test", null, []).NeedsSecondPerson(apart), StringComparison.Ordinal);
        Assert.Null(new StepDone(WorkPhase.Refit, "looked-over", null, []).NeedsSecondPerson(apart));
        Assert.Contains("120 Nm on", new TorqueSet("wheel-off", "wheel-bolts", TorqueHow.Wrench, new Figure(120, Units.NewtonMetre), null).NeedsSecondPerson(apart)!.Replace("N·m", "Nm", StringComparison.Ordinal), StringComparison.Ordinal);
        Assert.Null(new TorqueSet("undertray", "edge", TorqueHow.Wrench, new Figure(5, Units.NewtonMetre), null).NeedsSecondPerson(apart));
        Assert.Null(new StepDone(WorkPhase.Apart, "raised", null, []).NeedsSecondPerson(new JobStory().Job));
    }

    [Fact]
    public void Nobody_goes_under_a_vehicle_whose_supports_wait_for_a_second_person()
    {
        var story = new JobStory().Apart("undertray");
        var raised = story.Job.Removed["raised"].Entry;
        story.Say(new SecondWanted(raised.Id, "Supports"));
        Assert.Contains("second person", JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Apart, "undertray", 1, []), DateTimeOffset.UnixEpoch), StringComparison.Ordinal);
        // Who did it cannot be who looked at it; and it is shown, not swallowed.
        story.Say(new SecondSigned(raised.Id));
        Assert.Equal("The second person is somebody else.", Assert.Single(story.Job.Disputes).Reason);
        Assert.Single(story.Job.SecondsMissing);
        var signed = As(story, Bram, new SecondSigned(raised.Id));
        Assert.Empty(story.Job.SecondsMissing);
        Assert.Null(JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Apart, "undertray", 1, []), DateTimeOffset.UnixEpoch));
        // Taken back, it waits again; signed twice is one too many.
        story.Say(new EntryWithdrawn(signed.Id));
        Assert.Single(story.Job.SecondsMissing);
        As(story, Bram, new SecondSigned(raised.Id));
        As(story, Bram, new SecondSigned(raised.Id));
        Assert.Contains(story.Job.Disputes, d => d.Reason == "A second person has signed already.");
    }

    [Fact]
    public void A_gate_stays_shut_behind_the_signature_that_is_missing()
    {
        var story = new JobStory().Together("crank-test");
        story.Gate();
        var tick = story.On("crank-test");
        story.Say(new SecondWanted(tick.Id, "Gate"));
        var behind = Refit.Order(story.Job).SkipWhile(id => id != "crank-test").Skip(1).First();
        Assert.Equal("crank-test", Refit.GateBefore(story.Job, behind));
        Assert.Contains("second person", JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Refit, behind, null, []), DateTimeOffset.UnixEpoch), StringComparison.Ordinal);
        As(story, Bram, new SecondSigned(tick.Id));
        Assert.Null(Refit.GateBefore(story.Job, behind));
        // A tick that is taken back waits for nobody.
        var other = new JobStory().Together("crank-test");
        other.Gate();
        var undone = other.On("crank-test");
        other.Say(new SecondWanted(undone.Id, "Gate"));
        other.Say(new EntryWithdrawn(undone.Id));
        Assert.Empty(other.Job.SecondsMissing);
    }

    [Fact]
    public void What_asks_for_a_second_person_is_nobodys_to_take_back_and_holds_up_the_hand_back()
    {
        var story = new JobStory().Apart("undertray");
        var wanted = story.Say(new SecondWanted(story.Job.Removed["raised"].Entry.Id, "Supports"));
        Assert.Contains(JobRules.Malformed(story.Job, new EntryWithdrawn(wanted.Id)), f => f.Path == "$.payload.entry");
        story.Say(new EntryWithdrawn(wanted.Id));
        Assert.Single(story.Job.SecondsMissing);
        Assert.Contains("Waits for a second person: Supports", story.Job.MissingFromProof);
    }

    /// <summary>The four roles of the trade's yard; common practice, no source.</summary>
    [Fact]
    public void Each_role_says_what_it_may()
    {
        var closing = new HandedBack("x", null, null, null, []);
        foreach (var (role, payload, may) in new (Role, Payload, bool)[]
        {
            (Role.Viewer, new NoteAdded(null, "x"), false), (Role.Apprentice, new NoteAdded(null, "x"), true), (Role.Apprentice, closing, false), (Role.Technician, closing, true),
            (Role.Apprentice, new SecondSigned(Guid.NewGuid()), false), (Role.Technician, new SecondSigned(Guid.NewGuid()), true), (Role.Apprentice, new DifferenceSigned("x", []), false),
        })
        {
            Assert.Equal(may, Roles.Refuses(role, payload, new JobStory().Job) is null);
        }

        Assert.Equal(Role.Viewer, Roles.Parse("admin"));
        Assert.Equal(Role.Viewer, Roles.Parse(null));
        Assert.All(Roles.Names, name => Assert.Equal(name, Roles.Parse(name).Name()));
    }
}
