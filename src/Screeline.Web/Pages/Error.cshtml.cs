using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Screeline.Web.Pages;

/// <summary>A plain page for what went wrong, with the way back.</summary>
[IgnoreAntiforgeryToken]
[Microsoft.AspNetCore.Authorization.AllowAnonymous]
public sealed class ErrorModel : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Code { get; set; }

    public string Title => Code switch
    {
        404 => "Not found",
        400 => "That could not be read",
        405 => "Not possible here",
        413 => "Too large",
        415 => "Wrong kind of content",
        >= 500 => "Something broke here",
        _ => "Not possible",
    };

    public string Text => Code switch
    {
        404 => "There is nothing at this address. The job may have another number.",
        400 => "Nothing was kept. Go back, open the page again, and send the form once more.",
        413 => "Nothing was kept. What was sent is larger than this place takes.",
        >= 500 => "Nothing more was kept than what stands in the job's history. The fault is written to the log.",
        _ => "Nothing was kept. Go back and try it from the page.",
    };

    public void OnGet() => ViewData["Title"] = Title;

    public void OnPost() => OnGet();
}
