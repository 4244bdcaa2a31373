using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Opens a job at a step, in the direction the work goes now: where the code on a label leads.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class AtModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    public override Stage Stage => Job.IsDone(Stage.TakeApart) ? Stage.Refit : Stage.TakeApart;

    public IActionResult OnGet(string step) => Redirect($"/jobs/{Number}/{Stage.Slug()}?step={Uri.EscapeDataString(step)}");
}
