using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The way in, step by step.</summary>
public sealed class TakeApartModel(JobStore jobs, PeopleStore people, Desk desk, ShippedLibrary library) : StepPage(jobs, people, desk, library)
{
    public override Stage Stage => Stage.TakeApart;

    public override WorkPhase Phase => WorkPhase.Apart;

    public override IReadOnlyList<string> Order => Job.Map is null ? [] : Job.Route!.Payload.Removal;

    public override string? Due => Order.FirstOrDefault(id => !Job.Removed.ContainsKey(id));

    /// <summary>The tray cell the fasteners of the step shown go into; null when it has none.</summary>
    public int? Cell => Shown is not null && Done.TryGetValue(Shown, out var tick) ? tick.Payload.Cell
        : Operation is { Fasteners.Count: > 0, Kind: Core.Access.OperationKind.Open } ? Job.Count.FreeCell
        : null;

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostDoneAsync()
    {
        var step = Request.Form["step"].ToString();
        Asked = step;
        int? cell = int.TryParse(Request.Form["cell"], out var asked) ? asked : null;
        // The cell on the button may have been taken by another tablet meanwhile.
        if (cell is not null && Job.Count.InTray.Any(a => a.Cell == cell && a.Step != step))
        {
            cell = Job.Count.FreeCell;
        }

        return await KeepAsync([new StepDone(WorkPhase.Apart, step, cell, [])]);
    }
}
