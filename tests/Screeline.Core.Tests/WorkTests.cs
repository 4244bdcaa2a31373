using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>What is said at the vehicle besides ticks: exceptions, waits, counting, parts, differences.</summary>
public sealed class WorkTests
{
    private static readonly DateTimeOffset Begin = new(2036, 5, 4, 8, 0, 0, TimeSpan.FromHours(2));

    private static FastenerAccount Account(Job job, string step, string fastener) => job.Count.Accounts.Single(a => a.Step == step && a.Fastener.Id == fastener);

    [Theory]
    [InlineData(FastenerState.StaysInHole, 1, 8, 1, 0)]
    [InlineData(FastenerState.OnStud, 8, 8, 8, 0)]
    [InlineData(FastenerState.Missing, 2, 8, 0, 2)]
    [InlineData(FastenerState.Broken, 1, 8, 0, 1)]
    [InlineData(FastenerState.WrongHole, 1, 8, 0, 0)]
    [InlineData(FastenerState.StudOut, 1, 8, 0, 0)]
    public void What_does_not_lie_in_the_tray_is_counted_all_the_same(FastenerState state, int count, int places, int inPlace, int gone)
    {
        var story = new JobStory().Apart("undertray");
        story.Say(new FastenerFound("undertray", "edge", state, count, null, null));
        story.Off("undertray");
        var account = Account(story.Job, "undertray", "edge");
        Assert.Equal((places, inPlace, gone, places - inPlace - gone), (account.Out, account.InPlace, account.Gone, account.InCell));
    }

    [Fact]
    public void A_hidden_fastener_that_is_found_is_counted_and_missed_when_it_stays_out()
    {
        var story = new JobStory().Apart("undertray");
        story.Say(new ExtraFound("undertray", "found-1", "undertray", "screw", "T30", "M6", 16, 1, "under the tape"));
        story.Off("undertray");
        Assert.Equal(10, story.Job.Count.Accounts.Where(a => a.Step == "undertray").Sum(a => a.Out));
        Assert.Equal(3, story.Job.FastenersOf("undertray").Count);
        Assert.Empty(JobRules.Malformed(story.Job, new FastenerFound("undertray", "found-1", FastenerState.Seized, 1, null, null)));

        // It goes into the map that is planned on next, once.
        var found = story.Job.Extras[0].Payload.ToFastener();
        var map = MapChanges.WithFastener(JobStory.Map.Map, "undertray", found);
        Assert.Equal(3, map["undertray"].Fasteners.Count);
        Assert.Same(map, MapChanges.WithFastener(map, "undertray", found));
        Assert.Empty(AccessMapReader.Read(AccessMapWriter.Write(map), JobStory.Library.Cautions).Faults);
    }

    [Fact]
    public void A_wait_that_runs_holds_its_step_and_lets_others_pass()
    {
        var story = new JobStory().Apart("cooled");
        var order = story.Job.Route!.Payload.Removal;
        var at = story.Entries[^1].Draft.OccurredAt.AddMinutes(1);
        Assert.Equal("cooled", WorkOrder.Due(story.Job, order, WorkPhase.Apart, at));
        var timer = story.Say(new TimerStarted("cooled", TimerKind.Cool, 25, "exhaust"));
        var job = story.Job;
        var now = timer.Draft.OccurredAt.AddMinutes(5);
        var due = WorkOrder.Due(job, order, WorkPhase.Apart, now);
        Assert.NotEqual("cooled", due);
        Assert.True(WalkRules.MayRemove(job.Map![due!], job.Removed.Keys.ToHashSet()));
        Assert.Contains("Its wait runs until", JobRules.OutOfOrder(job, new StepDone(WorkPhase.Apart, "cooled", null, []), now));

        // The clock of whoever asks decides; nothing else is kept, so a restart changes nothing.
        Assert.Equal("cooled", WorkOrder.Due(job, order, WorkPhase.Apart, timer.Draft.OccurredAt.AddMinutes(25)));
        Assert.Null(JobRules.OutOfOrder(job, new StepDone(WorkPhase.Apart, "cooled", null, []), timer.Draft.OccurredAt.AddMinutes(26)));
        Assert.Equal(timer.Id, Assert.Single(job.OpenTimers).Entry.Id);
        story.Say(new TimerEnded(timer.Id));
        Assert.Equal("cooled", WorkOrder.Due(story.Job, order, WorkPhase.Apart, now));
        Assert.Empty(story.Job.OpenTimers);
        story.Say(new TimerStarted("cooled", TimerKind.Cool, 25, "again"));
        story.Off("cooled");
        Assert.Empty(story.Job.OpenTimers);
    }

