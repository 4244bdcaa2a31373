using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access.Planning;
using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Vehicles;

/// <summary>What fails on a vehicle, family by family.</summary>
/// <param name="Family">The family's id.</param>
/// <param name="Title">Its name.</param>
/// <param name="Jobs">Its closed and open jobs.</param>
/// <param name="Motors">How often the motor was exchanged.</param>
/// <param name="Comebacks">How many came back.</param>
/// <param name="Months">Months between its jobs on average; null below two.</param>
public sealed record WeakPoint(string Family, string Title, int Jobs, int Motors, int Comebacks, double? Months)
{
    /// <summary>What that says, in one line; null when it says nothing.</summary>
    public string? Says => Comebacks > 0 ? "A repair of it has come back: the cause may still be there."
        : Motors > 1 ? $"{Motors} motors: look for what kills them before the next one."
        : Jobs > 1 && Months < 12 ? "Twice within a year: look at what they have in common."
        : null;
}

/// <summary>The next job of a family on a vehicle, prepared from the last.</summary>
public sealed record NextJob(string Family, string Title, AccessMap Map, WayPlan Plan, IReadOnlyList<ToolRollLine> Roll, IReadOnlyList<(string What, decimal Quantity, decimal Price)> Parts, PartOffer? Part, string? PartNote, HistoryRow? Last, MapExperience Experience);

/// <summary>A vehicle's history, its weak points, and the next job prepared.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class VehicleModel(VehicleStore vehicles, ExperienceStore experience, MapShelf shelf, ToolCrib crib, ShippedLibrary library, JobStore jobs, VehicleRecordStore records) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public Guid Id { get; set; }

    /// <summary>The family whose next job is prepared.</summary>
    [BindProperty(SupportsGet = true, Name = "next")]
    public string? Next { get; set; }

    /// <summary>How many jobs are shown at first.</summary>
    public const int Lines = 20;

    /// <summary>Whether more are asked for.</summary>
    [BindProperty(SupportsGet = true, Name = "all")]
    public string? AllAsked { get; set; }

    public bool All => AllAsked == "yes";

    public Vehicle Vehicle { get; private set; } = null!;

    public IReadOnlyList<HistoryRow> History { get; private set; } = [];

    /// <summary>What was seen beside its jobs and is not settled.</summary>
    public IReadOnlyList<OpenSeen> OpenSeen { get; private set; } = [];

    /// <summary>Why it is not driven.</summary>
    public IReadOnlyList<NotDrivenAfter> NotDriven { get; private set; } = [];

    /// <summary>What was written down when it came in last.</summary>
    public (Core.Jobs.IntakeNoted Intake, DateTimeOffset At)? LastIntake { get; private set; }

    public IReadOnlyList<WeakPoint> WeakPoints { get; private set; } = [];

    /// <summary>Families that have a map for this model.</summary>
    public IReadOnlyList<(string Id, string Title)> Mapped { get; private set; } = [];

    public NextJob? Prepared { get; private set; }

    public ShippedLibrary Library => library;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (await vehicles.FindAsync(Id, cancel) is not { } found)
        {
            return NotFound();
        }

        Vehicle = found;
        (ViewData["Title"], ViewData["Place"]) = (found.Name, "library");
        History = await experience.OfVehicleAsync(Id, cancel);
        (OpenSeen, NotDriven, LastIntake) = (await records.OpenSeenAsync(Id, null, cancel), await records.NotDrivenAsync(Id, cancel), await records.LastIntakeAsync(Id, null, cancel));
        WeakPoints =
        [
            .. History.GroupBy(h => h.Family).Select(g => new WeakPoint(
                g.Key, library.System(g.Key)?.Title ?? g.Key, g.Count(), g.Count(h => h.PartCondemned), g.Count(h => h.ComebackOf is not null),
                g.Count() < 2 ? null : (g.Max(h => h.OpenedAt) - g.Min(h => h.OpenedAt)).TotalDays / 30.44 / (g.Count() - 1)))
                .OrderByDescending(w => w.Comebacks).ThenByDescending(w => w.Motors).ThenByDescending(w => w.Jobs),
        ];
        var maps = (await shelf.AllAsync(cancel)).Where(m => m.Map.AppliesTo.Any(a => a.Model == found.Model)).Select(m => m.Map.Family).Distinct().ToList();
        Mapped = [.. library.Systems.Where(s => maps.Contains(s.Id)).OrderBy(s => s.Title, StringComparer.Ordinal).Select(s => (s.Id, s.Title))];
        if (Next is not null && library.System(Next) is { } system && await shelf.ForAsync(Next, found.Model, cancel) is { } shelved)
        {
            Prepared = await PrepareAsync(system.Id, system.Title, shelved, cancel);
        }

        return Page();
    }

    private async Task<NextJob?> PrepareAsync(string family, string title, ShelvedMap shelved, CancellationToken cancel)
    {
        // The last one for which anything came apart; what was put right elsewhere prepares nothing.
        var last = History.FirstOrDefault(h => h.Family == family && h.ClosedAt is not null && h.Expected > 0);
        var before = last is null ? null : (await jobs.FindAsync(last.Id, cancel))?.Job;
        var map = shelved.Usual;
        var target = map.TargetFor(before?.Decision?.Payload.RepairId);
        if (RoutePlanner.Plan(new PlanRequest(map, target.Operation) { Blocked = DeadMotor.LeavesOut(map, dead: false) }, cancel).Routes is not [var plan, ..])
        {
            return null;
        }

        var (removal, refit) = (plan.Removal.Select(a => a.Id).ToList(), plan.Refit.Select(a => a.Id).ToList());
        var owned = await crib.OwnedAsync(cancel);
        var knowledge = library.Part(family, Vehicle.Model);
        var taken = before?.PartTaken?.Payload;
        var offer = knowledge?.Offers.FirstOrDefault(o => o.Id == taken?.Offer) ?? knowledge?.Offers.OrderBy(o => o.Price).FirstOrDefault();
        return new NextJob(
            family, title, map, plan, ToolRoll.ForWay(map, removal, refit, library.Tools, owned.Owned, owned.Wrenches, ToolCrib.Today),
            [.. plan.Renew.Where(c => knowledge is null || !c.Part.StartsWith(knowledge.Title, StringComparison.OrdinalIgnoreCase)).Select(c => (c.Part, c.Quantity, c.Price))], offer,
            taken is not null ? $"as in job {last!.Number}" : null, last, shelved.Experience);
    }
}
