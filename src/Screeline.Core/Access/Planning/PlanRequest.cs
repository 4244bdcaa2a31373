namespace Screeline.Core.Access.Planning;

/// <summary>What a plan is best in.</summary>
public enum PlanObjective
{
    /// <summary>Fewest minutes of removal and refit together.</summary>
    Fastest,
    /// <summary>Least money: labour, expected damage and what is used up.</summary>
    Thrifty,
}

/// <summary>What is asked of the planner. Exact meanings in docs/formats.md.</summary>
/// <param name="Map">A map without faults.</param>
/// <param name="Operation">The operation to reach; null with <see cref="Open"/>.</param>
public sealed record PlanRequest(AccessMap Map, string? Operation)
{
    /// <summary>Operations that must be open or done in the end, in whatever order.</summary>
    public IReadOnlyList<string> Open { get; init; } = [];
    /// <summary>Whether only the way in is asked for: nothing is closed again, and nothing costs on the way back.</summary>
    public bool WayInOnly { get; init; }
    /// <summary>What the plan is best in.</summary>
    public PlanObjective Objective { get; init; } = PlanObjective.Fastest;
    /// <summary>Operations that are open or done already; what they cost is sunk.</summary>
    public IReadOnlySet<string> Done { get; init; } = new HashSet<string>();
    /// <summary>Operations that may not be done.</summary>
    public IReadOnlySet<string> Blocked { get; init; } = new HashSet<string>();
    /// <summary>Tools at hand; null when they do not matter.</summary>
    public IReadOnlySet<string>? Tools { get; init; }
    /// <summary>Where the technician is; null for the map's start.</summary>
    public string? Position { get; init; }
    /// <summary>The tool in hand; null for none.</summary>
    public string? Tool { get; init; }
    /// <summary>How many different routes, at least 1.</summary>
    public int Routes { get; init; } = 1;
    /// <summary>Time after which the best found is told with its gap.</summary>
    public TimeSpan Budget { get; init; } = TimeSpan.FromSeconds(2);

    /// <summary>The tools of an operation that are missing, no stand-in being there either.</summary>
    public IReadOnlyList<string> Lacks(Operation operation) => Lacks(operation.Tools, operation.OrTools);

    /// <summary>The tools of a list that are missing.</summary>
    public IReadOnlyList<string> Lacks(IReadOnlyList<string> tools, IReadOnlyDictionary<string, IReadOnlyList<string>>? instead = null) =>
        Tools is null ? [] : [.. tools.Where(t => !Tools.Contains(t) && !(instead?.GetValueOrDefault(t) ?? []).Any(Tools.Contains))];
}
