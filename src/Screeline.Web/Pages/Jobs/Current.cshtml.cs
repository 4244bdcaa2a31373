using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>A job's address without a stage leads to where the work is.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class CurrentModel(JobStore jobs) : PageModel
{
    public async Task<IActionResult> OnGetAsync(long number, CancellationToken cancel) =>
        await jobs.FindAsync(number, cancel) is { } found
            ? Redirect($"/jobs/{number}/{found.Job.Current.Slug()}")
            : NotFound();
}
