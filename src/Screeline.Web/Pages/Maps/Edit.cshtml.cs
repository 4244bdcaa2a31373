using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access.Planning;
using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Formats;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Maps;

/// <summary>An access map drawn, edited step by step or as text, with its faults while it is typed; each change kept is a new version.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class EditModel(MapShelf shelf, MapStore maps, LearnedMaps learned, DocumentStore documents, VehicleStore vehicles, ShippedLibrary library, CurrentPerson worker) : PageModel
{
    private const long MostBytes = 1_000_000;

    private const string Blank = """
        {
          "format": "screeline/access-map@1", "id": "new-map", "title": "New map", "family": "starting",
          "applies_to": [],
          "start_position": "bay-top",
          "positions": [{ "id": "bay-top", "title": "Over the engine bay", "kind": "bay" }, { "id": "under", "title": "Underneath", "kind": "under", "requires": ["vehicle-supported"] }],
          "moves": [{ "from": "bay-top", "to": "under", "minutes": 2 }],
          "default_move_minutes": 2, "tool_change_minutes": 0.25, "labour_rate_per_hour": 60,
          "operations": [
            { "id": "motor-out", "title": "Motor out", "kind": "open", "position": "bay-top", "minutes": { "low": 2, "likely": 3, "high": 6 }, "needs": null, "tools": [], "damage": { "chance": 0, "cost": 0, "what": "" }, "consumes": [], "close": { "minutes": null, "while": null, "gate": false } }
          ],
          "refit_steps": [],
          "targets": [{ "id": "motor-out", "operation": "motor-out" }]
        }
        """;

    [BindProperty(SupportsGet = true, Name = "id")]
    public string Id { get; set; } = "new";

    /// <summary>The version that is changed; 0 for a shipped or a new map.</summary>
    [BindProperty(Name = "based_on")]
    public int BasedOn { get; set; }

    /// <summary>The step in hand.</summary>
    [BindProperty(SupportsGet = true, Name = "step")]
    public string? Step { get; set; }

    public MapDraft Draft { get; private set; } = null!;

    public IReadOnlyList<FormatFault> Faults { get; private set; } = [];

    /// <summary>The version whose changes are shown, or null.</summary>
    [BindProperty(SupportsGet = true, Name = "changes")]
    public int? Changes { get; set; }

    /// <summary>What that version changed.</summary>
    public IReadOnlyList<string> Changed { get; private set; } = [];

    /// <summary>The map as it stands, for what is said of its steps; null while it cannot be read.</summary>
    public AccessMap? Map { get; private set; }

    /// <summary>Models that are known here.</summary>
    public IReadOnlyList<string> Models { get; private set; } = [];

    /// <summary>The map as far as it can be drawn, or null.</summary>
    public MapPicture? Picture { get; private set; }

    /// <summary>The best way on the map as it stands, or null while it has faults.</summary>
    public WayPlan? Best { get; private set; }

    public IReadOnlyList<MapVersion> Versions { get; private set; } = [];

    public ShelvedMap? Shelved { get; private set; }

    /// <summary>Why nothing was kept, or what was.</summary>
    public string? Said { get; private set; }

    public ShippedLibrary Library => library;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        Shelved = Id == "new" ? null : await shelf.FindAsync(Id, cancel);
        if (Id != "new" && Shelved is null)
        {
            return NotFound();
        }

        BasedOn = Shelved?.Version ?? 0;
        await ShowAsync(MapDraft.Parse(Shelved is null ? Blank : Shelved.Plain.Learned is null ? Shelved.Json : AccessMapWriter.Write(MapChanges.Learned(Shelved.Plain, null))), cancel);
        if (Changes is { } version && Versions.FirstOrDefault(v => v.Version == version) is { } now)
        {
            var before = Versions.FirstOrDefault(v => v.Version == version - 1)?.Json ?? library.Maps.FirstOrDefault(m => m.Map.Id == Id)?.Json;
            Changed = before is null ? ["The first version."] : MapDifference.Between(AccessMapReader.ReadKept(before)!, AccessMapReader.ReadKept(now.Json)!) is { Count: > 0 } lines ? lines : ["Nothing that people work by."];
        }

        return Page();
    }

    /// <summary>Writes a size that jobs found into the next version of the map.</summary>
    public async Task<IActionResult> OnPostLearnAsync(string operation, string fastener, string size, CancellationToken cancel)
    {
        if (await shelf.FindAsync(Id, cancel) is not { } found || found.Experience.Findings.FirstOrDefault(f => f.Step == operation && f.Fastener == fastener && f.Size == size) is not { } finding || !found.Experience.SpeaksForTheMap(finding))
        {
            return StatusCode(StatusCodes.Status409Conflict);
        }

        var text = AccessMapWriter.Write(MapChanges.WithAlsoFits(found.Plain, operation, fastener, size));
        await maps.KeepAsync(Id, await documents.KeepAsync(text, "application/json", cancel), worker.Person!.Id, found.Version, cancel);
        return Redirect($"/library/maps/{Id}?step={Uri.EscapeDataString(operation)}");
    }

    /// <summary>The map's text as a file.</summary>
    public async Task<IActionResult> OnGetFileAsync(CancellationToken cancel) =>
        await shelf.FindAsync(Id, cancel) is { } found ? File(System.Text.Encoding.UTF8.GetBytes(found.Json), "application/json", $"{Id}.json") : NotFound();

    /// <summary>Takes up what was typed and shows what is wrong with it; keeps nothing.</summary>
    public async Task<IActionResult> OnPostAsync(string draft, string? current, string? go, CancellationToken cancel)
    {
        var taken = Take(draft, current);
        if (go == "+")
        {
            Step = taken.Add();
        }
        else if (go == "+back")
        {
            Step = taken.AddRefitStep();
        }
        else if (go == "-" && current is not null)
        {
            taken.Remove(current);
            Step = null;
        }
        else if (go is { Length: > 0 })
        {
            Step = go;
        }

        await ShowAsync(taken, cancel);
        return Page();
    }

    /// <summary>Shows a file in the editor; nothing is kept yet.</summary>
    public async Task<IActionResult> OnPostTakeInAsync(IFormFile? file, CancellationToken cancel)
    {
        if (file is null || file.Length == 0 || file.Length > MostBytes)
        {
            Said = file is null || file.Length == 0 ? "No file was chosen." : $"The file has {file.Length / 1000} kB; at most {MostBytes / 1000} kB are taken in.";
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            await ShowAsync(MapDraft.Parse(Blank), cancel);
            return Page();
        }

        using var reader = new StreamReader(file.OpenReadStream());
        var draft = MapDraft.Parse(await reader.ReadToEndAsync(cancel));
        BasedOn = (await shelf.FindAsync(MapDraft.Word(draft.Root?["id"]), cancel))?.Version ?? 0;
        await ShowAsync(draft, cancel);
        return Page();
    }

    /// <summary>Keeps the map as its next version, when it has no faults.</summary>
    public async Task<IActionResult> OnPostKeepAsync(string draft, string? current, CancellationToken cancel)
    {
        var taken = Take(draft, current);
        var found = Id == "new" ? null : await shelf.FindAsync(Id, cancel);
        var reading = AccessMapReader.Read(taken.Text, library.Cautions);
        if (reading.Map is { } drawn && found?.Plain is { Learned: not null } before && drawn.Id == before.Id && drawn.Learned is null)
        {
            var (said, gone) = Learning(before, drawn);
            if (gone is not null)
            {
                Said = $"“{gone}” came off in a job: it is not taken out of the map. Take the job out, or say at the step that it was not needed.";
                Response.StatusCode = StatusCodes.Status409Conflict;
                await ShowAsync(taken, cancel);
                return Page();
            }

            reading = AccessMapReader.Read(AccessMapWriter.Write(learned.Again(said)), library.Cautions);
            Faults = reading.Faults;
        }

        else if (reading.Map is { Learned: not null } whole && learned.Disagrees(whole) is { Count: > 0 } otherwise)
        {
            // Taken in from elsewhere: what it says must follow from what it was learned from.
            (reading, Faults) = (new AccessMapReading(null, otherwise), otherwise);
        }

        if (reading.Map is not { } map)
        {
            Said = $"Nothing is kept while the map has faults. What you typed is still here.{(reading.Faults.FirstOrDefault(f => f.Message.StartsWith("the job of", StringComparison.Ordinal)) is { } against ? $" {char.ToUpperInvariant(against.Message[0])}{against.Message[1..]}." : "")}";
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            await ShowAsync(taken, cancel);
            return Page();
        }

        var person = worker.Person!;
        if (map.Learned is not null ? !await learned.KeepAsync(map, BasedOn, person.Id, cancel) : !await maps.KeepAsync(map.Id, await documents.KeepAsync(taken.Text, "application/json", cancel), person.Id, BasedOn, cancel))
        {
            Said = "Somebody else kept another version meanwhile. What you typed is still here: save it as a file, open the map again and take over what is yours.";
            Response.StatusCode = StatusCodes.Status409Conflict;
            await ShowAsync(taken, cancel);
            return Page();
        }

        return Redirect($"/library/maps/{map.Id}{(Step is null ? "" : $"?step={Uri.EscapeDataString(Step)}")}");
    }

    /// <summary>Marks an operation as not needed, or takes the mark back.</summary>
    public async Task<IActionResult> OnPostMarkAsync(string operation, bool back, CancellationToken cancel)
    {
        var person = worker.Person!;
        if (await shelf.FindAsync(Id, cancel) is not { } found || found.Plain.Operation(operation) is null)
        {
            return NotFound();
        }

        if (back)
        {
            await maps.TakeBackAsync(Id, operation, person.Id, cancel);
        }
        else if (Jobs.WayInModel.WhyNotLeftOut(found.ForPlans([operation], history: false), library) is { } why)
        {
            (Said, Response.StatusCode) = (why, StatusCodes.Status409Conflict);
            Step = operation;
            return await OnGetAsync(cancel);
        }
        else
        {
            await maps.MarkAsync(Id, operation, person.Id, null, cancel);
        }

        return Redirect($"/library/maps/{Id}?step={Uri.EscapeDataString(operation)}");
    }

    private MapDraft Take(string draft, string? current)
    {
        var taken = MapDraft.Parse(draft ?? "");
        if (current is { Length: > 0 } && Request.Form.ContainsKey("f-title"))
        {
            Step = taken.Fill(current, Request.Form);
        }
        else if (current is { Length: > 0 } && Request.Form.ContainsKey("r-title"))
        {
            Step = taken.FillRefitStep(current, Request.Form);
        }
        else if (Request.Form.ContainsKey("h-title") && Request.Form["draft-as"] != "text")
        {
            taken.FillHead(Request.Form);
        }

        return taken;
    }

    // What was changed by hand on a learned map stands above what jobs say; what came off in a job is never taken out by hand.
    private (AccessMap Map, string? Gone) Learning(AccessMap before, AccessMap drawn)
    {
        var (so, by, now) = (before.Learned!, worker.Person!.Name, DateTimeOffset.Now);
        var said = so.Said.ToList();
        void Say(string step, JsonObject was, JsonObject after)
        {
            var changes = new JsonObject();
            foreach (var key in was.Select(x => x.Key).Union(after.Select(x => x.Key)).Where(k => !JsonNode.DeepEquals(was[k], after[k])))
            {
                changes[key] = after[key]?.DeepClone();
            }

            if (changes.Count > 0)
            {
                said.Add(new SaidStep(step, by, now, changes));
            }
        }

        foreach (var o in drawn.Operations.Where(o => before.Operation(o.Id) is not null))
        {
            Say(o.Id, AccessMapWriter.Write(before[o.Id]), AccessMapWriter.Write(o));
        }

        foreach (var s in drawn.RefitSteps.Where(s => before.Step(s.Id) is not null))
        {
            Say(s.Id, AccessMapWriter.Write(before.Step(s.Id)!), AccessMapWriter.Write(s));
        }

        var gone = before.Operations.FirstOrDefault(o => drawn.Operation(o.Id) is null)?.Title ?? before.RefitSteps.FirstOrDefault(s => drawn.Step(s.Id) is null)?.Title;
        List<Operation> newOperations = [.. drawn.Operations.Where(o => before.Operation(o.Id) is null)];
        List<RefitStep> newSteps = [.. drawn.RefitSteps.Where(s => before.Step(s.Id) is null)];
        var grown = so with
        {
            Operations = newOperations.Count == 0 ? so.Operations : [.. so.Operations ?? [], .. newOperations], Steps = newSteps.Count == 0 ? so.Steps : [.. so.Steps ?? [], .. newSteps], Said = said,
        };
        return (MapChanges.Learned(drawn, grown), gone);
    }

    /// <summary>Takes a job out of a learned map.</summary>
    public async Task<IActionResult> OnPostWithoutAsync(Guid job, CancellationToken cancel)
    {
        if (await shelf.FindAsync(Id, cancel) is not { } found)
        {
            return NotFound();
        }

        var without = learned.Without(found.Plain, job);
        if (AccessMapReader.Read(AccessMapWriter.Write(without), library.Cautions).Faults is [var fault, ..] && without.Operations.Count > 0)
        {
            (Said, Response.StatusCode) = ($"Without that job the map leads nowhere: {fault.Message}.", StatusCodes.Status409Conflict);
            return await OnGetAsync(cancel);
        }

        await learned.KeepAsync(without, found.Version, worker.Person!.Id, cancel);
        return Redirect(without.Operations.Count == 0 ? "/library/maps" : $"/library/maps/{Id}");
    }

    private async Task ShowAsync(MapDraft draft, CancellationToken cancel)
    {
        ModelState.Clear();
        Draft = draft;
        var reading = AccessMapReader.Read(draft.Text, library.Cautions);
        Faults = Faults.Count > 0 ? Faults : reading.Faults;
        Shelved ??= Id == "new" ? null : await shelf.FindAsync(Id, cancel);
        Versions = Id == "new" ? [] : await maps.VersionsAsync(Id, cancel);
        Models = [.. (await vehicles.AllAsync(cancel)).Select(v => v.Model).Distinct().Order(StringComparer.Ordinal)];
        var drawable = reading.Map ?? AccessMapReader.ReadKept(draft.Text);
        // What was learned stands beside the text and not in it.
        Map = drawable is { Learned: null } && Shelved?.Plain is { Learned: { } from } kept && kept.Id == drawable.Id ? MapChanges.Learned(drawable, from) : drawable;
        drawable = Map;
        if (drawable is { Operations.Count: > 0 } && drawable.Operations.All(o => drawable.Positions.Any(p => p.Id == o.Position)) && drawable.Operations.DistinctBy(o => o.Id).Count() == drawable.Operations.Count)
        {
            Best = reading.Map is null ? null : RoutePlanner.Plan(new PlanRequest(reading.Map, reading.Map.Targets[0].Operation), cancel).Routes.FirstOrDefault();
            Picture = MapPicture.ForWay(drawable, Best?.Set ?? [], [], [], drawable.Targets.FirstOrDefault()?.Operation ?? "") with { Now = drawable.Operation(Step ?? "") is null ? null : Step, Picks = true, Column = 700 };
        }

        ViewData["Title"] = $"{MapDraft.Word(draft.Root?["title"])}, access map";
        ViewData["Place"] = "library";
    }
}
