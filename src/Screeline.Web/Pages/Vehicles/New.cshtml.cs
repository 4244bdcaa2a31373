using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Vehicles;

/// <summary>Adds a vehicle.</summary>
[Allow(Role.Technician, Role.Technician)]
public sealed class NewModel(VehicleStore vehicles, ShippedLibrary library) : PageModel
{
    [BindProperty]
    public string? Name { get; set; }

    [BindProperty]
    public string? Model { get; set; }

    [BindProperty]
    public string? Version { get; set; }

    [BindProperty]
    public string? Year { get; set; }

    [BindProperty]
    public string? Volts { get; set; }

    [BindProperty(Name = "entry")]
    public Guid Entry { get; set; }

    public Dictionary<string, string> Faults { get; } = [];

    /// <summary>Models the library has maps for, to choose from.</summary>
    public IReadOnlyList<string> KnownModels => [.. library.Maps.SelectMany(m => m.Map.AppliesTo).Select(a => a.Model).Distinct().Order(StringComparer.Ordinal)];

    public void OnGet()
    {
        Entry = Guid.NewGuid();
        Prepare();
    }

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        Prepare();
        foreach (var (field, value, wanted) in new[] { ("name", Name, "A name, as it is called in the yard."), ("model", Model, "Make and model.") })
        {
            if (string.IsNullOrWhiteSpace(value))
            {
                Faults[field] = wanted;
            }
            else if (value.Length > 200)
            {
                Faults[field] = "Longer than 200 characters.";
            }
        }

        if (Version?.Length > 200)
        {
            Faults["version"] = "Longer than 200 characters.";
        }

        int? year = null;
        if (!string.IsNullOrWhiteSpace(Year))
        {
            if (int.TryParse(Year, out var y) && y is >= 1900 and <= 2200)
            {
                year = y;
            }
            else
            {
                Faults["year"] = $"“{Year}” is not a year.";
            }
        }

        if (Volts is not ("12" or "24"))
        {
            Faults["volts"] = "12 or 24 V.";
        }

        if (Faults.Count == 0)
        {
            try
            {
                var id = Entry == Guid.Empty ? Guid.NewGuid() : Entry;
                await vehicles.AddAsync(new Vehicle(id, Name!.Trim(), Model!.Trim(), Version?.Trim() ?? "", year, decimal.Parse(Volts!, System.Globalization.CultureInfo.InvariantCulture)), cancel);
                return Redirect($"/jobs/new?vehicle={id}");
            }
            catch (NameTakenException)
            {
                Faults["name"] = $"There is a vehicle called “{Name!.Trim()}” already.";
            }
        }

        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }

    private void Prepare()
    {
        ViewData["Title"] = "Add a vehicle";
        ViewData["Place"] = "library";
    }
}
