using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Recording;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;
using static Screeline.Core.Tests.RecordedStory;

namespace Screeline.Core.Tests;

/// <summary>What a map learns from a job: order, words, what two devices told, what was never closed, what was done only on the way back.</summary>
public sealed class WorkedWayTests
{
    private static WorkedJob Of(JobStory story) => WorkedWay.Of(story.Job, by => by == Bram ? "Bram" : "Ansa", null);

    private static AccessMap Learn(JobStory story, AccessMap? on = null)
    {
        var (job, frame) = (Of(story), story.Job.System.Frame);
        var map = on ?? LearnedMap.New("m", "M", story.Job.System.Id, "Brannock Tideway", null, 60);
        return LearnedMap.With(map, job with { Names = LearnedMap.Names(map, job, false, new Dictionary<string, string>(), frame) }, frame, States);
    }

    private static IReadOnlyList<string> States(string caution) => JobStory.Library.Cautions.GetValueOrDefault(caution) ?? [];

    private static string Needs(AccessMap map, string title) => NeedsText.Sentence(map.Operations.First(o => o.Title == title).Needs, id => map[id].Title);

    private static JobStory CoverDuctStarter(out string cover, out string duct, out string starter)
    {
        var story = Begun();
        Frame(story, "codes-saved", "negative-off");
        cover = Take(story, TakenAct.Part, "Engine cover");
        duct = Take(story, TakenAct.Part, "Air duct");
        starter = Take(story, TakenAct.Part, "Starter motor", target: true);
        return story;
    }

    [Fact]
    public void A_thing_needs_what_was_off_and_words_say_with_how_little()
    {
        var story = CoverDuctStarter(out var cover, out var duct, out var starter);
        Assert.Equal("Air duct and engine cover off", Needs(Learn(story), "Starter motor off"));
        // Only the duct, and what the duct leaned on: the cover stays a need until somebody says that the duct did without it.
        story.Say(new OnlyThis(starter, [duct]));
        Assert.Contains(Learn(story).Operations.First(o => o.Title == "Starter motor off").Needs.Names, id => id == "engine-cover-off");
        story.Say(new OnlyThis(duct, []));
        story.Say(new OnlyThis(starter, [duct]));
        var map = Learn(story);
        Assert.DoesNotContain("engine-cover-off", map.Operations.First(o => o.Title == "Starter motor off").Needs.Names);
        // Taken back, what rests on it goes too.
        story.Say(new EntryWithdrawn(story.Entries[^2].Id));
        Assert.Contains("engine-cover-off", Learn(story).Operations.First(o => o.Title == "Starter motor off").Needs.Names);
        Assert.Equal([cover, duct, starter], story.Job.Things.Select(t => t.Id));
    }

    [Fact]
    public void An_answer_leaves_the_part_out_of_whatever_did_without_it()
    {
        var story = CoverDuctStarter(out var cover, out var duct, out _);
        story.Say(new NeededFor(cover, [duct]));
        // The duct needed it, and the starter the duct: nobody said that the starter did without the duct.
        Assert.Contains("engine-cover-off", Learn(story).Operations.First(o => o.Title == "Starter motor off").Needs.Names);
        story.Say(new NeededFor(cover, []));
        var map = Learn(story);
        Assert.DoesNotContain("engine-cover-off", map.Operations.SelectMany(o => o.Needs.Names));
        Assert.Contains(JobRules.Malformed(story.Job, new NeededFor(duct, [cover])), f => f.Path == "$.payload.for[0]");
    }

    [Fact]
    public void What_two_devices_told_unseen_makes_no_example_until_somebody_says_which_came_first()
    {
        var story = Begun();
        Frame(story, "codes-saved", "negative-off");
        var cover = Take(story, TakenAct.Part, "Engine cover");
        // Bram's device had not seen the cover.
        var theirs = new Entry(new EntryDraft(Guid.NewGuid(), story.Job.Id, story.Entries.Count - 1, Bram, story.Entries[^1].Draft.OccurredAt, new TakenOff(TakenAct.Part, "Air duct", "bay")), story.Entries.Count + 1, Bram, story.Entries[^1].ReceivedAt);
        story.Entries.Add(theirs);
        var duct = Id(theirs, story);
        var starter = Take(story, TakenAct.Part, "Starter motor", target: true);
        Assert.Equal([(cover, duct)], WorkedWay.Unordered(story.Job));
        var faults = AccessMapReader.Read(AccessMapWriter.Write(Learn(story)), JobStory.Library.Cautions).Faults;
        Assert.Contains(faults, f => f.Path.EndsWith(".needs", StringComparison.Ordinal));
        story.Say(new OrderMoved(WorkPhase.Apart, duct, starter));
        Assert.Empty(WorkedWay.Unordered(story.Job));
        Assert.DoesNotContain(AccessMapReader.Read(AccessMapWriter.Write(Learn(story)), JobStory.Library.Cautions).Faults, f => f.Path.EndsWith(".needs", StringComparison.Ordinal));
    }

