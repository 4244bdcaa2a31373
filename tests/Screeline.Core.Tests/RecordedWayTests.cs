using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using static Screeline.Core.Tests.RecordedStory;

namespace Screeline.Core.Tests;

/// <summary>The way back of a vehicle without a map, as it is worked out.</summary>
public sealed class RecordedWayTests
{
    [Fact]
    public void The_way_back_is_the_reverse_with_its_exceptions_and_says_why()
    {
        var story = Begun();
        Frame(story, "codes-saved", "chocked", "negative-off");
        Take(story, TakenAct.Part, "Engine cover");
        Take(story, TakenAct.Aside, "Loom");
        Take(story, TakenAct.Lead, "Main cable");
        story.Say(new GroupOut("bolt", "hex-13", 2, 1));
        Take(story, TakenAct.Loosened, "Starter bolts");
        var plug = Take(story, TakenAct.Plug, "Small plug");
        var starter = Take(story, TakenAct.Part, "Starter", target: true);
        var job = story.Job;
        Assert.Equal(
            [
                "Mating face and cable eyes cleaned bright", "Small plug on, tugged", "Starter on", "Starter bolts tightened", "Main cable on", "Loom back in place",
                "Negative lead on, for the test only", "Crank it and measure, covers still off", "Negative lead off again", "Engine cover on", "Chocks away", "Look over: plugs on, nothing touching, no tool left", "Negative lead on, last",
            ], WayBack(job));
        Assert.Contains("already hung", job.WhyHere(plug), StringComparison.Ordinal);
        Assert.Equal("The battery comes last.", job.WhyHere("negative-off"));
        Assert.Equal("Before the first cover that hides it.", job.WhyHere("crank-test"));
        Assert.Null(job.WhyHere(starter));
    }

    /// <summary>Where no word tells what hides the part, whatever closes next might; where the cover closes before the part could run, it does not count.</summary>
    [Theory]
    [InlineData("Knorz;Motor plug;Blower", "Blower on;Motor plug on, tugged;Every speed, covers still off;Knorz on;Look over: plugs on, nothing touching, no tool left")]
    [InlineData("Glovebox;Bracket;Motor plug;Blower", "Blower on;Motor plug on, tugged;Bracket on;Every speed, covers still off;Glovebox on;Look over: plugs on, nothing touching, no tool left")]
    [InlineData("Motor plug;Glovebox;Blower", "Blower on;Glovebox on;Motor plug on, tugged;Every speed, covers still off;Look over: plugs on, nothing touching, no tool left")]
    public void The_gate_stands_before_the_first_cover_that_hides_the_motor(string off, string back)
    {
        var story = Begun("blower");
        var things = off.Split(';');
        foreach (var (what, i) in things.Select((w, i) => (w, i)))
        {
            Take(story, what.EndsWith("plug", StringComparison.Ordinal) ? TakenAct.Plug : TakenAct.Part, what, "footwell", i == things.Length - 1);
        }

        Assert.Equal(back.Split(';'), WayBack(story.Job));
    }

