using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Library;

namespace Screeline.Core.Tests;

/// <summary>Walks: what may follow what, what it costs, and plans that hold against rules written a second time.</summary>
public sealed class WalkTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    /// <summary>
    /// The cost by hand: two positions 4 minutes apart, tools x, y, x. PERT mean and variance after Malcolm, Roseboom, Clark and
    /// Fazar (1959): (1 + 4·2 + 9)/6 = 3, ((9 − 1)/6)² = 1.7778 (worked by hand from the definition in docs/formats.md).
    /// </summary>
    [Fact]
    public void A_walk_costs_what_the_definition_says()
    {
        var map = Map(
        [
            Op("a", "top", tools: ["x"]) with { Minutes = new Minutes(1, 2, 9) },
            Op("b", "under", "a", tools: ["y"]) with { Minutes = new Minutes(2, 2, 2), Damage = new Damage(0.5m, 30, "w"), Consumes = [new Consumable("p", 2, 3.5m)] },
        ], []);
        var walk = WalkCost.Price(map, ["a", "b"], ["b", "a"]);
        Assert.Equal([0m, 4m, 0m, 4m], walk.Select(w => w.MoveMinutes));
        Assert.Equal([0m, 0.25m, 0m, 0.25m], walk.Select(w => w.ToolChangeMinutes));
        Assert.Equal(3 + 2 + 2 + 3 + 8 + 0.5m, WalkCost.Expected(walk));
        Assert.Equal(18.5 + 0.8416 * Math.Sqrt(2 * 64.0 / 36), (double)WalkCost.P80([.. walk]), 9);
        Assert.Equal(18.5m + 15 + 7, WalkCost.Money(map, [.. walk]));
    }

    [Fact]
    public void A_tool_in_hand_and_another_place_are_charged_from_the_first_action()
    {
        var map = Map([Op("a", "top", tools: ["x"])], []);
        var first = WalkCost.Price(map, ["a"], [], "under", "y")[0];
        Assert.Equal((4m, 0.25m), (first.MoveMinutes, first.ToolChangeMinutes));
        Assert.Equal(0m, WalkCost.Price(map, ["a"], [], null, "x")[0].ToolChangeMinutes);
    }

    [Fact]
    public void A_thing_is_closed_only_while_what_it_needed_is_still_open()
    {
        var map = Map([Op("cover", "top"), Op("plug", "top", "cover")], []);
        var open = Progress(["cover", "plug"]);
        Assert.False(WalkRules.MayClose(map, map["cover"], open with { Closed = Set("cover") }));
        Assert.True(WalkRules.MayClose(map, map["plug"], open));
        Assert.False(WalkRules.MayClose(map, map["plug"], open with { Closed = Set("cover") }));
    }

    [Fact]
    public void Once_operations_count_as_open_when_refit_begins_and_are_never_closed()
    {
        var map = Map([Op("clean", "top") with { Kind = OperationKind.Once }, Op("part", "top", "clean")], []);
        var progress = Progress(["clean", "part"]);
        Assert.True(WalkRules.MayClose(map, map["part"], progress));
        Assert.False(WalkRules.MayClose(map, map["clean"], progress));
        Assert.Equal(["part"], WalkRules.RefitActions(map, Set("clean", "part")));
    }

    [Fact]
    public void Its_own_while_replaces_its_needs()
    {
        var map = Map([Op("a", "top"), Op("b", "top", "a") with { Close = new Closing(null, Needs.Nothing, false, null) }], []);
        Assert.True(WalkRules.MayClose(map, map["b"], Progress(["a", "b"]) with { Closed = Set("a") }));
    }

    [Fact]
    public void Refit_steps_keep_after_and_before_and_ignore_what_is_not_in_the_job()
    {
        var step = Step("fill", after: ["hose", "absent"], before: ["cover"]);
        var map = Map([Op("cover", "top"), Op("hose", "top", "cover"), Op("absent", "top")], [step]);
        var progress = Progress(["cover", "hose"]);
        Assert.False(WalkRules.MayDo(map, step, progress));
        var closed = progress with { Closed = Set("hose") };
        Assert.True(WalkRules.MayDo(map, step, closed));
        Assert.False(WalkRules.MayClose(map, map["cover"], closed));
        Assert.True(WalkRules.MayClose(map, map["cover"], closed with { StepsDone = Set("fill") }));
    }

    [Fact]
    public void A_step_whose_condition_is_not_met_does_not_hold_anything_up()
    {
        var step = Step("fill", before: ["cover"]) with { AppliesIf = "hose" };
        var map = Map([Op("cover", "top"), Op("hose", "top")], [step]);
        Assert.True(WalkRules.MayClose(map, map["cover"], Progress(["cover"])));
    }

    [Fact]
    public void The_planner_takes_the_alternative_with_less_work()
    {
        var map = Map([Op("slow", "top") with { Minutes = new Minutes(9, 9, 9) }, Op("quick", "top"), Op("motor", "top") with { Needs = new Needs.Any([new Needs.One("slow"), new Needs.One("quick")]) }], []);
        Assert.Equal(["quick", "motor"], RoutePlanner.Best(map).Removal.Select(a => a.Id));
    }

    [Fact]
    public void The_planner_steps_back_from_a_dead_end_on_the_way_back()
    {
        // b may be closed only while c is open, and c lies nearer to the hand: closing what is at hand first would never end.
        var map = Map(
        [
            Op("c", "under"), Op("b", "top", "c"), Op("motor", "under", "b", "c"),
        ], []);
        var plan = RoutePlanner.Best(map);
        Assert.Equal(["motor", "b", "c"], plan.Refit.Select(a => a.Id));
    }

    [Fact]
    public void A_map_without_a_way_back_is_told_not_guessed()
    {
        var map = Map([Op("a", "top"), Op("motor", "top", "a")], [Step("s", after: ["a"], before: ["motor"])]);
        Assert.Throws<UnplannableException>(() => RoutePlanner.Best(map));
    }

    [Property(MaxTest = 300)]
    public void Plans_of_random_maps_hold_against_rules_written_a_second_time(DoNotSize<int> seed)
    {
        var map = RandomMap(new Random(seed.Item));
        WayPlan plan;
        try
        {
            plan = RoutePlanner.Best(map);
        }
        catch (UnplannableException)
        {
            return;
        }

        Assert.Null(WalkChecker.Fault(map, plan));
        Assert.Equal(WalkChecker.Minutes(map, plan), plan.ExpectedMinutes);
    }

    [Fact]
    public void The_shipped_maps_are_planned_valid_with_the_negative_lead_last()
    {
        foreach (var map in Library.Maps.Select(m => m.Map))
        {
            var plan = RoutePlanner.Best(map);
            List<string> refit = [.. plan.Refit.Select(a => a.Id)];
            Assert.Null(WalkChecker.Fault(map, plan));
            if (map.Id != "tideway-starter")
            {
                continue;
            }

            Assert.NotEqual(plan.Removal.Select(a => a.Id).Reverse().Where(refit.Contains), refit.Where(id => map.Step(id) is null));
            Assert.Equal("negative-off", refit.Last(id => map.Step(id) is null && map[id].Fasteners.Any(f => f.Holds.Contains("clamp", StringComparison.Ordinal))));
            Assert.DoesNotContain(refit.SkipWhile(id => id != "negative-off").Skip(1), id => map.Step(id) is null && map[id].Fasteners.Count > 0);
            Assert.True(refit.IndexOf("crank-test") < refit.IndexOf("heat-shield"), "the gate comes before the covers");
            Assert.True(refit.IndexOf("power-for-test") < refit.IndexOf("crank-test") && refit.IndexOf("crank-test") < refit.IndexOf("power-off-again"), "the battery is on for the test and off again");
        }
    }

    private static Operation Op(string id, string position, params string[] needs) => Op(id, position, [], needs);

    private static Operation Op(string id, string position, string needs, string[] tools) => Op(id, position, tools, needs);

    private static Operation Op(string id, string position, string[] tools, params string[] needs) => new()
    {
        Id = id, Title = id, Kind = OperationKind.Open, Position = position, Minutes = new Minutes(1, 1, 1), Needs = new Needs.All([.. needs.Select(n => new Needs.One(n))]),
        Tools = tools, Damage = new Damage(0, 0, ""), Consumes = [], Close = new Closing(null, null, false, null),
    };

    private static RefitStep Step(string id, string[]? after = null, string[]? before = null) => new()
    {
        Id = id, Title = id, Position = "top", Minutes = new Minutes(1, 1, 1), Tools = [], After = after ?? [], Before = before ?? [], Gate = false,
    };

    private static AccessMap Map(IReadOnlyList<Operation> operations, IReadOnlyList<RefitStep> steps) => new()
    {
        Id = "m", Title = "m", Family = "starting", StartPosition = "top", Positions = [new Position("top", "Top", []), new Position("under", "Under", [])],
        Moves = [new Move("top", "under", 4)], DefaultMoveMinutes = 4, ToolChangeMinutes = 0.25m, LabourRatePerHour = 60, Operations = operations, RefitSteps = steps,
        Targets = [new Target("t", operations[^1].Id)],
    };

    private static HashSet<string> Set(params string[] ids) => [.. ids];

    private static RefitProgress Progress(string[] set) => new(Set(set), Set(), Set());

    private static AccessMap RandomMap(Random random)
    {
        var n = random.Next(2, 10);
        var operations = new List<Operation>();
        for (var i = 0; i < n; i++)
        {
            Needs Pick() => i == 0 ? Needs.Nothing : new Needs.One($"o{random.Next(i)}");
            var needs = random.Next(4) switch { 0 => Needs.Nothing, 1 => Pick(), 2 => new Needs.All([Pick(), Pick()]), _ => new Needs.Any([Pick(), Pick()]) };
            var tools = random.Next(3) == 0 ? Array.Empty<string>() : [$"t{random.Next(3)}"];
            operations.Add(Op($"o{i}", random.Next(2) == 0 ? "top" : "under", tools) with
            {
                Kind = random.Next(5) == 0 ? OperationKind.Once : OperationKind.Open,
                Needs = needs,
                Minutes = new Minutes(1, 1 + random.Next(4), 6),
                Close = new Closing(random.Next(3) == 0 ? new Minutes(1, 2, 3) : null, random.Next(6) == 0 ? Needs.Nothing : null, random.Next(6) == 0, null),
            });
        }

        string Any() => $"o{random.Next(n)}";
        List<RefitStep> steps = [.. Enumerable.Range(0, random.Next(3)).Select(i => Step($"s{i}", [Any()], [Any()]) with { AppliesIf = random.Next(2) == 0 ? Any() : null, Gate = random.Next(3) == 0 })];
        return Map(operations, steps);
    }
}
