using Microsoft.AspNetCore.Html;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Quantities;
using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>One picture of Insight with the table behind it.</summary>
/// <param name="Id">Its id, also the name of its file.</param>
/// <param name="Title">What it is.</param>
/// <param name="Says">What follows from it, in one line.</param>
/// <param name="Key">How to read it.</param>
/// <param name="Picture">The drawing.</param>
/// <param name="Header">The table's header, with units.</param>
/// <param name="Rows">The table's rows.</param>
public sealed record Insight(string Id, string Title, string Says, string Key, IHtmlContent Picture, IReadOnlyList<string> Header, IReadOnlyList<IReadOnlyList<object?>> Rows);

/// <summary>Pictures that help decide, from the shop's closed jobs, with a table behind each.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class InsightModel(ExperienceStore experience, MapShelf shelf, ShippedLibrary library, InsightShelf kept) : PageModel
{
    /// <summary>How far back, in months.</summary>
    [BindProperty(SupportsGet = true, Name = "months")]
    public int Months { get; set; } = 12;

    /// <summary>One family only; empty for all.</summary>
    [BindProperty(SupportsGet = true, Name = "family")]
    public string Family { get; set; } = "";

    public IReadOnlyList<Insight> Pictures { get; private set; } = [];

    public ShippedLibrary Library => library;

    /// <summary>How many closed jobs there are to look at.</summary>
    public int Jobs { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        (ViewData["Title"], ViewData["Place"]) = ("Insight", "insight");
        Months = Math.Clamp(Months, 1, 120);
        Family = library.System(Family)?.Id ?? "";
        (Jobs, Pictures) = await kept.GetAsync(Months, Family, await experience.RevisionAsync(cancel), () => DrawAsync(cancel));
    }

    private async Task<(int Jobs, IReadOnlyList<Insight> Pictures)> DrawAsync(CancellationToken cancel)
    {
        var repairs = await experience.RepairsAsync(Since, Family, cancel);
        Jobs = repairs.Sum(r => r.Jobs);
        return Jobs == 0 ? (0, []) : (Jobs,
        [
            .. new[]
            {
                Places(await experience.PlacesAsync(Since, Family, cancel)),
                await StepsAsync(cancel),
                Estimates(await experience.EstimatesAsync(Since, Family, cancel)),
                Repairs(repairs),
                Causes(await experience.CausesAsync(Since, Family, cancel)),
                Comebacks(await experience.ComebacksAsync(Since, Family, cancel)),
            }.OfType<Insight>(),
        ]);
    }

    /// <summary>The table of one picture as a file.</summary>
    public async Task<IActionResult> OnGetCsvAsync(string picture, CancellationToken cancel)
    {
        await OnGetAsync(cancel);
        return Pictures.FirstOrDefault(p => p.Id == picture) is { } found
            ? File(System.Text.Encoding.UTF8.GetBytes(CsvTable.Write(found.Header, found.Rows)), "text/csv; charset=utf-8", $"{found.Id}.csv")
            : NotFound();
    }

    private DateTimeOffset Since => DateTimeOffset.Now.AddMonths(-Months);

    private static Insight? Places(IReadOnlyList<PlaceRow> rows)
    {
        if (rows.Count == 0)
        {
            return null;
        }

        var worst = rows.Where(r => r.Planned > 10 && r.Place != PlaceMinutes.Waiting).MaxBy(r => r.Spent / r.Planned);
        var total = rows.Sum(r => r.Spent + r.Unplanned);
        var says = worst is not null && worst.Spent > worst.Planned * 1.15m
            ? $"{Place(worst.Place)} takes {worst.Spent / worst.Planned:0.0} times its estimate: look there first."
            : $"{Place(rows[0].Place)} takes {(rows[0].Spent + rows[0].Unplanned) / total:0 %} of the minutes; the estimates hold.";
        return new Insight(
            "minutes", "Where the minutes went", says, "Outlined: planned. Solid: spent.",
            InsightPicture.Bars("Where the minutes went", says, [.. rows.Select(r => (Place(r.Place), (double)r.Planned, (double)r.Spent, $"{DurationFormat.Minutes(r.Spent)} of {DurationFormat.Minutes(r.Planned)}{(r.Unplanned > 0 ? $", {DurationFormat.Minutes(r.Unplanned)} without a map" : "")}"))]),
            ["place", "planned_minutes", "spent_minutes", "jobs", "without_a_map_minutes"], [.. rows.Select(r => (IReadOnlyList<object?>)[Place(r.Place), r.Planned, r.Spent, r.Jobs, r.Unplanned])]);
    }

    // Of the map most jobs were done on: the steps that take longer than they are planned.
    private async Task<Insight?> StepsAsync(CancellationToken cancel)
    {
        if (await experience.BusiestMapAsync(Since, Family, cancel) is not { } busiest || await shelf.FindAsync(busiest, cancel) is not { Plain: var plain })
        {
            return null;
        }

        // What one or two jobs took says nothing of a step yet.
        var steps = await experience.StepsAsync(plain.Id, cancel);
        var rows = steps.Where(s => s.Jobs >= Math.Min(3, steps.Select(x => x.Jobs).DefaultIfEmpty(0).Max()))
            .Select(s => (Step: s, Planned: Planned(plain, s), Name: s.Back ? Refit.Title(plain, s.Action) : plain.Operation(s.Action)?.Title ?? s.Action))
            .Where(x => x.Planned > 0).OrderByDescending(x => x.Step.Mean - x.Planned).Take(8).ToList();
        if (rows.Count == 0)
        {
            return null;
        }

        var says = rows[0].Step.Mean > rows[0].Planned * 1.2m
            ? $"“{rows[0].Name}” takes {DurationFormat.Minutes(rows[0].Step.Mean - rows[0].Planned)} longer than planned, on average of {rows[0].Step.Jobs}: its estimate, or its tool, is not right."
            : "No step takes much longer than planned.";
        return new Insight(
            "steps", $"Steps that run over: {plain.Title}", says, "Outlined: planned. Solid: the mean of the latest jobs.",
            InsightPicture.Bars("Steps that run over", says, [.. rows.Select(r => (r.Name, (double)r.Planned, (double)r.Step.Mean, $"{r.Step.Mean:0.#} of {r.Planned:0.#} min"))]),
            ["step", "way", "planned_minutes", "mean_minutes", "jobs"], [.. rows.Select(r => (IReadOnlyList<object?>)[r.Name, r.Step.Back ? "back" : "in", Math.Round(r.Planned, 2), r.Step.Mean, r.Step.Jobs])]);
    }

    private static decimal Planned(AccessMap map, StepRow s) => map.Step(s.Action)?.Minutes.Mean ?? (map.Operation(s.Action) is { } o ? s.Back ? o.CloseMinutes.Mean : o.Minutes.Mean : 0);

    private Insight? Estimates(IReadOnlyList<EstimateRow> rows)
    {
        if (rows.Count == 0)
        {
            return null;
        }

        var ratio = rows.Average(r => r.Took / Math.Max(1, r.Expected));
        var within = rows.Count(r => Math.Abs(r.Took - r.Expected) <= r.Expected * 0.2m);
        var says = $"{within} of {rows.Count} jobs came within a fifth of their estimate; on average {(ratio >= 1.02m ? $"{ratio - 1:0 %} longer" : ratio <= 0.98m ? $"{1 - ratio:0 %} shorter" : "they hold")}.";
        return new Insight(
            "estimates", "Estimate against what it took", says, "Each point a closed job. Above the dashed line it took longer.",
            InsightPicture.Scatter("Estimate against what it took", says, [.. rows.Select(r => ((double)r.Expected, (double)r.Took))]),
            ["job", "family", "model", "estimate_minutes", "took_minutes", "closed_at"], [.. rows.Select(r => (IReadOnlyList<object?>)[r.Number, Title(r.Family), r.Model, r.Expected, r.Took, r.ClosedAt])]);
    }

    private Insight Repairs(IReadOnlyList<RepairRow> rows)
    {
        var models = rows.GroupBy(r => r.Model).OrderByDescending(g => g.Sum(r => r.Jobs)).Select(g => g.Key).Take(7).ToList();
        var names = rows.GroupBy(r => Repair(r)).OrderByDescending(g => g.Sum(r => r.Jobs)).Select(g => g.Key).Take(12).ToList();
        int Count(int line, int column) => rows.Where(r => Repair(r) == names[line] && r.Model == models[column]).Sum(r => r.Jobs);
        var most = rows[0];
        var says = $"Most often: {Repair(most).ToLowerInvariant()} on the {most.Model}, {most.Jobs} of {Jobs} jobs.";
        return new Insight(
            "faults", "What it was, by vehicle", says, "A square for each pair, the larger the more often.",
            InsightPicture.Field("What it was, by vehicle", says, names, models, Count),
            ["family", "model", "repair", "jobs"], [.. rows.Select(r => (IReadOnlyList<object?>)[Title(r.Family), r.Model, Repair(r), r.Jobs])]);
    }

    private Insight? Causes(IReadOnlyList<CauseRow> rows)
    {
        if (rows.Count == 0)
        {
            return null;
        }

        string Name(CauseRow r) => library.System(r.Family)?.RootCauses.FirstOrDefault(c => c.Id == r.Cause)?.Title ?? "Not known";
        var says = $"{Name(rows[0])} leads with {rows[0].Jobs} of {rows.Sum(r => r.Jobs)}: {library.System(rows[0].Family)?.RootCauses.FirstOrDefault(c => c.Id == rows[0].Cause)?.Remedy ?? "say why it is not known."}";
        return new Insight(
            "causes", "What killed them", says, "The longer, the more often.",
            InsightPicture.Bars("What killed them", says, [.. rows.Take(10).Select(r => (Name(r), (double)r.Jobs, (double)r.Jobs, $"{r.Jobs}, {Title(r.Family).ToLowerInvariant()}"))]),
            ["family", "cause", "jobs"], [.. rows.Select(r => (IReadOnlyList<object?>)[Title(r.Family), Name(r), r.Jobs])]);
    }

    private Insight? Comebacks(IReadOnlyList<ComebackRow> rows)
    {
        if (rows.Count == 0)
        {
            return null;
        }

        var worst = rows.Where(r => r.CondemnedCameBack > 0).MaxBy(r => (double)r.CondemnedCameBack / Math.Max(1, r.Condemned));
        var says = worst is null
            ? $"{rows.Sum(r => r.Condemned)} motors condemned in {rows.Sum(r => r.Jobs)} jobs, none of those came back."
            : $"{Title(worst.Family)}: {worst.CondemnedCameBack} of {worst.Condemned} condemned motors came back: the motor was not the fault, or what killed it stayed.";
        return new Insight(
            "comebacks", "Motors condemned, and what came back", says, "Outlined: motors condemned. Solid: of those, jobs that came back.",
            InsightPicture.Bars("Motors condemned, and what came back", says, [.. rows.Select(r => (Title(r.Family), (double)r.Condemned, (double)r.CondemnedCameBack, $"{r.CondemnedCameBack} of {r.Condemned}"))]),
            ["family", "jobs", "motors_condemned", "came_back", "condemned_came_back"], [.. rows.Select(r => (IReadOnlyList<object?>)[Title(r.Family), r.Jobs, r.Condemned, r.CameBack, r.CondemnedCameBack])]);
    }

    private string Title(string family) => library.System(family)?.Title ?? family;

    private string Repair(RepairRow r) => r.Repair is null ? $"{Title(r.Family)}: not told" : library.System(r.Family)?.Repair(r.Repair)?.Title is { Length: > 0 } t ? char.ToUpperInvariant(t[0]) + t[1..] : r.Repair;

    private static string Place(string place) => place == PlaceMinutes.Waiting ? "Waiting" : AnyPlaces.Title(place);
}
