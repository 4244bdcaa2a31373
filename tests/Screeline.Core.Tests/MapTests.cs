using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Tests;

/// <summary>Maps written, changed, learned from, drawn; and the planner in cases that anybody can follow.</summary>
public sealed class MapTests
{
    private static AccessMap Tideway => JobStory.Map.Map;

    private static PlanRequest Ask(params string[] done) => new(Tideway, "compared") { Done = done.ToHashSet() };

    /// <summary>
    /// The PERT example of the Reliable Construction Co. (Hillier and Lieberman, Introduction to Operations Research; values from
    /// memory): means and variances of its activities, 44 weeks and variance 9 along A B C E F J L N, and its precedences.
    /// </summary>
    [Fact]
    public void Means_variances_and_precedences_are_those_of_a_published_example()
    {
        (string Id, decimal Low, decimal Likely, decimal High, decimal Mean, decimal Variance, string[] After)[] activities =
        [
            ("A", 1, 2, 3, 2, 1m / 9, []), ("B", 2, 3.5m, 8, 4, 1, ["A"]), ("C", 6, 9, 18, 10, 4, ["B"]), ("D", 4, 5.5m, 10, 6, 1, ["C"]), ("E", 1, 4.5m, 5, 4, 4m / 9, ["C"]),
            ("F", 4, 4, 10, 5, 1, ["E"]), ("G", 5, 6.5m, 11, 7, 1, ["D"]), ("H", 5, 8, 17, 9, 4, ["E", "G"]), ("I", 3, 7.5m, 9, 7, 1, ["C"]), ("J", 3, 9, 9, 8, 1, ["F", "I"]),
            ("K", 4, 4, 4, 4, 0, ["J"]), ("L", 1, 5.5m, 7, 5, 1, ["J"]), ("M", 1, 2, 3, 2, 1m / 9, ["H"]), ("N", 5, 5.5m, 9, 6, 4m / 9, ["K", "L"]),
        ];
        AccessMap Of(IEnumerable<string> ids) => new()
        {
            Id = "rc", Title = "rc", Family = "starting", StartPosition = "site", Positions = [new Position("site", "Site", [])], Moves = [], DefaultMoveMinutes = 0, ToolChangeMinutes = 0, LabourRatePerHour = 60,
            Operations =
            [
                .. activities.Where(a => ids.Contains(a.Id)).Select(a => Activity(a.Id, new Minutes(a.Low, a.Likely, a.High), a.After.Where(ids.Contains))),
                Activity("finish", new Minutes(0, 0, 0), new[] { "M", "N" }.Where(ids.Contains)),
            ],
            Targets = [new Target("finish", "finish")],
        };
        foreach (var a in activities)
        {
            var minutes = new Minutes(a.Low, a.Likely, a.High);
            Assert.Equal((a.Mean, decimal.Round(a.Variance, 20)), (minutes.Mean, decimal.Round(minutes.Variance, 20)));
        }

        var all = RoutePlanner.Best(Of(activities.Select(a => a.Id)));
        Assert.Equal(79, all.ExpectedMinutes);
        var order = all.Removal.Select(a => a.Id).ToList();
        Assert.All(activities, a => Assert.All(a.After, before => Assert.True(order.IndexOf(before) < order.IndexOf(a.Id), $"{before} before {a.Id}")));
        var critical = RoutePlanner.Best(Of(["A", "B", "C", "E", "F", "J", "L", "N"]));
        Assert.Equal(44, critical.ExpectedMinutes);
        Assert.Equal(44 + 0.8416 * 3, (double)critical.P80Minutes, 9);
    }

    private static Operation Activity(string id, Minutes minutes, IEnumerable<string> after) => new()
    {
        Id = id, Title = id, Kind = OperationKind.Once, Position = "site", Minutes = minutes, Needs = new Needs.All([.. after.Select(x => new Needs.One(x))]), Tools = [],
        Damage = new Damage(0, 0, ""), Consumes = [], Close = new Closing(null, null, false, null),
    };

    [Fact]
    public void The_undertray_is_the_better_way_and_the_wheel_arch_the_other()
    {
        var answer = RoutePlanner.Plan(Ask() with { Routes = 3 });
        Assert.True(answer.Proven);
        Assert.Equal(2, answer.Routes.Count);
        Assert.Contains("undertray", answer.Routes[0].Set);
        Assert.Contains("arch-liner", answer.Routes[1].Set);
        Assert.DoesNotContain("undertray", answer.Routes[1].Set);
        Assert.True(answer.Routes[1].ExpectedMinutes > answer.Routes[0].ExpectedMinutes);
    }

    [Fact]
    public void A_seized_undertray_leads_through_the_wheel_arch_and_keeps_what_is_off()
    {
        var done = new[] { "codes-saved", "chocked", "negative-off", "cooled", "raised" };
        var answer = RoutePlanner.Plan(Ask(done) with { Blocked = new HashSet<string> { "undertray" }, Position = "under" });
        var plan = answer.Routes[0];
        Assert.Contains("wheel-off", plan.Removal.Select(a => a.Id));
        Assert.DoesNotContain(plan.Removal, a => done.Contains(a.Id));
        Assert.All(done.Where(id => Tideway[id].Kind == OperationKind.Open), id => Assert.Contains(plan.Refit, a => a.Id == id));
    }

