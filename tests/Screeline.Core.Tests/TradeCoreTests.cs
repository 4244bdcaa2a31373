using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Library;

namespace Screeline.Core.Tests;

/// <summary>Workplace, dead motor, the facts of a closed job, what a shop's history may do.</summary>
public sealed class TradeCoreTests
{
    private static readonly ShippedLibrary Library = JobStory.Library;

    public static TheoryData<string> Maps => [.. Library.Maps.Select(m => m.Map.Id)];

    /// <summary>A lift and power tools never make a job longer, never change what is done, and leave a map without faults.</summary>
    [Theory]
    [MemberData(nameof(Maps))]
    public void A_better_workplace_saves_minutes_and_changes_nothing_else(string id)
    {
        var map = Library.Map(id).Map;
        var plain = RoutePlanner.Best(map);
        foreach (var place in new[] { new Workplace(true, false), new Workplace(false, true), new Workplace(true, true) })
        {
            var changed = place.On(map);
            Assert.Empty(AccessMapReader.Read(AccessMapWriter.Write(changed), Library.Cautions).Faults);
            Assert.True(RoutePlanner.Best(changed).ExpectedMinutes <= plain.ExpectedMinutes);
            Assert.Equal(map.Operations.Select(o => (o.Id, o.Needs.ToString())), changed.Operations.Select(o => (o.Id, o.Needs.ToString())));
            Assert.All(map.Operations.Zip(changed.Operations), x => Assert.InRange(x.Second.Minutes.Mean, x.First.Minutes.Mean * Workplace.RaisingOnLift * (1 - Workplace.MostSaved) - 0.02m, x.First.Minutes.Mean + 0.02m));
        }

        Assert.Same(map, Workplace.Plain.On(map));
    }

    /// <summary>Copper studs, plastics, self-tappers and clips are turned by hand whatever hangs on the wall (common practice, no source).</summary>
    [Fact]
    public void Power_tools_leave_studs_plastics_and_clips_alone()
    {
        var map = Library.Map("tideway-starter").Map;
        var changed = new Workplace(false, true).On(map);
        Assert.Equal(map["main-nut"].Minutes, changed["main-nut"].Minutes);
        Assert.Equal(map["loom-clips"].Minutes, changed["loom-clips"].Minutes);
        Assert.True(changed["undertray"].Minutes.Mean < map["undertray"].Minutes.Mean);
        Assert.True(changed["undertray"].CloseMinutes.Mean > changed["undertray"].Minutes.Mean, "the wrench has the last word on the way back");
    }

    [Theory]
    [MemberData(nameof(Maps))]
    public void A_map_comes_back_from_its_writer_as_it_was(string id)
    {
        var map = Library.Map(id).Map;
        var again = AccessMapReader.Read(AccessMapWriter.Write(map), Library.Cautions);
        Assert.Empty(again.Faults);
        Assert.Equal(AccessMapWriter.Write(map), AccessMapWriter.Write(again.Map!));
        Assert.Equal(map.Lessons.Select(l => (l.Words, string.Join(' ', l.At))), again.Map!.Lessons.Select(l => (l.Words, string.Join(' ', l.At))));
        Assert.Equal(map.Restores, again.Map.Restores);
        Assert.Equal(map.Suspects, again.Map.Suspects);
        Assert.Equal(map.Reaches.OrderBy(r => r.Key), again.Map.Reaches.OrderBy(r => r.Key));
        Assert.Equal(map.Operations.Select(o => (o.Live, o.ByMotor, o.Unpowered, o.Outsourced, string.Join('|', o.Never), string.Join('|', o.Off))), again.Map.Operations.Select(o => (o.Live, o.ByMotor, o.Unpowered, o.Outsourced, string.Join('|', o.Never), string.Join('|', o.Off))));
    }

    [Theory]
    [MemberData(nameof(Maps))]
    public void With_a_dead_motor_or_a_live_one_there_is_a_way(string id)
    {
        var map = Library.Map(id).Map;
        foreach (var dead in new[] { true, false })
        {
            Assert.All(map.Targets, t => Assert.NotEmpty(RoutePlanner.Plan(new PlanRequest(map, t.Operation) { Blocked = DeadMotor.LeavesOut(map, dead) }).Routes));
        }
    }

    public static TheoryData<string, string, string> BadMaps => new()
    {
        { "\"kind\": \"under\", \"requires\": [\"vehicle-supported\"]", "\"kind\": \"under\"", "a place under the vehicle requires" },
        { "\"lessons\": [", "\"lessons\": [{\"words\": \"x\", \"at\": [\"nowhere\"]},", "no operation or refit step" },
        { "\"after\": \"battery-isolated\"", "\"after\": \"moon-full\"", "none provides such a state" },
        { "\"step\": \"main-nut\", \"why\"", "\"step\": \"moon\", \"why\"", "no operation or refit step" },
        { "\"needs\": \"codes-saved\",", "\"needs\": null,", "wants power" },
    };

