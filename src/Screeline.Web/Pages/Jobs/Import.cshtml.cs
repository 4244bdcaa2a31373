using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Api;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Takes a job in from a file: whole, or with every fault told and nothing kept.</summary>
[Allow(Role.Technician, Role.Technician)]
public sealed class ImportModel(JobStore jobs, ShippedLibrary library, CurrentPerson current) : PageModel
{
    public IReadOnlyList<FormatFault> Faults { get; private set; } = [];

    public string? Reason { get; private set; }

    public void OnGet() => Title();

    public async Task<IActionResult> OnPostJobAsync(IFormFile? file, CancellationToken cancel)
    {
        Title();
        if (file is null || file.Length == 0)
        {
            return Refuse("Choose a file first.");
        }

        if (file.Length > JobFile.MostBytes)
        {
            return Refuse($"Larger than {JobFile.MostBytes / 1024 / 1024} MB.");
        }

        using var reader = new StreamReader(file.OpenReadStream());
        var taken = await Files.TakeInAsync(await reader.ReadToEndAsync(cancel), Path.GetFileName(file.FileName), jobs, library, current, cancel);
        if (taken.Number is { } number)
        {
            return Redirect($"/jobs/{number}/history");
        }

        Faults = taken.Faults;
        return Refuse($"Not taken in, nothing was kept: {Faults.Count} {(Faults.Count == 1 ? "fault" : "faults")}.");
    }

    private PageResult Refuse(string reason)
    {
        Reason = reason;
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }

    private void Title() => (ViewData["Title"], ViewData["Place"]) = ("Take a job in", "yard");
}