    [Fact]
    public void What_stands_in_the_way_is_named()
    {
        var tools = Tideway.Operations.SelectMany(o => o.Tools).Where(t => t != "bit-t20").ToHashSet();
        var obstacles = RoutePlanner.Plan(Ask() with { Blocked = new HashSet<string> { "undertray" }, Tools = tools }).Unreachable!;
        Assert.Equal(["undertray"], obstacles.Blocked);
        Assert.Equal(["arch-liner"], obstacles.MissingTools.Select(m => m.Operation));
        Assert.Equal(["bit-t20"], obstacles.MissingTools[0].Tools);
        Assert.Contains("heat-shield", obstacles.Unmet);
        Assert.False(obstacles.NoWayBack);
        Assert.Equal(["compared"], RoutePlanner.Plan(Ask() with { Blocked = new HashSet<string> { "compared" } }).Unreachable!.Blocked);
    }

    [Fact]
    public void Money_can_choose_another_way_than_minutes()
    {
        // Five minutes quicker, but it uses up a part for fifty.
        var quick = Activity("quick", new Minutes(1, 1, 1), []) with { Consumes = [new Consumable("gasket", 1, 50)] };
        var map = new AccessMap
        {
            Id = "m", Title = "m", Family = "starting", StartPosition = "site", Positions = [new Position("site", "Site", [])], Moves = [], DefaultMoveMinutes = 0, ToolChangeMinutes = 0, LabourRatePerHour = 60,
            Operations = [quick, Activity("slow", new Minutes(6, 6, 6), []), Activity("motor", new Minutes(1, 1, 1), []) with { Needs = new Needs.Any([new Needs.One("quick"), new Needs.One("slow")]) }],
            Targets = [new Target("t", "motor")],
        };
        Assert.Equal(["motor", "quick"], RoutePlanner.Best(map).Set);
        var thrifty = RoutePlanner.Best(map, PlanObjective.Thrifty);
        Assert.Equal((7m, 7m), (thrifty.ExpectedMinutes, thrifty.Money));
        Assert.Equal(["motor", "slow"], thrifty.Set);
    }

    [Fact]
    public void Without_time_it_still_answers_and_does_not_call_it_proven()
    {
        var answer = RoutePlanner.Plan(Ask() with { Budget = TimeSpan.Zero });
        Assert.False(answer.Proven);
        Assert.InRange(answer.Gap, 0, 1);
        Assert.Null(WalkChecker.Fault(Tideway, answer.Routes[0]));
        var best = RoutePlanner.Plan(Ask()).Routes[0].ExpectedMinutes;
        // The gap is true: no walk is cheaper than it allows.
        Assert.True((double)best >= (double)answer.Routes[0].ExpectedMinutes * (1 - answer.Gap) - 1e-9);
    }

    [Fact]
    public void Minutes_to_a_test_point_count_what_is_off_and_no_way_back()
    {
        var fresh = RoutePlanner.MinutesToOpen(Tideway, ["raised"], new HashSet<string>())!.Value;
        Assert.Equal(Tideway["chocked"].Minutes.Mean + Tideway["raised"].Minutes.Mean + Tideway.MoveMinutes("bay-top", "floor") + Tideway.ToolChangeMinutes, fresh, 12);
        Assert.Equal(0, RoutePlanner.MinutesToOpen(Tideway, ["raised"], new HashSet<string> { "raised" })!.Value);
        var access = Diagnosis.TestAccess.Minutes(JobStory.Library.System("starting")!, Tideway, new HashSet<string>());
        Assert.Equal((double)fresh, access["cable-drop-cranking"], 9);
        // The map knows nothing of the dash cover: the system's own minutes count.
        Assert.Equal(4, access["switch-output"]);
    }

    [Fact]
    public void By_hand_starts_come_before_the_tightening_and_the_gate_before_the_covers()
    {
        var refit = RoutePlanner.Best(Tideway).Refit.Select(a => a.Id).ToList();
        Assert.Equal(refit.IndexOf("starter-out") + 1, refit.IndexOf("bolts-started"));
        Assert.True(refit.IndexOf("crank-test") < refit.IndexOf("heat-shield"));
    }

    [Property(MaxTest = 300)]
    public void A_map_that_is_written_is_read_as_the_same(DoNotSize<int> seed)
    {
        var map = RandomMaps.Map(new Random(seed.Item), 9);
        var text = AccessMapWriter.Write(map);
        Assert.Equal(text, AccessMapWriter.Write(AccessMapReader.ReadKept(text)!));
    }

