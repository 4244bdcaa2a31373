using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages.Jobs;

/// <summary>How the part is reached: the way, its time, its tools, its risks.</summary>
public sealed class WayInModel(JobStore jobs, PeopleStore people, Desk desk, ShippedLibrary library, ToolStore tools, DocumentStore documents) : JobPage(jobs, people, desk)
{
    public override Stage Stage => Stage.WayIn;

    /// <summary>The map the plan stands on; null when none fits the vehicle.</summary>
    public ShippedMap? Shipped { get; private set; }

    /// <summary>The plan: of the way taken, or the one proposed.</summary>
    public WayPlan? Plan { get; private set; }

    public IReadOnlySet<string> Owned { get; private set; } = new HashSet<string>();

    public ShippedLibrary Library => library;

    protected override async Task PrepareAsync()
    {
        Owned = await tools.OwnedAsync(HttpContext.RequestAborted);
        Shipped = library.MapsFor(Job.System.Id, Job.Opened.Payload.Model) is [var first, ..] ? first : null;
        if (Job is { Map: { } map, Route: { } route })
        {
            // The way that was taken, in the version it was planned on.
            Plan = new WayPlan(map, route.Payload.Removal[^1], WalkCost.Price(map, route.Payload.Removal, route.Payload.Refit));
        }
        else if (Shipped is not null)
        {
            Plan = RoutePlanner.Best(Shipped.Map);
        }
    }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync()
    {
        if (Shipped is null)
        {
            return Refuse("There is no map for this vehicle yet.", StatusCodes.Status409Conflict);
        }

        var plan = RoutePlanner.Best(Shipped.Map);
        var hash = await documents.KeepAsync(Shipped.Json, "application/json", HttpContext.RequestAborted);
        return await KeepAsync([new RouteTaken(hash, Shipped.Map.Targets[0].Id, [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)])]);
    }

    /// <summary>A tool against the tools owned: owned, replaced by another, or missing.</summary>
    public (string State, string Words) Tool(string tool, IReadOnlyList<string> instead) =>
        Owned.Contains(tool) ? ("done", library.ToolTitle(tool))
        : instead.FirstOrDefault(Owned.Contains) is { } other ? ("waiting", $"{library.ToolTitle(other)} instead of {library.ToolTitle(tool)}")
        : ("danger", $"{library.ToolTitle(tool)}: not owned");
}