    [Fact]
    public void The_wait_of_restraint_parts_is_taken_whole_and_nobody_shortens_it()
    {
        // The starter's map has none: its exhaust stands in for one.
        var json = JobStory.Map.Json.Replace("\"cautions\": [\"hot-exhaust\"], \"provides\": [\"exhaust-cool\"]", "\"cautions\": [\"restraint\"], \"provides\": [\"exhaust-cool\", \"restraint-isolated\"]", StringComparison.Ordinal);
        var map = AccessMapReader.ReadKept(json)!;
        Assert.Contains("restraint", map["cooled"].Cautions);
        var hash = Library.ShippedLibrary.Hash(json);
        var entries = new JobStory().Proven().Entries;
        Entry Say(Payload payload, int minute)
        {
            var last = entries[^1].Draft;
            entries.Add(new Entry(new EntryDraft(Guid.NewGuid(), last.Job, entries.Count, JobStory.Ansa, Begin.AddMinutes(minute), payload), entries.Count + 1, JobStory.Ansa, Begin.AddMinutes(minute)));
            return entries[^1];
        }

        Job Now() => Job.Fold(entries, JobStory.Knowledge with { Maps = new Dictionary<string, AccessMap> { [hash] = map } });
        Say(new RouteTaken(hash, map.Targets[0].Id, [.. JobStory.Plan.Removal.Select(a => a.Id)], [.. JobStory.Plan.Refit.Select(a => a.Id)]), 20);
        var tick = new StepDone(WorkPhase.Apart, "cooled", null, []);
        Assert.Contains("was not taken", JobRules.OutOfOrder(Now(), tick, Begin.AddMinutes(21)));
        Assert.Contains(JobRules.Malformed(Now(), new TimerStarted("cooled", TimerKind.Restraint, 5, "w")), f => f.Path == "$.payload.minutes");
        Say(new TimerStarted("cooled", TimerKind.Wait, 1, "a shorter one"), 21);
        Assert.Contains("was not taken", JobRules.OutOfOrder(Now(), tick, Begin.AddMinutes(30)));
        var timer = Say(new TimerStarted("cooled", TimerKind.Restraint, 25, "airbag"), 30);
        Assert.NotNull(JobRules.OutOfOrder(Now(), new TimerEnded(timer.Id), Begin.AddMinutes(31)));
        Say(new TimerEnded(timer.Id), 32);
        Assert.Contains("Its wait runs", JobRules.OutOfOrder(Now(), tick, Begin.AddMinutes(40)));
        Assert.Null(JobRules.OutOfOrder(Now(), tick, Begin.AddMinutes(56)));
    }

    [Fact]
    public void When_nothing_else_is_possible_the_waiting_step_stays_due()
    {
        var story = new JobStory().Apart("ring-gear");
        var order = story.Job.Route!.Payload.Removal;
        var timer = story.Say(new TimerStarted("ring-gear", TimerKind.Wait, 10, "light"));
        Assert.Equal("ring-gear", WorkOrder.Due(story.Job, order, WorkPhase.Apart, timer.Draft.OccurredAt));
    }

