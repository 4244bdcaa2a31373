namespace Screeline.Core.Access;

/// <summary>Which part of the walk an action belongs to.</summary>
public enum WalkPart
{
    /// <summary>An operation on the way in.</summary>
    Removal,
    /// <summary>An operation undone on the way back.</summary>
    Closing,
    /// <summary>A step of the way back only.</summary>
    RefitStep,
}

/// <summary>One action of a walk with what it costs where it stands.</summary>
/// <param name="Id">Operation or refit step.</param>
/// <param name="Part">Which part of the walk.</param>
/// <param name="Position">Where it is done from.</param>
/// <param name="Tools">Tools in the order they are taken up.</param>
/// <param name="Work">Its estimate.</param>
/// <param name="WaitMinutes">Waiting that is not labour.</param>
/// <param name="MoveMinutes">Change of position before it.</param>
/// <param name="ToolChangeMinutes">Change of tool before it.</param>
public sealed record WalkAction(string Id, WalkPart Part, string Position, IReadOnlyList<string> Tools, Minutes Work, decimal WaitMinutes, decimal MoveMinutes, decimal ToolChangeMinutes);

/// <summary>The cost of walks, exactly as docs/formats.md defines it.</summary>
public static class WalkCost
{
    /// <summary>Standard normal quantile of 0.8, as the definition of P80 rounds it.</summary>
    public const decimal Quantile80 = 0.8416m;

    /// <summary>Prices a removal followed by a refit without a break.</summary>
    /// <param name="map">The map.</param>
    /// <param name="removal">Operation ids in order.</param>
    /// <param name="refit">Operation and refit step ids in order.</param>
    /// <param name="position">Where the walk starts; null for the map's start position.</param>
    /// <param name="tool">The tool in hand, or null.</param>
    public static IReadOnlyList<WalkAction> Price(AccessMap map, IEnumerable<string> removal, IEnumerable<string> refit, string? position = null, string? tool = null)
    {
        var actions = new List<WalkAction>();
        var (here, inHand) = (position ?? map.StartPosition, tool);

        void Add(string id, WalkPart part, string at, IReadOnlyList<string> tools, Minutes work, decimal wait)
        {
            var change = tools.Count > 0 && inHand is not null && tools[0] != inHand ? map.ToolChangeMinutes : 0m;
            actions.Add(new WalkAction(id, part, at, tools, work, wait, map.MoveMinutes(here, at), change));
            (here, inHand) = (at, tools.Count > 0 ? tools[0] : inHand);
        }

        foreach (var id in removal)
        {
            var o = map[id];
            Add(id, WalkPart.Removal, o.Position, o.Tools, o.Minutes, o.WaitMinutes);
        }

        foreach (var id in refit)
        {
            if (map.Step(id) is { } s)
            {
                Add(id, WalkPart.RefitStep, s.Position, s.Tools, s.Minutes, s.WaitMinutes);
            }
            else
            {
                var o = map[id];
                Add(id, WalkPart.Closing, o.Position, o.Tools, o.CloseMinutes, 0m);
            }
        }

        return actions;
    }

    /// <summary>Expected minutes (P50 by the definition): work, changes of position and of tool; waiting is not labour.</summary>
    public static decimal Expected(IEnumerable<WalkAction> walk) => walk.Sum(a => a.Work.Mean + a.MoveMinutes + a.ToolChangeMinutes);

    /// <summary>Minutes not exceeded four times in five: expected + 0.8416 × √(sum of variances).</summary>
    public static decimal P80(IReadOnlyCollection<WalkAction> walk) =>
        Expected(walk) + Quantile80 * (decimal)Math.Sqrt((double)walk.Sum(a => a.Work.Variance));

    /// <summary>Money: labour, expected damage and what is used up by the operations of this removal.</summary>
    public static decimal Money(AccessMap map, IReadOnlyCollection<WalkAction> walk) =>
        Expected(walk) * map.LabourRatePerHour / 60m
        + walk.Where(a => a.Part == WalkPart.Removal).Select(a => map[a.Id])
            .Sum(o => o.Damage.Chance * o.Damage.Cost + o.Consumes.Sum(c => c.Quantity * c.Price));
}
