using Screeline.Core.Access;

namespace Screeline.Core.Fastening;

/// <summary>How a tool that the way asks for is to be had.</summary>
public enum ToolState
{
    /// <summary>It is owned.</summary>
    Owned,
    /// <summary>The map names another that does as well, and that one is owned.</summary>
    Instead,
    /// <summary>Another size that is owned fits, by its clearance.</summary>
    Substitute,
    /// <summary>Nothing owned will do.</summary>
    Missing,
}

/// <summary>One line of the tool roll.</summary>
/// <param name="Tool">The tool asked for.</param>
/// <param name="State">How it is to be had.</param>
/// <param name="Instead">What is taken instead, or null.</param>
/// <param name="Why">Why that will do or why nothing does; null when it is owned.</param>
/// <param name="Steps">Steps that take it up, in order.</param>
public sealed record ToolRollLine(Tool Tool, ToolState State, Tool? Instead, string? Why, IReadOnlyList<string> Steps);

/// <summary>Everything a chosen way takes up, there and back, held against what the shop owns before anything is loosened.</summary>
public static class ToolRoll
{
    /// <summary>The roll in the order the tools are first taken up; torque wrenches after them.</summary>
    /// <param name="map">The map.</param>
    /// <param name="removal">Operations in order.</param>
    /// <param name="refit">Operations and refit steps in order.</param>
    /// <param name="all">Every tool known.</param>
    /// <param name="owned">Ids of those owned.</param>
    /// <param name="wrenches">Torque wrenches owned, with their calibration.</param>
    /// <param name="today">For the calibration.</param>
    public static IReadOnlyList<ToolRollLine> ForWay(AccessMap map, IEnumerable<string> removal, IEnumerable<string> refit, IReadOnlyCollection<Tool> all, IReadOnlySet<string> owned, IReadOnlyList<TorqueWrench> wrenches, DateOnly today)
    {
        var byId = all.ToDictionary(t => t.Id, StringComparer.Ordinal);
        var asked = new List<(string Tool, string Step, IReadOnlyList<string> Or)>();
        void Ask(IReadOnlyList<string> tools, string title, IReadOnlyDictionary<string, IReadOnlyList<string>>? or) =>
            asked.AddRange(tools.Select(t => (t, title, or?.GetValueOrDefault(t) ?? [])));
        foreach (var id in removal)
        {
            Ask(ToolsOf(map[id], all, owned), map[id].Title, map[id].OrTools);
            // What stays under the vehicle must be there as well; what a step takes up is asked for already.
            Ask([.. map[id].Leaves.Except(map[id].Tools, StringComparer.Ordinal)], map[id].Title, null);
        }

        List<string> back = [.. refit];
        foreach (var id in back)
        {
            var operation = map.Operation(id);
            Ask(map.Step(id)?.Tools ?? ToolsOf(operation!, all, owned), map.Step(id)?.Title ?? operation!.CloseTitle, operation?.OrTools);
        }

        var lines = asked.GroupBy(a => a.Tool, StringComparer.Ordinal).Select(g =>
            Line(byId.GetValueOrDefault(g.Key) ?? new Tool(g.Key, g.Key), [.. g.SelectMany(a => a.Or).Distinct(StringComparer.Ordinal)], [.. g.Select(a => a.Step).Distinct()], byId, owned));
        return [.. lines, .. Wrenches(map, back, byId, wrenches, today)];
    }

    /// <summary>
    /// The owned tool for a drive: one that fits, of the same make as the one it stands in for where there is a choice (socket for socket); null when
    /// nothing owned fits.
    /// </summary>
    public static Tool? ForDrive(Drive drive, Tool? like, IEnumerable<Tool> all, IReadOnlySet<string> owned) =>
        all.Where(t => t.Drive is not null && owned.Contains(t.Id) && SocketFit.Judge(drive, t.Drive).Fit == Fit.Fits)
            .OrderBy(t => like is not null && t.Title.Split(' ')[0] == like.Title.Split(' ')[0] ? 0 : 1).ThenBy(t => Math.Abs(t.Drive!.Size - drive.Size)).ThenBy(t => t.Id, StringComparer.Ordinal).FirstOrDefault();

