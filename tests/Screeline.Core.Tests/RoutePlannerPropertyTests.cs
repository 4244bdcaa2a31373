using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Tests;

/// <summary>What must hold of plans on any map, whatever the best one is.</summary>
public sealed class RoutePlannerPropertyTests
{
    private static (AccessMap Map, PlanRequest Request, Random Random) Case(int seed)
    {
        var random = new Random(seed);
        var map = RandomMaps.Map(random, 9);
        return (map, RandomMaps.Request(map, random), random);
    }

    private static decimal? Cost(PlanRequest request) =>
        RoutePlanner.Plan(request).Routes is [var best, ..] ? request.Objective == PlanObjective.Fastest ? best.ExpectedMinutes : best.Money : null;

    [Property(MaxTest = 400)]
    public void A_blocked_operation_never_makes_the_way_cheaper_and_never_opens_one(DoNotSize<int> seed)
    {
        var (map, request, random) = Case(seed.Item);
        var hindered = request with { Blocked = request.Blocked.Append(map.Operations[random.Next(map.Operations.Count)].Id).ToHashSet() };
        if (Cost(hindered) is { } dear)
        {
            Assert.True(Cost(request)!.Value <= dear + 1e-9m);
        }
    }

    [Property(MaxTest = 400)]
    public void Another_tool_never_makes_the_way_dearer(DoNotSize<int> seed)
    {
        var (_, request, random) = Case(seed.Item);
        if (request.Tools is not null && Cost(request) is { } poor)
        {
            Assert.True(Cost(request with { Tools = request.Tools.Append($"t{random.Next(4)}").ToHashSet() })!.Value <= poor + 1e-9m);
            Assert.True(Cost(request with { Tools = null })!.Value <= poor + 1e-9m);
        }
    }

    [Property(MaxTest = 400)]
    public void The_fastest_is_no_slower_and_the_thriftiest_no_dearer_than_the_other(DoNotSize<int> seed)
    {
        var (_, request, _) = Case(seed.Item);
        var fastest = RoutePlanner.Plan(request with { Objective = PlanObjective.Fastest });
        var thriftiest = RoutePlanner.Plan(request with { Objective = PlanObjective.Thrifty });
        Assert.Equal(fastest.Routes.Count == 0, thriftiest.Routes.Count == 0);
        if (fastest.Routes.Count > 0)
        {
            Assert.True(fastest.Routes[0].ExpectedMinutes <= thriftiest.Routes[0].ExpectedMinutes + 1e-9m);
            Assert.True(thriftiest.Routes[0].Money <= fastest.Routes[0].Money + 1e-9m);
        }
    }

    [Property(MaxTest = 400)]
    public void Routes_come_in_order_and_none_holds_an_earlier_one(DoNotSize<int> seed)
    {
        var (_, request, _) = Case(seed.Item);
        var routes = RoutePlanner.Plan(request with { Routes = 6 }).Routes;
        for (var k = 1; k < routes.Count; k++)
        {
            var (before, here) = request.Objective == PlanObjective.Fastest ? (routes[k - 1].ExpectedMinutes, routes[k].ExpectedMinutes) : (routes[k - 1].Money, routes[k].Money);
            Assert.True(before <= here + 1e-9m);
            Assert.All(routes.Take(k), earlier => Assert.Contains(earlier.Set, id => !routes[k].Set.Contains(id)));
            Assert.True(routes[k].P80Minutes >= routes[k].ExpectedMinutes);
        }
    }

    [Property(MaxTest = 300)]
    public void With_no_time_at_all_what_is_told_is_valid_and_its_gap_true(DoNotSize<int> seed)
    {
        var (map, request, _) = Case(seed.Item);
        request = request with { Objective = PlanObjective.Fastest };
        var hasty = RoutePlanner.Plan(request with { Budget = TimeSpan.Zero });
        if (hasty.Routes.Count == 0)
        {
            return;
        }

        Assert.Null(WalkChecker.Fault(map, hasty.Routes[0], request.Done));
        var (cost, best) = ((double)hasty.Routes[0].ExpectedMinutes, (double)Cost(request)!.Value);
        Assert.True(best >= cost * (1 - hasty.Gap) - 1e-9, $"{best} is under {cost} less a gap of {hasty.Gap}");
        Assert.True(!hasty.Proven || Math.Abs(best - cost) < 1e-9, "called proven and is not the best");
    }

    [Property(MaxTest = 300)]
    public void The_same_request_gets_the_same_answer(DoNotSize<int> seed)
    {
        var (_, request, _) = Case(seed.Item);
        string Told() => string.Join('\n', RoutePlanner.Plan(request).Routes.Select(r => string.Join(' ', r.Walk.Select(a => a.Id))));
        Assert.Equal(Told(), Told());
    }

    [Property(MaxTest = 300)]
    public void Opening_some_things_costs_what_the_cheapest_order_of_them_costs(DoNotSize<int> seed)
    {
        // The way in alone: the same map with nothing to close again, its target the thing to open.
        var (map, _, random) = Case(seed.Item);
        var target = map.Operations[random.Next(map.Operations.Count)].Id;
        var alone = new AccessMap
        {
            Id = "m", Title = "m", Family = "starting", StartPosition = map.StartPosition, Positions = map.Positions, Moves = map.Moves, DefaultMoveMinutes = map.DefaultMoveMinutes,
            ToolChangeMinutes = map.ToolChangeMinutes, LabourRatePerHour = map.LabourRatePerHour, Operations = [.. map.Operations.Select(o => o with { Kind = OperationKind.Once })], Targets = [new Target("t", target)],
        };
        var all = new BruteForce(new PlanRequest(alone, target)).All();
        var minutes = RoutePlanner.MinutesToOpen(map, [target], new HashSet<string>());
        Assert.Equal(all.Count == 0, minutes is null);
        if (minutes is { } found)
        {
            Assert.Equal(all[0].Cost, found, 9);
            Assert.Equal(0, RoutePlanner.MinutesToOpen(map, [target], new HashSet<string> { target }));
        }
    }

    [Property(MaxTest = 300)]
    public void What_is_left_of_a_way_back_is_ordered_from_any_moment_of_it(DoNotSize<int> seed)
    {
        var (map, request, random) = Case(seed.Item);
        if (RoutePlanner.Plan(request with { Done = new HashSet<string>() }).Routes is not [var plan, ..] || plan.Refit.Count == 0)
        {
            return;
        }

        var done = plan.Refit.Take(random.Next(plan.Refit.Count)).Select(a => a.Id).ToList();
        var progress = new RefitProgress(plan.Set.ToHashSet(), done.Where(id => map.Step(id) is null).ToHashSet(), done.Where(id => map.Step(id) is not null).ToHashSet());
        var here = plan.Walk.Take(plan.Removal.Count + done.Count).Last();
        var left = RoutePlanner.Back(map, [.. plan.Removal.Select(a => a.Id)], progress, here.Position)!;
        Assert.Null(WalkChecker.Fault(map, new WayPlan(map, plan.Target, WalkCost.Price(map, plan.Removal.Select(a => a.Id), [.. done, .. left]))));
    }
}
