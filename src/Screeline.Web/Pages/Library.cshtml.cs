using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Fastening;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>Vehicles, tools owned, access maps.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class LibraryModel(VehicleStore vehicles, ToolStore tools, ToolCrib crib, ShopChoiceStore choices, ShippedLibrary library) : PageModel
{
    public IReadOnlyList<Vehicle> Vehicles { get; private set; } = [];

    public IReadOnlySet<string> Owned { get; private set; } = new HashSet<string>();

    /// <summary>Torque wrenches owned, with their calibration.</summary>
    public IReadOnlyList<TorqueWrench> Wrenches { get; private set; } = [];

    /// <summary>How the tray is laid.</summary>
    public string Tray { get; private set; } = "grid";

    /// <summary>Faults by tool.</summary>
    public Dictionary<string, string> Faults { get; } = new(StringComparer.Ordinal);

    public ShippedLibrary Library => library;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Vehicles = await vehicles.AllAsync(cancel);
        var owned = await crib.OwnedAsync(cancel);
        (Owned, Wrenches) = (owned.Owned, owned.Wrenches);
        Tray = await choices.FindAsync(ShopChoiceStore.Tray, cancel) ?? "grid";
        ViewData["Title"] = "Library";
        ViewData["Place"] = "library";
    }

    public async Task<IActionResult> OnPostToolsAsync(CancellationToken cancel)
    {
        var known = library.Tools.Select(t => t.Id).ToHashSet(StringComparer.Ordinal);
        var chosen = Request.Form["tools"].OfType<string>().Where(known.Contains).Distinct().ToList();
        await tools.SetAsync(chosen, cancel);
        return Redirect("/library#tools");
    }

    /// <summary>Keeps when each torque wrench was calibrated.</summary>
    public async Task<IActionResult> OnPostCalibratedAsync(CancellationToken cancel)
    {
        foreach (var wrench in (await crib.OwnedAsync(cancel)).Wrenches)
        {
            var text = Request.Form[$"on-{wrench.Id}"].ToString();
            if (text.Length == 0)
            {
                await tools.CalibratedAsync(wrench.Id, null, cancel);
            }
            else if (DateOnly.TryParseExact(text, "yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture, System.Globalization.DateTimeStyles.None, out var on) && on <= ToolCrib.Today && on.Year > 1990)
            {
                await tools.CalibratedAsync(wrench.Id, on, cancel);
            }
            else
            {
                Faults[wrench.Id] = $"“{text}” is not a day that has been.";
            }
        }

        if (Faults.Count == 0)
        {
            return Redirect("/library#tools");
        }

        await OnGetAsync(cancel);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }

    /// <summary>Keeps how the tray is laid.</summary>
    public async Task<IActionResult> OnPostTrayAsync(CancellationToken cancel)
    {
        if (Request.Form["tray"].ToString() is "grid" or "strip" or "bags")
        {
            await choices.SetAsync(ShopChoiceStore.Tray, Request.Form["tray"]!, cancel);
        }

        return Redirect("/library#tray");
    }

    /// <summary>Families a vehicle's model has a map for.</summary>
    public IReadOnlyList<string> MapsOf(Vehicle vehicle) => [.. library.Systems.Where(s => library.MapsFor(s.Id, vehicle.Model).Count > 0).Select(s => s.Title.ToLowerInvariant()).Order(StringComparer.Ordinal)];
}
