using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Opens a job in the customer's words.</summary>
[Allow(Role.Apprentice, Role.Apprentice)]
public sealed class NewModel(JobStore jobs, VehicleStore vehicles, ShippedLibrary library, ExperienceStore experience, CurrentPerson current) : PageModel
{
    [BindProperty]
    public string? Vehicle { get; set; }

    [BindProperty]
    public string? Family { get; set; }

    [BindProperty]
    public string? Words { get; set; }

    [BindProperty]
    public string? Promised { get; set; }

    /// <summary>The closed job whose fault has come back, or null.</summary>
    [BindProperty(Name = "comeback")]
    public Guid? Comeback { get; set; }

    /// <summary>Jobs of the chosen vehicle that were closed within a year: what this may be the comeback of.</summary>
    public IReadOnlyList<(Guid Id, long Number, string Family, string Words, DateTimeOffset ClosedAt)> Earlier { get; private set; } = [];

    [BindProperty(Name = "entry")]
    public Guid Entry { get; set; }

    public IReadOnlyList<Vehicle> Vehicles { get; private set; } = [];

    /// <summary>The families, in the order of the trade.</summary>
    public IReadOnlyList<FaultSystem> Families => library.Systems;

    public Dictionary<string, string> Faults { get; } = [];

    public async Task OnGetAsync(string? vehicle, string? family, Guid? comeback, CancellationToken cancel)
    {
        (Vehicle, Family, Comeback) = (vehicle, family, comeback);
        await PrepareAsync(cancel);
        Entry = Guid.NewGuid();
    }

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        await PrepareAsync(cancel);
        var chosen = Guid.TryParse(Vehicle, out var id) ? Vehicles.FirstOrDefault(v => v.Id == id) : null;
        if (chosen is null)
        {
            Faults["vehicle"] = "Choose the vehicle.";
        }

        var family = library.System(Family ?? "");
        if (family is null)
        {
            Faults["family"] = "Choose what fails.";
        }

        if (string.IsNullOrWhiteSpace(Words))
        {
            Faults["words"] = "What does the customer say? A few words do.";
        }
        else if (Words.Length > 2000)
        {
            Faults["words"] = "Longer than 2000 characters.";
        }

        if (!LocalTime.TryRead(Promised, out var promised))
        {
            Faults["promised"] = $"“{Promised}” is not a date and time, for example 2026-11-25 15:00.";
        }

        if (Comeback is { } came && Earlier.All(e => e.Id != came || (family is not null && e.Family != family.Id)))
        {
            Faults["comeback"] = "That job is of another vehicle or another family, or more than a year old.";
        }

        if (Faults.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }

        var person = current.Person!;
        var entry = Entry == Guid.Empty ? Guid.NewGuid() : Entry;
        // The job's id follows from the form's, so that a form sent twice opens one job.
        var jobId = new Guid(System.Security.Cryptography.SHA256.HashData(entry.ToByteArray()).AsSpan(0, 16));
        var opened = new JobOpened(chosen!.Id, chosen.Name, chosen.Model, chosen.NominalVolts, family!.Id, Words!.Trim(), promised, Comeback);
        var number = await jobs.OpenAsync(new EntryDraft(entry, jobId, 0, person.Id, DateTimeOffset.Now, opened), current.Signed!.SignedIn.Person, cancel);
        return Redirect($"/jobs/{number}/complaint");
    }

    private async Task PrepareAsync(CancellationToken cancel)
    {
        Vehicles = await vehicles.AllAsync(cancel);
        Earlier = Guid.TryParse(Vehicle, out var id) ? await experience.ClosedSinceAsync(id, DateTimeOffset.Now.AddYears(-1), cancel) : [];
        ViewData["Title"] = "Open a job";
        ViewData["Place"] = "yard";
    }
}