    // Where nobody wrote tools down, as at the vehicle nobody does, the heads say what turns them.
    private static IReadOnlyList<string> ToolsOf(Operation operation, IReadOnlyCollection<Tool> all, IReadOnlySet<string> owned) => operation.Tools.Count > 0 ? operation.Tools :
    [
        .. operation.Fasteners.Select(f => f.Drive).OfType<string>().Distinct().Select(d => Drive.Read(d).Drive).OfType<Drive>()
            .Select(d => (ForDrive(d, null, all, owned) ?? all.Where(t => t.Drive is not null && SocketFit.Judge(d, t.Drive).Fit == Fit.Fits).OrderBy(t => t.Id, StringComparer.Ordinal).FirstOrDefault())?.Id ?? d.ToString()),
    ];

    private static ToolRollLine Line(Tool tool, IReadOnlyList<string> or, IReadOnlyList<string> steps, Dictionary<string, Tool> byId, IReadOnlySet<string> owned)
    {
        if (owned.Contains(tool.Id))
        {
            return new ToolRollLine(tool, ToolState.Owned, null, null, steps);
        }

        if (or.FirstOrDefault(owned.Contains) is { } other)
        {
            return new ToolRollLine(tool, ToolState.Instead, byId.GetValueOrDefault(other) ?? new Tool(other, other), "the map says it does as well", steps);
        }

        var fits = tool.Drive is null ? [] : byId.Values.Where(t => owned.Contains(t.Id) && t.Drive is not null).Select(t => (Tool: t, Verdict: SocketFit.Judge(tool.Drive, t.Drive!)))
            .Where(x => x.Verdict.Fit is Fit.Fits or Fit.Perhaps or Fit.Loose).OrderBy(x => x.Verdict.Fit switch { Fit.Fits => 0, Fit.Perhaps => 1, _ => 2 }).ToList();
        return fits is [var best, ..] && best.Verdict.Fit != Fit.Loose ? new ToolRollLine(tool, ToolState.Substitute, best.Tool, best.Verdict.Why, steps)
            : new ToolRollLine(tool, ToolState.Missing, null, fits is [var loose, ..] ? $"{loose.Tool.Title} goes on, but: {loose.Verdict.Why}" : "nothing owned does it", steps);
    }

    private static IEnumerable<ToolRollLine> Wrenches(AccessMap map, List<string> back, Dictionary<string, Tool> byId, IReadOnlyList<TorqueWrench> wrenches, DateOnly today)
    {
        var taken = new Dictionary<string, (TorqueWrench Wrench, List<string> Steps)>(StringComparer.Ordinal);
        foreach (var (operation, fastener) in back.Select(map.Operation).OfType<Operation>().SelectMany(o => o.Fasteners.Where(f => f.Torque is not null).Select(f => (o, f))))
        {
            var torque = TorqueChoice.Choose(fastener.Torque!.All, fastener.Structural).Chosen?.Value ?? fastener.Torque.Value;
            var step = $"{operation.CloseTitle}: {torque}";
            if (WrenchChoice.For(torque, wrenches, fastener.Adaptor, today) is [var best, ..])
            {
                taken.TryAdd(best.Wrench.Id, (best.Wrench, []));
                taken[best.Wrench.Id].Steps.Add(step);
            }
            else
            {
                yield return new ToolRollLine(new Tool($"torque:{operation.Id}/{fastener.Id}", $"Torque wrench for {torque}"), ToolState.Missing, null, WrenchChoice.WhyNone(torque, wrenches), [step]);
            }
        }

        foreach (var (wrench, steps) in taken.Values)
        {
            yield return new ToolRollLine(byId.GetValueOrDefault(wrench.Id) ?? new Tool(wrench.Id, wrench.Title), ToolState.Owned, null, wrench.InCalibration(today) ? null : "its calibration is not in date", steps);
        }
    }
}
