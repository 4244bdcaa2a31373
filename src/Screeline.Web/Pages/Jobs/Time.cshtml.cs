using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Who worked when: begin, pause, end of the day, by person. What lies between moves no estimate.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class TimeModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    public override Stage Stage => Job?.Current ?? Stage.Complaint;

    protected override Task PrepareAsync()
    {
        ViewData["Title"] = $"Time, job {Number}";
        return Task.CompletedTask;
    }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync()
    {
        if (!Enum.TryParse<ClockedMoment>(Request.Form["moment"], out var moment) || !Enum.IsDefined(moment))
        {
            return Refuse("Begin, pause or end of the day?", StatusCodes.Status422UnprocessableEntity);
        }

        var paused = Job.PauseOf(Person.Id) is not null;
        if (paused && moment != ClockedMoment.Start)
        {
            return Refuse("You pause already. Go on first.", StatusCodes.Status409Conflict);
        }

        var result = await KeepAsync([new WorkClocked(moment)]);
        return result is RedirectResult && moment != ClockedMoment.Start ? Redirect($"/jobs/{Number}/time") : result;
    }
}
