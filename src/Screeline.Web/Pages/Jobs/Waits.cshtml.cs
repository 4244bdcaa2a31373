using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>What the job waits for: it stands in the yard until it is taken back.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class WaitsModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    public override Stage Stage => Job?.Current ?? Stage.Complaint;

    protected override Task PrepareAsync()
    {
        ViewData["Title"] = $"Waiting, job {Number}";
        return Task.CompletedTask;
    }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync()
    {
        var what = Request.Form["for"].ToString().Trim();
        if (what.Length == 0)
        {
            return RefuseField("for", "What is it waiting for?");
        }

        if (!LocalTime.TryRead(Request.Form["until"], out var until))
        {
            return RefuseField("until", $"“{Request.Form["until"]}” is not a date and time, for example 2026-11-25 15:00.");
        }

        return await KeepAsync([new WaitingSet(what, until)], null, _ => "for");
    }

    public Task<IActionResult> OnPostClearAsync() => KeepAsync([new WaitingSet(null, null)]);
}
