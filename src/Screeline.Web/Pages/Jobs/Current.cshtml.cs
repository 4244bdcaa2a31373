using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.Jobs;
using Screeline.Data;

namespace Screeline.Web.Pages.Jobs;

/// <summary>A job's address without a stage leads to where the work is.</summary>
public sealed class CurrentModel(JobStore jobs) : PageModel
{
    public async Task<IActionResult> OnGetAsync(long number, CancellationToken cancel) =>
        await jobs.FindAsync(number, cancel) is { } found
            ? Redirect($"/jobs/{number}/{found.Job.Current.Slug()}")
            : NotFound();
}
