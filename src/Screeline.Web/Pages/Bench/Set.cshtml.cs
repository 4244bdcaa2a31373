using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Motion;
using Screeline.Core.People;
using Screeline.Library;
using Screeline.Web.Setting;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Bench;

/// <summary>A setting on its own. Everything asked stands in the address, so that it can be kept and shared.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class SetModel(ShippedLibrary library) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string Kind { get; set; } = "";

    public SettingView View { get; private set; } = null!;

    public IActionResult OnGet() => Show(Query(Request));

    /// <summary>Reads a CSV of window runs and shows them; what was typed stays.</summary>
    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, string? asked, string? into)
    {
        var (query, fault) = await WindowImport.ReadAsync(file, asked, into);
        return fault is null ? Redirect($"/bench/window{query}") : Show(WindowImport.Parse(asked), fault);
    }

    private IActionResult Show(IReadOnlyDictionary<string, string> asked, string? importFault = null)
    {
        if (SettingWork.Create(Kind, asked, library, null) is not { } work)
        {
            return NotFound();
        }

        ViewData["Title"] = SettingKinds.Title(Kind);
        ViewData["Place"] = "bench";
        if (importFault is not null)
        {
            work.Faults["file"] = importFault;
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        }

        var back = Request.Query["back"].ToString();
        View = new SettingView(work, back.StartsWith("/jobs/", StringComparison.Ordinal) ? back : null, null, null);
        return base.Page();
    }

    /// <summary>The fields of an address.</summary>
    public static Dictionary<string, string> Query(HttpRequest request) => request.Query.Where(q => q.Key.Length <= 40).ToDictionary(q => q.Key, q => q.Value.ToString(), StringComparer.Ordinal);
}