    [Fact]
    public void The_shipped_map_survives_being_written()
    {
        var again = AccessMapReader.Read(AccessMapWriter.Write(Tideway), JobStory.Library.Cautions);
        Assert.Empty(again.Faults);
        Assert.Equal(AccessMapWriter.Write(Tideway), AccessMapWriter.Write(again.Map!));
        Assert.Equal(RoutePlanner.Best(Tideway).ExpectedMinutes, RoutePlanner.Best(again.Map!).ExpectedMinutes);
    }

    [Property(MaxTest = 300)]
    public void What_is_left_out_is_nowhere_and_costs_nothing(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var map = RandomMaps.Map(random, 8);
        var left = $"o{random.Next(map.Operations.Count)}";
        if (left == map.Targets[0].Operation)
        {
            return;
        }

        var without = MapChanges.Without(map, new HashSet<string> { left });
        Assert.DoesNotContain($"\"{left}\"", AccessMapWriter.Write(without));
        // Met without being there: as if it were done before, except for the way back from it.
        var answer = RoutePlanner.Plan(new PlanRequest(without, map.Targets[0].Operation));
        Assert.All(answer.Routes, r => Assert.Null(WalkChecker.Fault(without, r)));
        if (answer.Routes.Count > 0 && RoutePlanner.Plan(new PlanRequest(map, map.Targets[0].Operation)) is { Routes: [var with, ..] })
        {
            Assert.True(answer.Routes[0].ExpectedMinutes <= with.ExpectedMinutes + 1e-9m);
        }
    }

    [Theory]
    [InlineData("nothing", "nothing")]
    [InlineData("", "nothing")]
    [InlineData("a", "a")]
    [InlineData("a and b or c", "a and b or c")]
    [InlineData("(a or b)and c", "(a or b) and c")]
    [InlineData("a and (b or (c and d))", "a and (b or c and d)")]
    public void Needs_are_typed_in_words(string typed, string written)
    {
        var (needs, fault) = NeedsText.Read(typed);
        Assert.Null(fault);
        Assert.Equal(written, NeedsText.Write(needs!));
        Assert.Equal(written, NeedsText.Write(NeedsText.Read(written).Needs!));
    }

    [Theory]
    [InlineData("a and", "after “and”")]
    [InlineData("and a", "before “and”")]
    [InlineData("(a or b", "not closed")]
    [InlineData("a b", "“b” stands where")]
    [InlineData("a )", "“)” stands where")]
    public void Needs_that_cannot_be_read_say_why(string typed, string fault) => Assert.Contains(fault, NeedsText.Read(typed).Fault);

    [Fact]
    public void Own_times_pull_by_their_number_and_one_odd_job_not_far()
    {
        var estimate = new Minutes(2, 3, 4);
        var four = new OwnTimes([6, 6, 6, 6], []);
        Assert.Equal(4.5m, four.Pulled(estimate, WalkPart.Removal).Mean, 2);
        Assert.Equal(estimate, four.Pulled(estimate, WalkPart.Closing));
        // One job in five weighs; a hundred minutes count as three times the estimate.
        Assert.Equal(3 + (9 - 3) / 5m, new OwnTimes([100], []).Pulled(estimate, WalkPart.Removal).Mean, 2);
        Assert.Equal(0.5m, OwnTimes.Weight(4));
    }

    [Fact]
    public void A_drawing_puts_nothing_on_top_of_anything_and_what_is_needed_above()
    {
        for (var seed = 0; seed < 50; seed++)
        {
            var map = RandomMaps.Map(new Random(seed), 9);
            var layout = MapLayout.ForMap(map);
            Assert.Equal(map.Operations.Count, layout.Nodes.DistinctBy(n => (n.Lane, n.Row)).Count());
            Assert.All(layout.Nodes, n => Assert.InRange(n.Row, 0, layout.Rows - 1));
        }

        var drawn = MapLayout.ForMap(Tideway);
        Assert.All(drawn.Edges, e => Assert.True(drawn.Nodes.First(n => n.Id == e.From).Row < drawn.Nodes.First(n => n.Id == e.To).Row));
        // Negative lead, lower bolt, starter out: the last follows from the others and is not drawn.
        Assert.DoesNotContain(drawn.Edges, e => (e.From, e.To) == ("upper-bolt", "starter-out"));
    }

    [Fact]
    public void The_printed_way_is_priced_like_the_others()
    {
        var printed = WayOption.Printed(Tideway, "compared", (removal, progress, at, tool) => RoutePlanner.Back(Tideway, removal, progress, at, tool))!;
        Assert.Null(WalkChecker.Fault(Tideway, printed));
        Assert.True(printed.ExpectedMinutes > RoutePlanner.Best(Tideway).ExpectedMinutes);
        var options = WayOption.SideBySide([RoutePlanner.Best(Tideway), printed], new HashSet<string> { "chocks" });
        Assert.Equal(["undertray"], options[0].Only);
        Assert.Equal(["wheel-off", "arch-liner"], options[1].Only);
        Assert.DoesNotContain("chocks", options[0].MissingTools);
        Assert.Equal((printed.ExpectedMinutes, 0), options[1].Line[^1]);
    }
}