    [Theory]
    [MemberData(nameof(BadMaps))]
    public void What_a_map_says_of_itself_is_checked(string there, string instead, string fault)
    {
        var json = Library.Map("ternwick-starter").Json;
        Assert.Contains(there, json, StringComparison.Ordinal);
        var at = json.IndexOf(there, StringComparison.Ordinal);
        Assert.Contains(AccessMapReader.Read(json[..at] + instead + json[(at + there.Length)..], Library.Cautions).Faults, f => f.Message.Contains(fault, StringComparison.Ordinal));
    }

    [Fact]
    public void What_needs_a_version_is_blocked_by_the_one_that_is_fitted()
    {
        var map = Library.Map("carrier-starter").Map;
        Assert.NotNull(map.Fitted);
        Assert.All(map.Fitted.Choices, c =>
        {
            var best = RoutePlanner.Plan(new PlanRequest(map, "compared") { Blocked = c.Without.ToHashSet(StringComparer.Ordinal) }).Routes[0];
            Assert.DoesNotContain(best.Set, c.Without.Contains);
        });
    }

    [Fact]
    public void Facts_follow_from_the_entries_and_minutes_lie_where_the_work_was()
    {
        var story = new JobStory().Proved();
        story.Say(new HandedBack("open inside", null, null, new CauseSaid("age", "noted"), [.. story.Job.Checks.Select(c => c.Id)]));
        var facts = JobFacts.FromJob(story.Job);
        Assert.Equal(("tideway-starter", true, "age"), (facts.Map, facts.PartCondemned, facts.Cause));
        Assert.Equal(facts.Spent, facts.Places.Where(p => p.Place != PlaceMinutes.Waiting).Sum(p => p.Spent));
        Assert.InRange(facts.Places.Where(p => p.Place != PlaceMinutes.Waiting).Sum(p => p.Planned) - facts.Planned, -0.1m, 0.1m);
        Assert.All(facts.Places, p => Assert.True(p.Place == PlaceMinutes.Waiting || Position.Kinds.Contains(p.Place), p.Place));
        Assert.InRange(facts.Expected, facts.Planned, 200);
    }

    /// <summary>One job more moves a prior by less than one in thirty; a comeback weighs three (the mean of a Dirichlet distribution with 30 prior counts).</summary>
    [Fact]
    public void One_odd_job_cannot_spoil_a_prior()
    {
        var system = Library.System("starting")!;
        var none = ShopHistory.None.Priors(system);
        foreach (var repair in system.Repairs)
        {
            var one = (ShopHistory.None with { Model = "m" }).With(repair.Id, 1).Priors(system);
            Assert.True(none.Zip(one).Max(x => Math.Abs(x.First - x.Second)) < 1.0 / ShopHistory.PriorJobs);
            Assert.Equal(1, one.Sum(), 9);
            var back = (ShopHistory.None with { Model = "m" }).With(repair.Id, ShopHistory.ComebackWeighs).Priors(system);
            var of = system.Faults.Select((f, i) => (f, i)).Where(x => x.f.Repair == repair.Id).Sum(x => back[x.i]);
            Assert.True(of > system.Faults.Select((f, i) => (f, i)).Where(x => x.f.Repair == repair.Id).Sum(x => one[x.i]));
        }
    }

    [Fact]
    public void A_size_that_fits_is_written_into_the_map_once()
    {
        var map = Library.Map("fellgate-starter").Map;
        var changed = MapChanges.WithAlsoFits(map, "main-nut", "stud-nut", "hex-15");
        Assert.Equal(["hex-15"], changed["main-nut"].Fasteners[0].AlsoFits);
        Assert.Same(changed, MapChanges.WithAlsoFits(changed, "main-nut", "stud-nut", "hex-15"));
        Assert.Same(map, MapChanges.WithAlsoFits(map, "main-nut", "moon", "hex-15"));
        Assert.Empty(AccessMapReader.Read(AccessMapWriter.Write(changed), Library.Cautions).Faults);
    }

    /// <summary>A closed job is judged by what was asked for then: a check that is asked for later does not dispute it.</summary>
    [Fact]
    public void What_is_asked_for_later_does_not_undo_a_closing()
    {
        var story = new JobStory().Proved();
        var asked = story.Job.Checks.Where(c => c.Moment == ProofMoment.End).Select(c => c.Id).ToList();
        var closing = story.Say(new HandedBack("x", null, null, new CauseSaid("age", "noted"), [.. asked.Skip(1)]));
        Assert.Empty(story.Job.Disputes);
        Assert.Equal(StageState.Done, story.Job.StateOf(Stage.Prove));
        // At the time of closing all of them are asked for.
        var before = Job.Fold([.. story.Entries.TakeWhile(e => e.Id != closing.Id)], JobStory.Knowledge);
        Assert.Contains(JobRules.Malformed(before, closing.Payload), f => f.Path == "$.payload.checks");
        // What was named and does not hold any more is disputed.
        var proof = story.Entries.Last(e => e.Payload is ProofTaken { Check: var c } && c == asked[^1]);
        story.Say(new EntryWithdrawn(proof.Id));
        Assert.Contains(story.Job.Disputes, d => d.Entry.Id == closing.Id);
    }
}
