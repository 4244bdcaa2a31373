using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>What this device chooses for itself: look, hand, unit of torque.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class MoreModel(CurrentPerson current, DevicePreferences preferences) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    public CurrentPerson Current => current;

    public DevicePreferences Preferences => preferences;

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
            preferences.Set(DevicePreferences.LookCookie, look);
        }

        if (hand is "left" or "right")
        {
            preferences.Set(DevicePreferences.HandCookie, hand);
        }

        if (Units.BySymbol(torque ?? "") is { Kind: QuantityKind.Torque } unit)
        {
            preferences.Set(DevicePreferences.TorqueCookie, unit.Symbol);
        }

        return Redirect(Url.IsLocalUrl(Back) ? Back! : "/more");
    }
}
