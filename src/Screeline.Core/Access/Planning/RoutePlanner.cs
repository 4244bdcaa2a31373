namespace Screeline.Core.Access.Planning;

/// <summary>What the planner answers.</summary>
/// <param name="Routes">Best first; empty when the target cannot be reached.</param>
/// <param name="Proven">No walk is better than the first route.</param>
/// <param name="Gap">Share of the first route's cost by which a better walk could still be cheaper; 0 when proven.</param>
/// <param name="Unreachable">What stands in the way; null when there is a route.</param>
public sealed record PlanAnswer(IReadOnlyList<WayPlan> Routes, bool Proven, double Gap, Obstacles? Unreachable);

/// <summary>What stands in the way to a target.</summary>
/// <param name="Target">The operation asked for.</param>
/// <param name="Blocked">Blocked operations without which it cannot be reached, or whose release would open a way.</param>
/// <param name="MissingTools">Operations that lack tools, and which.</param>
/// <param name="Unmet">Operations whose needs cannot be met.</param>
/// <param name="NoWayBack">It can be reached, but no order of refitting exists.</param>
public sealed record Obstacles(string Target, IReadOnlyList<string> Blocked, IReadOnlyList<(string Operation, IReadOnlyList<string> Tools)> MissingTools, IReadOnlyList<string> Unmet, bool NoWayBack);

/// <summary>Plans the best way in and back, with proof, and the best different ones after it.</summary>
public static class RoutePlanner
{
    /// <summary>Most operations and refit steps together that a map may hold.</summary>
    public const int MostActions = Bits.Capacity;

    /// <summary>Most positions that a map may hold.</summary>
    public const int MostPositions = 24;

    /// <summary>Most states that <see cref="Back"/> looks at.</summary>
    public const long MostLooksBack = 200_000;

    /// <summary>Plans.</summary>
    /// <param name="request">What is asked; ids must be those of the map.</param>
    /// <param name="stop">Ends the search early, like the budget.</param>
    public static PlanAnswer Plan(PlanRequest request, CancellationToken stop = default)
    {
        var problem = new RouteProblem(request);
        var search = new RouteSearch(problem, SearchLimit.OfTime(request.Budget, stop));
        if (!search.Start())
        {
            return new PlanAnswer([], true, 0, Explain(request, problem));
        }

        var first = search.Next(out var proven);
        if (first is null)
        {
            return new PlanAnswer([], proven, proven ? 0 : 1, Explain(request, problem));
        }

        var gap = proven || first.Cost == 0 ? 0 : Math.Max(0, (double)(first.Cost - Math.Min(first.Cost, search.Lowest)) / first.Cost);
        var routes = new List<WayPlan> { Walk(request, problem, first) };
        while (routes.Count < request.Routes && search.Next(out _) is { } next)
        {
            routes.Add(Walk(request, problem, next));
        }

        return new PlanAnswer(routes, proven, gap, null);
    }

    /// <summary>
    /// The cheapest order of what is left of a way back, or null when the rules allow none. A search that looks at more than
    /// <see cref="MostLooksBack"/> states gives way to an order that always does what costs least next: a job is folded with it, so it must
    /// not hang on how fast a machine is.
    /// </summary>
    /// <param name="map">The map.</param>
    /// <param name="removal">The operations of the job in the order they were done.</param>
    /// <param name="progress">How far the way back has come.</param>
    /// <param name="position">Where one is.</param>
    /// <param name="tool">The tool in hand; null for none.</param>
    public static IReadOnlyList<string>? Back(AccessMap map, IReadOnlyList<string> removal, RefitProgress progress, string position, string? tool = null)
    {
        var problem = new RouteProblem(new PlanRequest(map, null) { Done = progress.Set, Position = position, Tool = tool });
        var finished = progress.Closed.Concat(progress.StepsDone).Aggregate(default(Bits), (bits, id) => bits.With(problem.Index[id]));
        var order = WayBack.Order(problem, problem.Done, default, finished, (problem.StartPosition, problem.StartTool), [.. removal.Select(id => problem.Index[id])]);
        var found = order.Feasible ? order.Best(long.MaxValue / 4, SearchLimit.OfWork(MostLooksBack)) ?? order.Greedy() : null;
        return found is null ? null : [.. WayBack.Read(problem, order, found.Order).Select(problem.Id)];
    }

    /// <summary>
    /// The least minutes of labour until some operations are open, from what is open already; the way back is not counted. Null
    /// when they cannot be reached.
    /// </summary>
    public static decimal? MinutesToOpen(AccessMap map, IReadOnlyList<string> operations, IReadOnlySet<string> done, string? position = null)
    {
        var answer = Plan(new PlanRequest(map, null) { Open = operations, Done = done, Position = position, WayInOnly = true, Budget = TimeSpan.FromMilliseconds(200) });
        return answer.Routes is [var first, ..] ? first.ExpectedMinutes : null;
    }

    /// <summary>The best way to a map's target and back, without conditions.</summary>
    /// <exception cref="UnplannableException">There is none.</exception>
    public static WayPlan Best(AccessMap map, PlanObjective objective = PlanObjective.Fastest) =>
        Plan(new PlanRequest(map, map.Targets[0].Operation) { Objective = objective }).Routes is [var best, ..] ? best
        : throw new UnplannableException($"Map “{map.Id}” has no way to “{map.Targets[0].Operation}” and back.");

    private static WayPlan Walk(PlanRequest request, RouteProblem problem, RouteSearch.Found found) =>
        new(request.Map, request.Operation ?? "", WalkCost.Price(request.Map, found.Removal.Select(problem.Id), found.Refit.Select(problem.Id), request.Position, request.Tool))
        {
            Set = [.. found.Set.ToList().Select(problem.Id)],
        };

    private static Obstacles Explain(PlanRequest request, RouteProblem problem)
    {
        var map = request.Map;
        var reach = problem.Reach(problem.Possible);
        // Of everything that the target may lean on: what is blocked, what lacks tools, what cannot be done for want of others.
        var (around, before) = (problem.Goal, default(Bits));
        while (around != before)
        {
            before = around;
            foreach (var i in before.Minus(reach))
            {
                around |= problem.Needs[i].Names;
            }
        }

        var lost = around.Minus(reach).ToList().Select(problem.Id).ToList();
        return new Obstacles(
            string.Join(", ", request.Open.Append(request.Operation).OfType<string>()),
            [.. lost.Where(request.Blocked.Contains)],
            [.. lost.Where(id => !request.Blocked.Contains(id)).Select(id => (id, request.Lacks(map[id]))).Where(x => x.Item2.Count > 0)],
            [.. lost.Where(id => !request.Blocked.Contains(id) && request.Lacks(map[id]).Count == 0)],
            lost.Count == 0);
    }
}

/// <summary>A map from which no way in and back can be made.</summary>
public sealed class UnplannableException(string message) : Exception(message);