    [Fact]
    public void A_difference_is_signed_by_name_and_only_as_it_was()
    {
        var story = new JobStory().Proved();
        var tick = story.Job.Refitted["undertray"];
        var short1 = tick.Payload with { Fasteners = [new FastenerOutcome("edge", 7, 0, 0), new FastenerOutcome("hidden", 1, 0, 0)] };
        story.Say(new EntryCorrected(tick.Entry.Id, EntryKinds.Write(short1)));
        Assert.False(story.Job.IsDone(Stage.Prove));
        Assert.Equal("undertray/edge:1", Assert.Single(story.Job.Differences).Key);
        Assert.NotNull(JobRules.OutOfOrder(story.Job, new HandedBack("f", null, null), Begin));
        string[][] others = [["undertray/edge:2"], [], ["undertray/edge:1", "undertray/edge:2"]];
        Assert.All(others, covers => Assert.Equal("$.payload.covers", Assert.Single(JobRules.Malformed(story.Job, new DifferenceSigned("on order", covers))).Path));
        Assert.Empty(JobRules.Malformed(story.Job, new DifferenceSigned("on order", ["undertray/edge:1"])));

        story.Say(new DifferenceSigned("one screw is on order", ["undertray/edge:1"]));
        Assert.True(story.Job.IsDone(Stage.Prove));

        // Another one is found missing afterwards: the name does not cover it.
        story.Say(new EntryCorrected(tick.Entry.Id, EntryKinds.Write(short1 with { Fasteners = [new FastenerOutcome("edge", 6, 0, 0), new FastenerOutcome("hidden", 1, 0, 0)] })));
        Assert.False(story.Job.IsDone(Stage.Prove));

        // And then both are found: it balances, and what was signed in between is history, not a contradiction.
        story.Say(new EntryCorrected(tick.Entry.Id, EntryKinds.Write(tick.Payload)));
        Assert.True(story.Job.IsDone(Stage.Prove));
        Assert.Empty(story.Job.Disputes);
    }

    [Fact]
    public void Everything_that_must_come_out_or_off_again_holds_the_vehicle()
    {
        var story = new JobStory().Proved();
        Assert.True(story.Job.IsDone(Stage.Prove));
        void Held(Payload open, Payload closes, string words)
        {
            var said = story.Say(open);
            Assert.Contains(story.Job.MissingFromProof, m => m.Contains(words, StringComparison.Ordinal));
            story.Say(closes is LeftOverSettled s ? s with { LeftOver = said.Id } : closes);
            Assert.Empty(story.Job.MissingFromProof);
        }

        Held(new TemporaryConnection("window switch", null, true), new TemporaryConnection("window switch", null, false), "window switch");
        Held(new ToolLeft("locking pin", "cam wheel", null), new ToolBack("locking pin"), "locking pin");
        Held(new LeftOverFound("M6 screw", 1), new LeftOverSettled(Guid.Empty, "from the last repair"), "M6 screw");

        // The bracket of the old one was forgotten.
        var before = story.Job;
        Assert.Empty(before.NotCarried);
        Assert.NotEmpty(new JobStory().Together().Job.NotCarried);
    }

    [Fact]
    public void Plugs_leads_and_covers_are_counted_off_and_on()
    {
        var half = new JobStory().Apart("starter-out").Job.Count.Pieces;
        Assert.NotEmpty(half);
        Assert.DoesNotContain(half, p => p.On);
        Assert.All(new JobStory().Together().Job.Count.Pieces, p => Assert.True(p.On));
        Assert.Contains(half, p => p.Piece.Kind == "connector");
    }

    [Theory]
    [InlineData("undertray", "edge", "hidden")]
    public void Two_lengths_of_one_thread_are_told_apart(string step, string first, string second)
    {
        var mix = LengthMix.InJob(new JobStory().OnItsWay().Job).Single(m => m.Thread == "M6");
        Assert.Contains(mix.Groups, g => g.Step == step && g.Fastener.Id == first);
        Assert.Contains(mix.Groups, g => g.Step == step && g.Fastener.Id == second);
        Assert.True(mix.Groups.Zip(mix.Groups.Skip(1)).All(p => p.First.Fastener.LengthMillimetres <= p.Second.Fastener.LengthMillimetres));
    }

    [Fact]
    public void The_order_list_holds_the_part_what_is_used_up_and_what_broke()
    {
        var story = new JobStory().Apart("heat-shield");
        story.Say(new PartChosen("starter-rebuilt", "Starter, rebuilt", 245, 60));
        story.Say(new FastenerFound("heat-shield", "shield-bolts", FastenerState.Broken, 1, null, null));
        var lines = OrderList.ForJob(story.Job, JobStory.Map.Map, story.Job.Set);
        Assert.Equal(245m, Assert.Single(lines, l => l.What.StartsWith("Starter", StringComparison.Ordinal)).Total);
        Assert.Equal(1, Assert.Single(lines, l => l.Why == "broke").Quantity);
        Assert.DoesNotContain(lines, l => l.Quantity <= 0);
    }

