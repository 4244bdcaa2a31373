using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Tests;

/// <summary>The planner against trying everything, against rules written a second time, and in cases anybody can follow.</summary>
public sealed class RoutePlannerTests
{
    [Property(MaxTest = 1500)]
    public void Up_to_nine_operations_it_equals_trying_everything(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var request = RandomMaps.Request(RandomMaps.Map(random, random.Next(10) == 0 ? 9 : 7), random);
        var answer = RoutePlanner.Plan(request);
        var all = new BruteForce(request).All();
        Assert.Equal(all.Count == 0, answer.Unreachable is not null);
        Assert.True(answer.Proven);
        Assert.Equal(0, answer.Gap);
        var listed = new List<IReadOnlyList<string>>();
        foreach (var plan in answer.Routes)
        {
            var (set, cost) = all.First(r => !listed.Any(l => l.All(r.Set.Contains)));
            Assert.Equal(set, plan.Set);
            Assert.Equal(cost, request.Objective == PlanObjective.Fastest ? plan.ExpectedMinutes : plan.Money, 9);
            Assert.Null(WalkChecker.Fault(request.Map, plan, request.Done));
            Assert.Equal(WalkChecker.Minutes(request.Map, plan, request.Position, request.Tool), plan.ExpectedMinutes, 12);
            listed.Add(set);
        }

        Assert.True(answer.Routes.Count == 3 || !all.Any(r => !listed.Any(l => l.All(r.Set.Contains))), "there is one more route");
    }
}