    [Fact]
    public void A_step_is_drawn_forward_or_put_off_but_never_past_a_gate_a_support_or_the_battery()
    {
        var story = Begun();
        Frame(story, "codes-saved", "chocked", "negative-off");
        var cover = Take(story, TakenAct.Part, "Engine cover");
        var duct = Take(story, TakenAct.Part, "Intake duct");
        var hose = Take(story, TakenAct.Hose, "Breather");
        var starter = Take(story, TakenAct.Part, "Starter", target: true);
        string? Why(string step, string? before) => JobRules.OutOfOrder(story.Job, new OrderMoved(WorkPhase.Refit, step, before), DateTimeOffset.Now);
        Assert.Null(Why(duct, starter));
        Assert.Contains("gate", Why(cover, starter), StringComparison.Ordinal);
        Assert.Contains("gate", Why("crank-test", null), StringComparison.Ordinal);
        Assert.NotNull(Why("negative-off", starter));
        Assert.NotNull(Why("power-for-test", starter));
        // Out of the order worked out it is refused, with the way on.
        story.Say(new StepDone(WorkPhase.Refit, "faces-cleaned", null, []));
        Assert.Contains("draw it forward", JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Refit, duct, null, []), DateTimeOffset.Now), StringComparison.Ordinal);
        story.Say(new OrderMoved(WorkPhase.Refit, duct, starter));
        Assert.Equal(["Intake duct on", "Starter on", "Breather on"], WayBack(story.Job).Skip(1).Take(3));
        Assert.Null(JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Refit, duct, null, []), DateTimeOffset.Now));
        // What somebody said was in the way holds as the map's own needs do.
        story.Say(new OnlyThis(hose, [duct]));
        Assert.NotNull(Why(duct, hose));
        Assert.Empty(story.Job.Disputes);
    }

    [Fact]
    public void Five_hundred_parts_are_kept_and_go_back()
    {
        var story = Begun("blower");
        for (var i = 0; i < 500; i++)
        {
            story.Say(new TakenOff(TakenAct.Part, $"{new string('p', 190)} {i}", "footwell", i == 499));
        }

        var job = Job.Walk(story.Entries, JobStory.Knowledge, (_, _) => { });
        Assert.Empty(job.Disputes);
        Assert.Equal(500, job.OpenOperations);
        var back = Refit.Order(job);
        Assert.Equal(502, back.Count);
        Assert.StartsWith("pppp", Refit.Title(job.Map!, back[0]), StringComparison.Ordinal);
        Assert.True(Refit.Holds(job.Map!, back, job.RefitProgress));
    }

    /// <summary>
    /// Somebody does a valid order of a map that the program does not see, says now and then truthfully what alone was in the way, and goes back as it is worked
    /// out: each closing is valid in the hidden map, or the program says that it stands where it does for a reason of its own.
    /// </summary>
    [Property(MaxTest = 120)]
    public void The_way_back_worked_out_is_valid_in_the_hidden_map(PositiveInt seed)
    {
        var random = new Random(seed.Item);
        var hidden = RandomMaps.Map(random, 10);
        hidden = MapChanges.Placed(hidden, [.. hidden.Operations.Select(o => o with { Close = o.Close with { While = null, Gate = false } })], [], hidden.Positions);
        var story = Begun("blower");
        var (done, told) = (new HashSet<string>(StringComparer.Ordinal), new Dictionary<string, string>(StringComparer.Ordinal));
        var plain = random.Next(2) == 0;
        while (hidden.Operations.Where(o => WalkRules.MayRemove(o, done)).ToList() is { Count: > 0 } possible && random.Next(12) > 0)
        {
            var o = possible[random.Next(possible.Count)];
            var act = o.Kind == OperationKind.Once ? TakenAct.Looked : plain ? TakenAct.Part : (TakenAct)random.Next(7) is var any && any != TakenAct.Looked ? any : TakenAct.Part;
            if (o.Kind == OperationKind.Open && random.Next(3) == 0)
            {
                story.Say(new GroupOut("screw", "T20", 1 + random.Next(4), story.Job.Count.FreeCell));
            }

            told[Take(story, act, $"Thing {o.Id}", "bay", target: o.Kind == OperationKind.Open && told.Count > 4 && story.Job.Reached is null)] = o.Id;
            if (random.Next(3) == 0)
            {
                // The truth: as little as still lets it come off.
                var kept = done.ToList();
                foreach (var id in done)
                {
                    if (o.Needs.Hold(x => x != id && kept.Contains(x)))
                    {
                        kept.Remove(id);
                    }
                }

                story.Say(new OnlyThis(told.First(t => t.Value == o.Id).Key, [.. told.Where(t => kept.Contains(t.Value)).Select(t => t.Key)]));
            }

            done.Add(o.Id);
        }

        var job = story.Job;
        Assert.Empty(job.Disputes);
        var order = Refit.Order(job);
        Assert.Equal(WalkRules.RefitActions(job.Map!, job.Set).Order(), order.Order());
        Assert.True(Refit.Holds(job.Map!, order, job.RefitProgress));
        var progress = new RefitProgress(done, new HashSet<string>(), new HashSet<string>());
        foreach (var id in order.Where(told.ContainsKey))
        {
            if (!WalkRules.MayClose(hidden, hidden[told[id]], progress))
            {
                Assert.False(plain, $"{told[id]} of {string.Join(' ', order)}");
                Assert.Contains(job.WorkedOutWayBack, x => job.WhyHere(x)?.Contains("already hung", StringComparison.Ordinal) == true);
            }

            progress = WalkRules.After(hidden, told[id], progress);
        }
    }

    /// <summary>Whatever two people tell, in whatever order, with steps moved and struck and taken back: nothing is lost, and going on with what is due always leads back out.</summary>
    [Property(MaxTest = 60)]
    public void A_lone_technician_always_has_a_way_on(PositiveInt seed)
    {
        var random = new Random(seed.Item);
        var story = Begun(JobStory.Library.Systems[random.Next(7)].Id);
        string[] words = ["Undertray", "Main cable", "Knorz", "Heat shield", "Loom", "Coolant hose", "Exhaust", "Water film", "Wiper arm", "Engine mount", "Belt", "Crank"];
        for (var i = 0; i < 14; i++)
        {
            var (by, job) = (random.Next(2) == 0 ? JobStory.Ansa : Bram, story.Job);
            switch (random.Next(8))
            {
                case 0:
                    story.Say(new GroupOut("bolt", "hex-10", 1 + random.Next(9), job.Count.FreeCell), by: by);
                    break;
                case 1 when job.Expected is { Count: > 0 } expected:
                    story.Say(new StepDone(WorkPhase.Apart, expected[random.Next(expected.Count)].Id, null, []), by: by);
                    break;
                case 2 when job.Things.Count > 0:
                    story.Say(new EntryWithdrawn(job.Things[random.Next(job.Things.Count)].Entries.Last().Id), by: by);
                    break;
                case 3 when job.Things.Count > 1:
                    story.Say(new OrderMoved(WorkPhase.Apart, job.Things[random.Next(job.Things.Count)].Id, job.Things[random.Next(job.Things.Count)].Id), by: by);
                    break;
                case 4 when job.Expected is { Count: > 0 } expected:
                    story.Say(new ExpectationStruck(expected[random.Next(expected.Count)].Id, null), by: by);
                    break;
                default:
                    story.Say(new TakenOff((TakenAct)random.Next(7), words[random.Next(words.Length)], Position.Kinds[random.Next(10)]), by: by);
                    break;
            }
        }

        story.Say(new TakenOff(TakenAct.Part, "Motor out", "bay", true));
        var open = story.Job.OpenOperations;
        Assert.True(open > 0);
        Assert.Equal(story.Job.Count.Out, story.Job.Things.Sum(t => t.Press?.Payload.Act == TakenAct.Looked ? 0 : t.Groups.Sum(g => g.Payload.Count)) + story.Job.Extras.Where(x => story.Job.Map![x.Payload.Step].Kind == OperationKind.Open).Sum(x => x.Payload.Count));
        for (var i = 0; i < 60 && Refit.Order(story.Job).FirstOrDefault(id => !story.Job.Refitted.ContainsKey(id)) is { } due; i++)
        {
            var job = story.Job;
            if (random.Next(4) == 0 && Refit.Order(job).Where(id => !job.Refitted.ContainsKey(id)).ToList() is { Count: > 2 } left && new OrderMoved(WorkPhase.Refit, left[random.Next(left.Count)], left[random.Next(left.Count)]) is var moved
                && JobRules.Malformed(job, moved).Count == 0 && JobRules.OutOfOrder(job, moved, DateTimeOffset.Now) is null)
            {
                story.Say(moved);
                continue;
            }

            foreach (var check in (job.Map!.Step(due)?.Checks ?? []).Select(job.Check).OfType<ProofCheck>().Where(c => job.Held(c) != true))
            {
                story.Say(Library.Demo.DemoTelling.Good(check, 12));
            }

            if (job.Map.Step(due)?.Setting is { } setting)
            {
                story.Say(new SettingKept(due, setting, "Within its bands", true, new Dictionary<string, string>()));
            }

            var tick = new StepDone(WorkPhase.Refit, due, null, [.. job.FastenersOf(due).Select(f => FastenerCount.Expected(job, due, f))]);
            Assert.Null(JobRules.OutOfOrder(story.Job, tick, DateTimeOffset.Now.AddYears(20)));
            story.Say(tick);
        }

        Assert.Equal(0, story.Job.OpenOperations);
        Assert.True(story.Job.IsDone(Stage.Refit));
        Assert.True(story.Job.Count.Balances);
    }
}