    /// <summary>Worked by hand: (245 + 90) over 84 months are 47.86 a year; a warranty longer than the life expected counts as life.</summary>
    [Theory]
    [InlineData(245, 24, 84, 90, 47.857)]
    [InlineData(168, 12, 36, 90, 86)]
    [InlineData(100, 60, 24, 0, 20)]
    public void A_year_with_a_part_costs_its_price_and_labour_over_its_life(int price, int warranty, int life, int labour, double expected) =>
        Assert.Equal(expected, (double)new PartOffer("o", "t", "new", price, 999, warranty, life, 0).PerYear(labour), 0.001);

    [Fact]
    public void The_tool_roll_names_what_is_owned_what_stands_in_and_what_is_missing()
    {
        var tools = JobStory.Library.Tools;
        var owned = new HashSet<string> { "socket-10", "screwdriver-slot", "bit-t30" };
        var roll = ToolRoll.ForWay(JobStory.Map.Map, JobStory.Plan.Removal.Select(a => a.Id), JobStory.Plan.Refit.Select(a => a.Id), tools, owned, [], new DateOnly(2036, 5, 4));
        ToolState State(string id) => roll.Single(r => r.Tool.Id == id).State;
        Assert.Equal(ToolState.Owned, State("socket-10"));
        Assert.Equal(ToolState.Instead, State("socket-7"));
        Assert.Equal(ToolState.Missing, State("socket-16"));
        Assert.Contains(roll, r => r.State == ToolState.Missing && r.Tool.Title.StartsWith("Torque wrench for", StringComparison.Ordinal));
        Assert.Contains(roll, r => r.Tool.Id == "stands");

        // 3/4 in is 19.05 mm: by its clearance it does for 19.
        var map = JobStory.Map.Map;
        var wheel = ToolRoll.ForWay(map, ["wheel-off"], ["wheel-off"], tools, new HashSet<string> { "socket-3-4" }, [], new DateOnly(2036, 5, 4));
        Assert.Equal((ToolState.Substitute, "socket-3-4"), (wheel[0].State, wheel[0].Instead?.Id));
    }

    [Fact]
    public void A_seized_fastener_has_its_minutes_and_its_risk()
    {
        var bolt = SeizedPlan.For(JobStory.Map.Map["heat-shield"].Fasteners[0]);
        var stud = SeizedPlan.For(JobStory.Map.Map["main-nut"].Fasteners[0]);
        Assert.True(bolt.Minutes > 11 && bolt.Breaks is > 0 and < 1);
        // Copper: no shock, no heat (common practice, no source).
        Assert.DoesNotContain(stud.Ways, w => w.What.Contains("shock", StringComparison.OrdinalIgnoreCase) || w.What.Contains("Warm", StringComparison.Ordinal));
        Assert.Equal(1, bolt.Ways[^1].Frees);
        // Worked by hand: 11 + 0.55·2 + 0.33·6 + 0.165·25 minutes.
        Assert.Equal(11 + 0.55 * 2 + 0.33 * 6 + 0.165 * 25, bolt.Minutes, 1e-9);
    }

    [Fact]
    public void A_torque_typed_in_the_wrong_unit_is_asked_about()
    {
        var nut = JobStory.Map.Map["main-nut"].Fasteners[0];
        var advice = TorqueAdvice.For(nut, [], new DateOnly(2036, 5, 4));
        Assert.Equal("8 N·m", advice.Target.ToString());
        Assert.Contains("comes before", advice.Choice!.Why);
        Assert.Null(advice.DoubtAbout(new Figure(8, Units.NewtonMetre)));
        Assert.Null(advice.DoubtAbout(new Figure(71, Units.PoundForceInch)));
        Assert.Contains("that is 8 N·m", advice.DoubtAbout(new Figure(8, Units.PoundForceFoot)));
        Assert.NotNull(advice.DoubtAbout(new Figure(80, Units.NewtonMetre)));
        Assert.NotNull(advice.WhyNoWrench);
    }