    [Fact]
    public void A_job_that_was_left_teaches_its_way_in_and_its_way_back_is_worked_out()
    {
        var story = CoverDuctStarter(out _, out _, out _);
        story.Say(new JobLeft(WayOut.Declined, "too dear", null, null));
        var map = Learn(story);
        Assert.All(map.Operations.Where(o => o.Kind == OperationKind.Open), o => Assert.True(o.Close.WorkedOut, o.Title));
        Assert.Empty(AccessMapReader.Read(AccessMapWriter.Write(map), JobStory.Library.Cautions).Faults);
    }

    [Fact]
    public void What_is_done_besides_on_the_way_back_becomes_a_step_and_goes_with_what_it_was_because_of()
    {
        var story = CoverDuctStarter(out _, out var duct, out _);
        foreach (var piece in story.Job.NotCarried)
        {
            story.Say(new PartCarried(piece.Id));
        }

        story.Say(new StepBesides("Duct seal greased", "bay"));
        var besides = story.Job.Map!.RefitSteps.First(s => s.Title == "Duct seal greased").Id;
        Assert.True(story.Job.Refitted.ContainsKey(besides));
        Assert.Null(Learn(story).RefitSteps.First(s => s.Title == "Duct seal greased").AppliesIf);
        story.Say(new BecauseOf(besides, duct));
        Assert.Equal("air-duct-off", Learn(story).RefitSteps.First(s => s.Title == "Duct seal greased").AppliesIf);
        // Undone like any other.
        story.Say(new EntryWithdrawn(story.Entries[^2].Id));
        Assert.DoesNotContain(story.Job.Map!.RefitSteps, s => s.Title == "Duct seal greased");
    }

    [Fact]
    public void Sizes_torques_and_what_the_family_wants_are_on_the_learned_map()
    {
        var story = Begun();
        Frame(story, "codes-saved", "negative-off");
        story.Say(new GroupOut("bolt", "hex-13", 2, 1, 35, "M8"));
        var starter = Take(story, TakenAct.Part, "Starter motor", target: true);
        var picture = story.Say(new PictureTaken(starter, new string('a', 64), 960, 720, "the studs", null));
        story.Say(new PinsSet(picture.Id, [new Pin(PinKind.Screw, [new PinPoint(20, 30)], null)]));
        story.Say(new FigureTold(starter, story.Job.FastenersOf(starter)[0].Id, FigureFrom.Maker, new Figure(25, Units.NewtonMetre), "maker's manual"));
        var operation = Learn(story).Operations.First(o => o.Title == "Starter motor off");
        Assert.Equal(("the studs", 1), (operation.Pictures.Single().Caption, operation.Pictures[0].Pins.Count));
        var f = operation.Fasteners.Single();
        Assert.Equal(("hex-13", "M8", 2, 25m), (f.Drive, f.Thread, f.Count, f.Torque!.Value.Number));
    }

    /// <summary>A bracket that the map did not know: it is in the way of what came next, or of what somebody says.</summary>
    [Fact]
    public void A_map_takes_in_what_a_job_found_besides_and_is_itself_again_without_it()
    {
        var story = new JobStory().OnItsWay();
        var order = JobStory.Plan.Removal.Select(a => a.Id).ToList();
        story.Off(order[0]);
        var bracket = Take(story, TakenAct.Part, "Loom bracket", "bay");
        story.Off(order[1]);
        var map = JobStory.Map.Map;
        var (job, frame) = (Of(story), story.Job.System.Frame);
        var with = LearnedMap.With(map, job with { Names = LearnedMap.Names(map, job, true, new Dictionary<string, string>(), frame) }, frame, States);
        Assert.Contains("loom-bracket-off", with[order[1]].Needs.Names);
        Assert.Equal(map.Operations.Count + 1, with.Operations.Count);
        Assert.All(order.Skip(2), id => Assert.DoesNotContain("loom-bracket-off", with[id].Needs.Names));
        Assert.Equal(AccessMapWriter.Write(map), AccessMapWriter.Write(LearnedMap.Without(with, story.Job.Id, frame, States)));
        Assert.NotEmpty(bracket);
    }

