using Screeline.Core.Access;

namespace Screeline.Web.Drawing;

/// <summary>A walk grouped by where one stands.</summary>
public static class Strip
{
    /// <summary>Runs of actions at the same position, in order.</summary>
    public static IReadOnlyList<(string Position, IReadOnlyList<WalkAction> Actions)> ByPosition(IReadOnlyList<WalkAction> walk)
    {
        var groups = new List<(string Position, List<WalkAction> Actions)>();
        foreach (var action in walk)
        {
            if (groups.Count == 0 || groups[^1].Position != action.Position)
            {
                groups.Add((action.Position, []));
            }

            groups[^1].Actions.Add(action);
        }

        return [.. groups.Select(g => (g.Position, (IReadOnlyList<WalkAction>)g.Actions))];
    }
}
