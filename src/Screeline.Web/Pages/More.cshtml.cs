using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>What this device chooses for itself: look, hand, unit of torque.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class MoreModel(Desk desk) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    public Desk Desk => desk;

    /// <summary>The address of the job this page was opened from, or null.</summary>
    public string? JobAddress => (Back ?? "").Split('/') is ["", "jobs", var number, ..] && long.TryParse(number, out var n) ? $"/jobs/{n}" : null;

    public void OnGet()
    {
        ViewData["Title"] = "More";
        ViewData["Place"] = "more";
    }

    public IActionResult OnPost(string? look, string? hand, string? torque)
    {
        if (look is "auto" or "light" or "dark")
        {
            desk.Set(Desk.LookCookie, look);
        }

        if (hand is "left" or "right")
        {
            desk.Set(Desk.HandCookie, hand);
        }

        if (Units.BySymbol(torque ?? "") is { Kind: QuantityKind.Torque } unit)
        {
            desk.Set(Desk.TorqueCookie, unit.Symbol);
        }

        return Redirect(Url.IsLocalUrl(Back) ? Back! : "/more");
    }
}