    public static TheoryData<Payload, string> Bad => new()
    {
        { new ExtraFound("no-such", "f", "h", "screw", null, null, null, 1, null), "$.payload.step" },
        { new ExtraFound("undertray", "f", "h", "rivet", null, null, null, 1, null), "$.payload.kind" },
        { new ExtraFound("undertray", "f", "h", "screw", null, null, null, 0, null), "$.payload.count" },
        { new FastenersCounted(WorkPhase.Apart, "undertray", "edge", 9), "$.payload.count" },
        { new FastenersCounted(WorkPhase.Apart, "undertray", "none", 1), "$.payload.fastener" },
        { new TimerStarted("undertray", TimerKind.Soak, 0, "w"), "$.payload.minutes" },
        { new TimerStarted("undertray", TimerKind.Soak, 20_000, "w"), "$.payload.minutes" },
        { new NoteAdded("undertray", " "), "$.payload.text" },
        { new PictureTaken("undertray", "abc", 10, 10, null, null), "$.payload.sha256" },
        { new PictureTaken("undertray", new string('a', 64), 0, 10, null, null), "$.payload.width" },
        { new PictureTaken("undertray", new string('a', 64), 10, 10, null, Guid.NewGuid()), "$.payload.over" },
        { new PinsSet(Guid.NewGuid(), []), "$.payload.picture" },
        { new PinsSet(Guid.NewGuid(), [new Pin(PinKind.Screw, [new PinPoint(101, 2)], null)]), "$.payload.pins[0].points" },
        { new PartCarried("door"), "$.payload.piece" },
        { new PartChosen("o", "t", -1, 0), "$.payload.price" },
        { new ToolLeft("", null, null), "$.payload.tool" },
        { new LeftOverFound("screw", 0), "$.payload.count" },
        { new LeftOverSettled(Guid.NewGuid(), "h"), "$.payload.left_over" },
        { new DifferenceSigned("", ["x"]), "$.payload.reason" },
        { new TemporaryConnection("", null, true), "$.payload.what" },
    };

    [Theory]
    [MemberData(nameof(Bad))]
    public void What_cannot_be_is_refused_at_its_path(Payload payload, string path) =>
        Assert.Contains(JobRules.Malformed(new JobStory().OnItsWay().Job, payload), f => f.Path == path);

    /// <summary>
    /// However ticks, undos, exceptions and counting follow each other, every place that was opened is in again, renewed, declared missing or named as
    /// unaccounted, and what lies in the tray is never more than what came off.
    /// </summary>
    [Property(MaxTest = 80)]
    public void The_count_holds_over_random_work(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var story = new JobStory().OnItsWay();
        for (var i = 0; i < 70; i++)
        {
            var job = story.Job;
            var ticks = job.Removed.Values.Concat(job.Refitted.Values).ToList();
            var step = job.Route!.Payload.Removal[random.Next(job.Route.Payload.Removal.Count)];
            var fasteners = job.FastenersOf(step);
            switch (random.Next(8))
            {
                case 0 when ticks.Count > 0: story.Say(new EntryWithdrawn(ticks[random.Next(ticks.Count)].Entry.Id)); break;
                case 1 when fasteners.Count > 0:
                    var f = fasteners[random.Next(fasteners.Count)];
                    story.Say(new FastenerFound(step, f.Id, (FastenerState)random.Next(9), random.Next(1, f.Count + 1), "hex-15", null));
                    break;
                case 2 when job.Map![step].Kind == OperationKind.Open: story.Say(new ExtraFound(step, $"found-{i}", "part", "screw", "T30", "M6", 16, random.Next(1, 3), null)); break;
                case 3 when fasteners.Count > 0: story.Say(new FastenersCounted((WorkPhase)random.Next(2), step, fasteners[0].Id, random.Next(fasteners[0].Count + 1))); break;
                case 4 when job.Found.Count > 0: story.Say(new EntryWithdrawn(job.Found[random.Next(job.Found.Count)].Entry.Id)); break;
                default:
                    if (!job.IsDone(Stage.TakeApart))
                    {
                        story.Off(job.Route.Payload.Removal.First(x => !job.Removed.ContainsKey(x)));
                    }
                    else if (Refit.Order(job).FirstOrDefault(x => !job.Refitted.ContainsKey(x)) is { } next)
                    {
                        story.On(next);
                    }

                    break;
            }
        }

        var count = story.Job.Count;
        Assert.Equal(count.Out, count.Back + count.Renewed + count.Missing + count.Accounts.Sum(a => a.Unaccounted));
        Assert.All(count.Accounts, a => Assert.InRange(a.InCell, 0, a.Out));
        Assert.Equal(count.Unaccounted.Count == 0, count.Balances);
        Assert.All(count.InTray.GroupBy(a => a.Cell), cell => Assert.Single(cell.Select(a => a.Step).Distinct()));
    }
}
