using Screeline.Core.Access;

namespace Screeline.Core.Tests;

/// <summary>The definitions of docs/formats.md, written independently of the product: plain loops over plain sets.</summary>
internal static class WalkChecker
{
    public static string? Fault(AccessMap map, WayPlan plan, IReadOnlyCollection<string>? already = null) =>
        Fault(map, plan.Target, [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)], already);

    public static string? Fault(AccessMap map, string target, IReadOnlyList<string> removal, IReadOnlyList<string> refit, IReadOnlyCollection<string>? already = null)
    {
        var done = (already ?? []).ToList();
        if (!done.Contains(target) && removal.LastOrDefault() != target)
        {
            return "the removal does not end with the target";
        }

        foreach (var id in removal)
        {
            if (done.Contains(id) || !Met(map.Operations.Single(o => o.Id == id).Needs, done))
            {
                return $"removal: {id} after {string.Join(",", done)}";
            }

            done.Add(id);
        }

        var set = done.ToList();
        var opens = map.Operations.Where(o => set.Contains(o.Id) && o.Kind == OperationKind.Open).Select(o => o.Id).ToList();
        var steps = map.RefitSteps.Where(s => s.AppliesIf is null || set.Contains(s.AppliesIf)).ToList();
        var finished = new List<string>();
        foreach (var id in refit)
        {
            if (finished.Contains(id) || steps.Any(s => s.Id != id && s.Before.Contains(id) && !finished.Contains(s.Id)))
            {
                return $"refit: {id} too early after {string.Join(",", finished)}";
            }

            if (steps.FirstOrDefault(s => s.Id == id) is { } step)
            {
                if (step.After.Any(a => (opens.Contains(a) || steps.Any(s => s.Id == a)) && !finished.Contains(a)))
                {
                    return $"refit: {id} before what it comes after";
                }
            }
            else
            {
                var operation = map.Operations.Single(o => o.Id == id);
                List<string> stillOpen = [.. set.Where(x => x != id && (map.Operations.Single(o => o.Id == x).Kind == OperationKind.Once || !finished.Contains(x)))];
                if (!opens.Contains(id) || !Met(operation.Close.While ?? operation.Needs, stillOpen))
                {
                    return $"refit: {id} closed while what it needs is closed";
                }
            }

            finished.Add(id);
        }

        return opens.Concat(steps.Select(s => s.Id)).FirstOrDefault(id => !finished.Contains(id)) is { } left ? $"refit: {left} left over" : null;
    }

    public static decimal Minutes(AccessMap map, WayPlan plan, string? position = null, string? inHand = null)
    {
        var (total, here, tool) = (0m, position ?? map.StartPosition, inHand);
        foreach (var action in plan.Walk)
        {
            var step = map.RefitSteps.FirstOrDefault(s => s.Id == action.Id);
            var operation = step is null ? map.Operations.Single(o => o.Id == action.Id) : null;
            var minutes = step?.Minutes ?? (action.Part == WalkPart.Removal ? operation!.Minutes : operation!.Close.Minutes ?? operation.Minutes);
            var (at, tools) = step is null ? (operation!.Position, operation.Tools) : (step.Position, step.Tools);
            total += (minutes.Low + 4 * minutes.Likely + minutes.High) / 6m;
            total += at == here ? 0 : map.Moves.Where(m => (m.From == here && m.To == at) || (m.From == at && m.To == here)).Select(m => m.Minutes).DefaultIfEmpty(map.DefaultMoveMinutes).First();
            if (tools.Count > 0)
            {
                total += tool is not null && tool != tools[0] ? map.ToolChangeMinutes : 0;
                tool = tools[0];
            }

            here = at;
        }

        return total;
    }

    private static bool Met(Needs needs, IReadOnlyList<string> open) => needs switch
    {
        Needs.One one => open.Contains(one.Operation),
        Needs.All all => all.Of.All(n => Met(n, open)),
        _ => ((Needs.Any)needs).Of.Any(n => Met(n, open)),
    };
}
