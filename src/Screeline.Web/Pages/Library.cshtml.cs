using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Data;
using Screeline.Library;

namespace Screeline.Web.Pages;

/// <summary>Vehicles, tools owned, access maps.</summary>
public sealed class LibraryModel(VehicleStore vehicles, ToolStore tools, ShippedLibrary library) : PageModel
{
    public IReadOnlyList<Vehicle> Vehicles { get; private set; } = [];

    public IReadOnlySet<string> Owned { get; private set; } = new HashSet<string>();

    public ShippedLibrary Library => library;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Vehicles = await vehicles.AllAsync(cancel);
        Owned = await tools.OwnedAsync(cancel);
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

    /// <summary>The map of a vehicle's starter, or null.</summary>
    public ShippedMap? MapOf(Vehicle vehicle) => library.Systems.SelectMany(s => library.MapsFor(s.Id, vehicle.Model)).FirstOrDefault();
}
