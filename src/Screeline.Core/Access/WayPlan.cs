namespace Screeline.Core.Access;

/// <summary>A way in and back: both orders, priced.</summary>
/// <param name="Map">The map it was planned on.</param>
/// <param name="Target">The target operation.</param>
/// <param name="Walk">All actions in order.</param>
public sealed record WayPlan(AccessMap Map, string Target, IReadOnlyList<WalkAction> Walk)
{
    /// <summary>S of the definitions: the operations of the removal and those that were done before, in ordinal order.</summary>
    public IReadOnlyList<string> Set { get; init; } = [.. Walk.Where(a => a.Part == WalkPart.Removal).Select(a => a.Id).Order(StringComparer.Ordinal)];
    /// <summary>The way in.</summary>
    public IReadOnlyList<WalkAction> Removal { get; } = [.. Walk.Where(a => a.Part == WalkPart.Removal)];
    /// <summary>The way back.</summary>
    public IReadOnlyList<WalkAction> Refit { get; } = [.. Walk.Where(a => a.Part != WalkPart.Removal)];
    /// <summary>Expected minutes.</summary>
    public decimal ExpectedMinutes => WalkCost.Expected(Walk);
    /// <summary>Minutes not exceeded four times in five.</summary>
    public decimal P80Minutes => WalkCost.P80(Walk);
    /// <summary>Labour, expected damage and parts, in the shop's currency.</summary>
    public decimal Money => WalkCost.Money(Map, Walk);
    /// <summary>Waiting on the way (cool-down, cure), minutes; not labour.</summary>
    public decimal WaitMinutes => Walk.Sum(a => a.WaitMinutes);
    /// <summary>Everything used up or renewed on the way.</summary>
    public IReadOnlyList<Consumable> Renew =>
    [
        .. Removal.SelectMany(a => Map[a.Id].Consumes),
        // A part bought in the same number stands for the fasteners themselves.
        .. Removal.Select(a => Map[a.Id]).SelectMany(o => o.Fasteners.Where(f => f.Reuse == "renew" && !o.Consumes.Any(c => c.Quantity == f.Count && c.Part.Contains(f.Kind.Replace('-', ' '), StringComparison.OrdinalIgnoreCase)))).Select(f => new Consumable($"{f.Words(f.Count)}: {f.Holds}", f.Count, 0)),
    ];

    /// <summary>Tools in the order they are first taken up, each with what stands in for it.</summary>
    public IReadOnlyList<(string Tool, IReadOnlyList<string> Instead)> Tools =>
        [.. Walk.SelectMany(a => a.Tools.Select(t => (Tool: t, Instead: Map.Operation(a.Id)?.OrTools.GetValueOrDefault(t) ?? []))).DistinctBy(x => x.Tool)];
}
