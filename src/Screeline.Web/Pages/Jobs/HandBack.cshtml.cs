using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The last words before the vehicle goes back.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class HandBackModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    public override Stage Stage => Stage.HandBack;

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync()
    {
        var found = Request.Form["found"].ToString().Trim();
        if (found.Length == 0)
        {
            return RefuseField("found", "What was found? One line for the customer.");
        }

        var cause = Given("cause") is { } id ? new CauseSaid(id, Given(id == CauseSaid.Unknown ? "unknown-why" : "done") ?? Job.System.RootCauses.FirstOrDefault(c => c.Id == id)?.Remedy ?? "") : null;
        var checks = Job.Checks.Where(c => c.Moment == ProofMoment.End).Select(c => c.Id).ToList();
        var result = await KeepAsync([new HandedBack(found, Given("left"), Given("watch"), cause, checks)], Stage.HandBack, p => p.EndsWith("cause.done", StringComparison.Ordinal) ? cause?.Cause == CauseSaid.Unknown ? "unknown-why" : "done" : p.Contains("cause", StringComparison.Ordinal) ? "cause" : p.Split('.')[^1]);
        return result is RedirectResult ? Redirect($"/jobs/{Number}/sheet") : result;
    }

    private string? Given(string field) => Request.Form[field].ToString().Trim() is { Length: > 0 } text ? text : null;
}
