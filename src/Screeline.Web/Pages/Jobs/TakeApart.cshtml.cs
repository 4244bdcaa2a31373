using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The way in, step by step.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class TakeApartModel(JobStore jobs, PeopleStore people, CurrentPerson current, Workshop shop) : StepPage(jobs, people, current, shop)
{
    public override Stage Stage => Stage.TakeApart;

    public override WorkPhase Phase => WorkPhase.Apart;

    public override IReadOnlyList<string> Order => Job.Route?.Payload.Removal ?? [];

    /// <summary>The tray cell the fasteners of the step shown go into; null when it has none, or all stay in place.</summary>
    public int? Cell => Shown is not null && Done.TryGetValue(Shown, out var tick) ? tick.Payload.Cell
        : Operation is { Kind: Core.Access.OperationKind.Open } && Fasteners.Any(f => f.Count > InPlace(f.Id)) ? Job.Count.FreeCell
        : null;

    /// <summary>How many of a group do not go into the tray.</summary>
    private int InPlace(string fastener) => Job.FoundCount(Shown!, fastener, FastenerState.StaysInHole) + Job.FoundCount(Shown!, fastener, FastenerState.OnStud) + Job.FoundCount(Shown!, fastener, FastenerState.Missing);

    /// <summary>Whether the step shown is expected and not done yet.</summary>
    public bool IsExpected => Shown is not null && !Done.ContainsKey(Shown) && Job.Expected.Any(o => o.Id == Shown);

    /// <summary>What the main button does while nothing is mapped: the next step that is expected, else what is likeliest.</summary>
    public (Operation? Expected, LikelyThing? Likely) First => ExpectedNow.FirstOrDefault(o => Job.System.Frame.Find(o.Id) is not { Moment: not FrameMoment.First }) is { } due ? (due, null) : (null, Job.Reached is null ? Likely.FirstOrDefault() : null);

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostDoneAsync()
    {
        var step = Request.Form["step"].ToString();
        Asked = step;
        if (Counting is { } counting)
        {
            return Refuse($"{counting.Fastener.Words(counting.Fastener.Count - counting.Count)} not counted yet: {counting.Fastener.Holds}.", StatusCodes.Status409Conflict);
        }

        int? cell = int.TryParse(Request.Form["cell"], out var asked) ? asked : null;
        // The cell on the button may have been taken by another tablet meanwhile.
        if (cell is not null && Job.Count.InTray.Any(a => a.Cell == cell && a.Step != step && a.Step != Pending?.Id))
        {
            cell = Job.Count.FreeCell;
        }

        // Somebody who has looked need not wait for the clock.
        Payload[] early = Request.Form["early"] == "yes" && Job.Waits(step, Now) is { Payload.Kind: not TimerKind.Restraint } wait ? [new TimerEnded(wait.Entry.Id)] : [];
        Asked = null;
        return await KeepAsync([.. early, new StepDone(WorkPhase.Apart, step, cell, [])]);
    }
}
