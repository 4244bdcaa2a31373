using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Leaves a job before it is finished, from any stage, with how the vehicle stands; and takes it up again.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class OutModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    public override Stage Stage => Job?.Current ?? Stage.Complaint;

    /// <summary>What is open on the vehicle, as it was ticked.</summary>
    public IReadOnlyList<string> Apart => [.. Job.Open.Select(id => Job.Map![id].DoneWords)];

    /// <summary>What lies in the tray, by cell.</summary>
    public IReadOnlyList<FastenerAccount> Loose => Job.Count.InTray;

    /// <summary>Plugs, hoses and covers that are off.</summary>
    public IReadOnlyList<PieceAccount> Pieces => [.. Job.Count.Pieces.Where(p => !p.On)];

    protected override Task PrepareAsync()
    {
        ViewData["Title"] = $"Leave it here, job {Number}";
        return Task.CompletedTask;
    }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync()
    {
        if (!Enum.TryParse<WayOut>(Request.Form["how"], out var how) || !Enum.IsDefined(how))
        {
            return RefuseField("how", "Which way does it go?");
        }

        if (Job.Left is { } left)
        {
            return Refuse($"It was left already: {left.Payload.Describe(Job)}. Take it up again first.", StatusCodes.Status409Conflict);
        }

        if (!LocalTime.TryRead(Request.Form["until"], out var until))
        {
            return RefuseField("until", $"“{Request.Form["until"]}” is not a date and time, for example 2026-11-25 15:00.");
        }

        bool? drivable = Request.Form["drivable"].ToString() switch { "yes" => true, "no" => false, _ => null };
        return await KeepAsync([new JobLeft(how, Given("why"), Given("told"), drivable, Given("with"), until)], null, p => p.Split('.')[^1]);
    }

    /// <summary>Takes it up again where it stood.</summary>
    public Task<IActionResult> OnPostResumeAsync() => KeepAsync([new JobResumed(Given("note"))]);
}
