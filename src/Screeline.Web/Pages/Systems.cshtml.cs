using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Diagnosis;
using Screeline.Core.People;
using Screeline.Library;
using Screeline.Web.Drawing;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>The families as they are known: the circuit, each test with how and why, what can be wrong. Without a job.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class SystemsModel(ShippedLibrary library) : PageModel
{
    public IEnumerable<FaultSystem> All => library.Systems.OrderBy(s => s.Title, StringComparer.Ordinal);

    /// <summary>The circuit for the test shown; null while none is chosen.</summary>
    public CircuitPicture? Picture { get; private set; }

    /// <summary>The point asked for, or null.</summary>
    public TestPoint? At { get; private set; }

    /// <summary>All tests, or those at the point asked for.</summary>
    public IReadOnlyList<FaultTest> Tests { get; private set; } = [];

    /// <summary>The test after the one shown, round and round.</summary>
    public FaultTest? Next { get; private set; }

    public IActionResult OnGet(string? id, string? test, string? at)
    {
        (ViewData["Title"], ViewData["Place"]) = ("Systems", "library");
        if (id is null)
        {
            return Page();
        }

        if (library.System(id) is not { } system)
        {
            return NotFound();
        }

        ViewData["Title"] = system.Title;
        At = system.Points.FirstOrDefault(p => p.Id == at);
        Tests = [.. system.Tests.Where(t => At is null || t.Probes.Contains(At.Id))];
        var shown = system.Test(test ?? "") ?? (Tests.Count > 0 ? Tests[0] : system.Tests[0]);
        var all = system.Tests.ToList();
        Next = all[(all.IndexOf(shown) + 1) % all.Count];
        Picture = new CircuitPicture(system, shown, SampledCircuit.UsualCurrents(system, VehicleSetting.Usual.With(VehicleSetting.Volts, 12), shown.State), _ => null, open: true);
        return Page();
    }
}