    public static TheoryData<string, string> Sentences => new()
    {
        { "undertray-off", "Undertray off" },
        { "undertray-off or wheel-off and liner-off", "Undertray off, or wheel and liner off" },
        { "cooled and (undertray-off or liner-off)", "Cooled, and undertray off, or liner off" },
        { "nothing", "nothing" },
    };

    [Theory]
    [MemberData(nameof(Sentences))]
    public void Needs_read_as_sentences(string needs, string sentence) =>
        Assert.Equal(sentence, NeedsText.Sentence(NeedsText.Read(needs).Needs!, id => char.ToUpperInvariant(id[0]) + id[1..].Replace('-', ' ')));

    /// <summary>Needs nested on purpose are told as they are typed, and not spelled out.</summary>
    [Fact]
    public void More_ways_than_anybody_reads_are_not_told_one_by_one()
    {
        var deep = new Needs.All([.. Enumerable.Range(0, 40).Select(i => new Needs.Any([new Needs.One($"a{i}"), new Needs.One($"b{i}")]))]);
        Assert.False(deep.HasFewAlternatives);
        Assert.Contains(" or ", NeedsText.Sentence(deep, id => id), StringComparison.Ordinal);
    }

    [Fact]
    public void Versions_are_compared_in_words()
    {
        var map = JobStory.Map.Map;
        var o = map.Operations[2];
        var changed = MapChanges.Placed(map, [.. map.Operations.Select(x => x.Id == o.Id ? x with { Minutes = new Minutes(7, 8, 9) } : x)], [.. map.RefitSteps.Skip(1)], map.Positions);
        var lines = MapDifference.Between(map, changed);
        Assert.Contains(lines, l => l.StartsWith($"{o.Title}, minutes: ", StringComparison.Ordinal) && l.EndsWith("now 7 to 9 min, likely 8", StringComparison.Ordinal));
        Assert.Contains($"Gone from the way back: {map.RefitSteps[0].Title}", lines);
        Assert.Empty(MapDifference.Between(map, map));
    }

    public static TheoryData<string, string> BadLearned => new()
    {
        { "\"jobs\": [{\"job\": \"x\", \"on\": \"2036-05-04\", \"by\": [], \"opened\": [], \"closed\": []}]", "$.learned.jobs[0].job" },
        { "\"jobs\": [{\"job\": \"5c0a0000-0000-4000-8000-000000000001\", \"on\": \"May\", \"by\": [], \"opened\": [], \"closed\": []}]", "$.learned.jobs[0].on" },
        { "\"jobs\": [{\"job\": \"5c0a0000-0000-4000-8000-000000000001\", \"on\": \"2036-05-04\", \"by\": [], \"opened\": [], \"closed\": [], \"unordered\": [\"a\"]}]", "$.learned.jobs[0].unordered" },
        { "\"jobs\": [], \"said\": [{\"step\": \"engine-cover\", \"by\": \"A\", \"at\": \"2036-05-04T08:00:00+02:00\", \"changes\": {\"minutes\": 3}}]", "$.learned.said[0].changes.minutes" },
        { "\"jobs\": [], \"said\": [{\"step\": \"nowhere\", \"by\": \"A\", \"at\": \"2036-05-04T08:00:00+02:00\", \"changes\": {}}]", "$.learned.said[0].step" },
    };

    [Theory]
    [MemberData(nameof(BadLearned))]
    public void A_learned_map_from_elsewhere_is_refused_with_the_place(string learned, string path)
    {
        var text = AccessMapWriter.Write(JobStory.Map.Map).TrimEnd()[..^1].TrimEnd() + $",\n\"learned\": {{{learned}}}}}";
        Assert.Contains(AccessMapReader.Read(text, JobStory.Library.Cautions).Faults, f => f.Path == path);
    }

    [Fact]
    public void A_map_that_forbids_what_its_own_job_did_is_refused_with_the_place()
    {
        var story = CoverDuctStarter(out _, out _, out _);
        var map = Learn(story);
        var stricter = MapChanges.Placed(map, [.. map.Operations.Select(o => o.Id == "engine-cover-off" ? o with { Needs = new Needs.One("air-duct-off") } : o.Id == "air-duct-off" ? o with { Needs = Access.Needs.Nothing } : o)], map.RefitSteps, map.Positions);
        Assert.Contains(AccessMapReader.Read(AccessMapWriter.Write(stricter), JobStory.Library.Cautions).Faults, f => f.Message.StartsWith("the job of", StringComparison.Ordinal) && f.Path.EndsWith(".needs", StringComparison.Ordinal));
    }
}
