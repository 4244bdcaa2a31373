using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access.Planning;
using Screeline.Core.Access;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>How the part is reached: the ways side by side, the chosen one step by step, and another way from the middle of the work.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class WayInModel(JobStore jobs, PeopleStore people, CurrentPerson current, ShippedLibrary library, ToolStore tools, DocumentStore documents, MapShelf shelf, MapStore maps, VehicleStore vehicles, ShopChoiceStore choices) : JobPage(jobs, people, current)
{
    public override Stage Stage => Stage.WayIn;

    /// <summary>Operations that will not come off.</summary>
    [BindProperty(SupportsGet = true, Name = "block")]
    public string[] Block { get; set; } = [];

    /// <summary>Tools that are not there.</summary>
    [BindProperty(SupportsGet = true, Name = "without")]
    public string[] Missing { get; set; } = [];

    /// <summary>Operations left out in this job.</summary>
    [BindProperty(SupportsGet = true, Name = "unneeded")]
    public string[] Unneeded { get; set; } = [];

    /// <summary>"thrifty", else fastest.</summary>
    [BindProperty(SupportsGet = true, Name = "by")]
    public string? By { get; set; }

    /// <summary>"owned": only with the tools that are owned.</summary>
    [BindProperty(SupportsGet = true, Name = "tools")]
    public string? With { get; set; }

    /// <summary>"all": with what was marked as not needed; "again": compare although a way is taken.</summary>
    [BindProperty(SupportsGet = true, Name = "plan")]
    public string? PlanAll { get; set; }

    /// <summary>"dead" or "runs"; null for what the complaint says.</summary>
    [BindProperty(SupportsGet = true, Name = "motor")]
    public string? Motor { get; set; }

    /// <summary>The version that is fitted, by the map's choices.</summary>
    [BindProperty(SupportsGet = true, Name = "fitted")]
    public string? FittedAs { get; set; }

    /// <summary>"lift" or "ground"; null for the shop's last choice.</summary>
    [BindProperty(SupportsGet = true, Name = "place")]
    public string? Place { get; set; }

    /// <summary>"yes" or "no": power tools; null for the shop's last choice.</summary>
    [BindProperty(SupportsGet = true, Name = "power")]
    public string? Power { get; set; }

    /// <summary>Which way's steps are shown, from 0.</summary>
    [BindProperty(SupportsGet = true, Name = "way")]
    public int Way { get; set; }

    /// <summary>The vehicle's map with what the shop learned; null when none fits.</summary>
    public ShelvedMap? Shelved { get; private set; }

    /// <summary>The map that is planned on.</summary>
    public AccessMap? Map { get; private set; }

    /// <summary>The ways side by side, the best first; empty when only the way taken is shown.</summary>
    public IReadOnlyList<WayOption> Options { get; private set; } = [];

    /// <summary>The way a manual prints, or null.</summary>
    public WayPlan? Printed { get; private set; }

    /// <summary>What is left of the way taken, from here; null unless another way is looked for.</summary>
    public WayPlan? AsPlanned { get; private set; }

    /// <summary>Why the way taken cannot be gone on with, or null.</summary>
    public string? Stuck { get; private set; }

    /// <summary>The way whose steps are shown.</summary>
    public WayPlan? Shown { get; private set; }

    /// <summary>Whether the first is proven to be the best, and by how much a better one could still be cheaper.</summary>
    public (bool Proven, double Gap) Proof { get; private set; }

    /// <summary>What stands in the way, or null.</summary>
    public Obstacles? Obstacles { get; private set; }

    /// <summary>What the tools that are missing change: the best way with the tools owned alone; null when none is missing on the best way.</summary>
    public PlanAnswer? WithOwned { get; private set; }

    /// <summary>Why what was asked for cannot be planned, or null.</summary>
    public string? Impossible { get; private set; }

    public IReadOnlySet<string> Owned { get; private set; } = new HashSet<string>();

    public ShippedLibrary Library => library;

    /// <summary>Where and with what somebody works.</summary>
    public Workplace Workplace { get; private set; } = Workplace.Plain;

    /// <summary>The vehicle, or null when it is not kept any more.</summary>
    public Vehicle? Vehicle { get; private set; }

    /// <summary>Whether the motor does not move, so that it cannot be run to a place.</summary>
    public bool MotorIsDead => Motor == "dead" || (Motor != "runs" && Job.System.Behaviours.Any(b => b.Dead && Job.Complaint?.Payload.Behaviours.Contains(b.Id) == true));

    /// <summary>Whether that makes a difference here.</summary>
    public bool MotorMatters => Map?.Operations.Any(o => o.ByMotor) == true;

    /// <summary>The version chosen, or null.</summary>
    public FittedChoice? Fitted => Map?.Fitted?.Choices.FirstOrDefault(c => c.Id == FittedAs);

    /// <summary>Whether the version must be told before a way is taken.</summary>
    public bool AsksFitted => Map?.Fitted is not null && Fitted is null && !Replans && Job.Route is null;

    public PlanObjective Objective => By == "thrifty" ? PlanObjective.Thrifty : PlanObjective.Fastest;

    /// <summary>Whether a way is taken and can still be changed.</summary>
    public bool CanReplan => Job.Route is not null && Job.Map is not null && Job.Refitted.Count == 0 && !Job.IsDone(Stage.TakeApart);

    /// <summary>Whether another way is looked for from the middle of the work.</summary>
    public bool Replans => CanReplan && (PlanAll == "again" || Block.Length + Missing.Length + Unneeded.Length > 0);

    /// <summary>The ways to begin without a map of this very model.</summary>
    public IReadOnlyList<BeginCard> Cards { get; private set; } = [];

    /// <summary>How sure it is that the map fits: "done", "looks-same", "guessed"; null without one.</summary>
    public string? Certainty => Shelved?.Plain.AppliesTo.FirstOrDefault(a => a.Model == Job.Opened.Payload.Model)?.Certainty;

    /// <summary>What is to be looked at before the map is trusted, each with what was seen here; empty where it was done on this model.</summary>
    public IReadOnlyList<(string What, bool? Same)> LookFirst => Certainty is "looks-same" or "guessed" && Shelved is { } shelved
        ? [.. shelved.Plain.AppliesTo.First(a => a.Model == Job.Opened.Payload.Model).Look.Select(what => (what, Job.SistersLooked.LastOrDefault(s => s.Payload.Map == shelved.Plain.Id && s.Payload.What == what)?.Payload.Same))] : [];

    /// <summary>Keeps what was looked at on a sister. How sure the map is of this model falls with what is not so, and rises when all of it is.</summary>
    public async Task<IActionResult> OnPostLookedAsync(string what, bool same)
    {
        if (Shelved is not { } shelved || LookFirst.All(l => l.What != what))
        {
            return Refuse("That is not asked any more. Look again.", StatusCodes.Status409Conflict);
        }

        var result = await KeepAsync([new SisterLooked(shelved.Plain.Id, what, same)], Stage.WayIn);
        var sure = !same ? "guessed" : LookFirst.All(l => l.What == what || l.Same == true) ? "looks-same" : Certainty;
        if (WasKept && sure != Certainty && MayMark)
        {
            List<Applicability> applies = [.. shelved.Plain.AppliesTo.Select(a => a.Model == Job.Opened.Payload.Model ? a with { Certainty = sure! } : a)];
            var map = MapChanges.Headed(shelved.Plain, shelved.Plain.Title, applies, shelved.Plain.Learned);
            await maps.KeepAsync(map.Id, await documents.KeepAsync(AccessMapWriter.Write(map), "application/json", HttpContext.RequestAborted), Person.Id, shelved.Version, HttpContext.RequestAborted);
        }

        return result;
    }

    /// <summary>How much of the way was seen once only, in words; null where it was not learned from jobs.</summary>
    public string? SeenOnce => Shelved?.Plain.Learned is { Jobs.Count: > 0 } from && Shown is { } plan
        ? plan.Set.Count(id => from.Certainty(id).Jobs == 1) switch { 0 => $"Learned from {from.Jobs.Count} jobs: every step was seen more than once.", var n when n == plan.Set.Count => "Learned from one job: all of it was seen once.", var n => $"Learned from {from.Jobs.Count} jobs: {n} of {plan.Set.Count} steps were seen once." }
        : null;

    // A map of a sister is less sure of its minutes.
    private decimal WiderBy => Certainty switch { "looks-same" => 1.25m, "guessed" => Job.SisterWider, _ => 1m };

    /// <summary>Whether the way in is still to be chosen.</summary>
    public bool MayBegin => Job.Route is null && Job.Decision is not null && Job.StateOf(Stage.WayIn) != StageState.NotNeeded && Job.Refitted.Count == 0;

    protected override async Task PrepareAsync()
    {
        var cancel = HttpContext.RequestAborted;
        Owned = await tools.OwnedAsync(cancel);
        Vehicle = await vehicles.FindAsync(Job.Opened.Payload.Vehicle, cancel);
        Shelved = await shelf.ForAsync(Job.System.Id, Job.Opened.Payload.Model, cancel, Vehicle?.Version);
        if (Job.Route is null)
        {
            var cards = new List<BeginCard>();
            foreach (var (map, _, _) in (await shelf.AllAsync(cancel)).Where(m => m.Map.Family == Job.System.Id && m.Map.Id != Shelved?.Plain.Id))
            {
                cards.Add(BeginCard.Of(map, (await shelf.FindAsync(map.Id, cancel))!.BestMinutes));
            }

            Cards = cards;
        }

        if (Job.Recording is not null)
        {
            return;
        }

        if (Job is { Map: { } taken, Route: { } route } && !Replans)
        {
            // The way that was taken, in the version it was planned on.
            Map = taken;
            Shown = new WayPlan(taken, route.Payload.Removal[^1], WalkCost.Price(taken, route.Payload.Removal, route.Payload.Refit));
            return;
        }

        var kept = await choices.FindAsync(ShopChoiceStore.Workplace, cancel) ?? "";
        Workplace = new Workplace((Place ?? (kept.Contains("lift", StringComparison.Ordinal) ? "lift" : "ground")) == "lift", (Power ?? (kept.Contains("power", StringComparison.Ordinal) ? "yes" : "no")) == "yes");
        var from = Replans || (Job.Removed.Count > 0 && !Job.IsRecorded) ? Job.Map : Job.IsRecorded ? null : Shelved?.ForPlans(Unneeded, PlanAll == "all") is { } plain ? MapChanges.Wider(Workplace.On(plain), WiderBy) : null;
        if (from is null)
        {
            return;
        }

        if (Unneeded.FirstOrDefault(id => from.Operation(id) is null && Shelved?.Plain.Operation(id) is null) is { } unknown)
        {
            Impossible = $"There is no step “{unknown}” here.";
            return;
        }

        Map = Replans ? MapChanges.Without(from, Unneeded.ToHashSet(StringComparer.Ordinal)) : from;
        if (Unneeded.Length > 0 && WhyNotLeftOut(Map, library) is { } why)
        {
            Impossible = why;
            return;
        }

        Compare(Map);
    }

    private void Compare(AccessMap map)
    {
        var target = map.Targets.FirstOrDefault(t => t.Id == Job.Route?.Payload.Target) ?? map.TargetFor(Job.Decision?.Payload.RepairId);
        var away = DeadMotor.LeavesOut(map, MotorIsDead).Concat(Fitted?.Without ?? []).ToHashSet(StringComparer.Ordinal);
        var last = Job.Removed.Count > 0 ? Job.Removed.Values.OrderByDescending(k => k.Entry.Position).Select(k => map.Operation(k.Payload.Step)).FirstOrDefault(o => o is not null) : null;
        var known = map.Operations.SelectMany(o => o.Tools.Concat(o.OrTools.Values.SelectMany(t => t)));
        var request = new PlanRequest(map, target.Operation)
        {
            Objective = Objective,
            Done = Job.Removed.Count > 0 ? Job.Removed.Keys.Where(id => map.Operation(id) is not null).ToHashSet(StringComparer.Ordinal) : new HashSet<string>(),
            Blocked = Block.Where(id => map.Operation(id) is not null).Concat(away).Where(id => !Job.Removed.ContainsKey(id)).ToHashSet(StringComparer.Ordinal),
            Tools = Missing.Length == 0 && With != "owned" ? null : (With == "owned" ? Owned : known).Where(t => !Missing.Contains(t)).ToHashSet(StringComparer.Ordinal),
            Position = last?.Position,
            Tool = last?.Tools.FirstOrDefault(),
            Routes = 3,
        };
        var answer = RoutePlanner.Plan(request, HttpContext.RequestAborted);
        (Proof, Obstacles) = ((answer.Proven, answer.Gap), answer.Unreachable);
        Printed = Job.Removed.Count > 0 || answer.Routes.Count == 0 ? null : WayOption.Printed(map, target.Operation, (removal, progress, at, tool) => RoutePlanner.Back(map, removal, progress, at, tool));
        if (Replans)
        {
            var left = Job.Route!.Payload.Removal.Where(id => !Job.Removed.ContainsKey(id)).ToList();
            AsPlanned = new WayPlan(Job.Map!, target.Operation, WalkCost.Price(Job.Map!, left, Job.Route.Payload.Refit, last?.Position, last?.Tools.FirstOrDefault()));
            Stuck = left.FirstOrDefault(request.Blocked.Contains) is { } stuck ? $"Blocked: {map[stuck].Title}"
                : left.FirstOrDefault(id => map.Operation(id) is { } o && request.Lacks(o).Count > 0) is { } lacking ? $"Tool missing: {string.Join(", ", request.Lacks(map[lacking]).Select(library.ToolTitle))}"
                : null;
        }

        Options = WayOption.SideBySide(answer.Routes, Owned);
        WithOwned = With != "owned" && Options is [{ MissingTools.Count: > 0 }, ..]
            ? RoutePlanner.Plan(request with { Tools = Owned.Where(t => !Missing.Contains(t)).ToHashSet(StringComparer.Ordinal), Routes = 1 }, HttpContext.RequestAborted)
            : null;
        Shown = Options.Count == 0 ? null : Options[Math.Clamp(Way, 0, Options.Count - 1)].Plan;
    }

    /// <summary>Why a map is not safe, or leads nowhere, without what was left out; null when it is.</summary>
    internal static string? WhyNotLeftOut(AccessMap map, ShippedLibrary library) =>
        AccessMapReader.Read(AccessMapWriter.Write(map), library.Cautions).Faults is [var fault, ..] ? $"It cannot be left out: {fault.Message}." : null;

    public void OnGet()
    {
    }

    /// <summary>Takes a way; the one on the button, as it was shown.</summary>
    public async Task<IActionResult> OnPostAsync(string set)
    {
        var option = Options.FirstOrDefault(o => Key(o.Plan) == set);
        if (AsksFitted)
        {
            return Refuse($"{Map!.Fitted!.Question} Look first: the steps depend on it.", StatusCodes.Status409Conflict);
        }

        if (Map is null || option is null)
        {
            return Refuse(Map is null ? "There is no map for this vehicle yet." : "The ways have changed meanwhile: somebody ticked a step, or the map is another. Look again.", StatusCodes.Status409Conflict);
        }

        if (Place is not null || Power is not null)
        {
            await choices.SetAsync(ShopChoiceStore.Workplace, $"{(Workplace.Lift ? "lift" : "ground")}{(Workplace.PowerTools ? " power" : "")}", HttpContext.RequestAborted);
        }

        // As it is planned on: without what was left out, with the shop's own times.
        var text = Shelved is not null && ReferenceEquals(Map, Shelved.Plain) ? Plain(Shelved.Plain, Shelved.Json) : Plain(Map, AccessMapWriter.Write(Map));
        var hash = await documents.KeepAsync(text, "application/json", HttpContext.RequestAborted);
        var off = Job.Removed.Count > 0 ? Job.Removed.Values.OrderBy(k => k.Entry.Position).Select(k => k.Payload.Step).ToList() : [];
        var target = Map.Targets.First(t => t.Operation == option.Plan.Target).Id;
        return await KeepAsync([new RouteTaken(hash, target, [.. off, .. option.Plan.Removal.Select(a => a.Id)], [.. option.Plan.Refit.Select(a => a.Id)])]);
    }

    /// <summary>Begins without following a map: with what a card, a sister's map or a printed procedure lets expect, or with nothing.</summary>
    public async Task<IActionResult> OnPostRecordAsync(string? card, string? lines)
    {
        string? hash = null;
        if (card is { Length: > 0 })
        {
            if ((await shelf.AllAsync(HttpContext.RequestAborted)).Where(m => m.Map.Id == card && m.Map.Family == Job.System.Id).Select(m => Plain(m.Map, m.Json)).FirstOrDefault() is not { } json)
            {
                return Refuse("That kind of job is not in the library any more. Look again.", StatusCodes.Status409Conflict);
            }

            hash = await documents.KeepAsync(json, "application/json", HttpContext.RequestAborted);
        }

        // A printed procedure comes with numbers and bullets; its lines are what counts.
        var printed = (lines ?? "").Split('\n').Select(l => System.Text.RegularExpressions.Regex.Replace(l, @"^\s*(?:\(?\d{1,3}[.):]|[-*•–])\s*", "").Trim()).Where(l => l.Length > 0).ToList();
        if (Request.Form.ContainsKey("lines") && printed.Count == 0)
        {
            return RefuseField("lines", "Nothing was pasted. A line for each step of the procedure.");
        }

        return await KeepAsync([new RecordingBegun(hash, card is { Length: > 0 } && card == Shelved?.Plain.Id, printed)], Stage.TakeApart, path => path.StartsWith("$.payload.lines", StringComparison.Ordinal) ? "lines" : null);
    }

    // A job keeps the map it works by, and not all the jobs it was learned from.
    private static string Plain(AccessMap map, string json) => map.Learned is null ? json : AccessMapWriter.Write(MapChanges.Learned(map, null));

    private const string MarksAre = "That changes everybody's plans: a technician or foreman does it.";

    /// <summary>Whether whoever works here may change what everybody's plans leave out.</summary>
    public bool MayMark => Current.Role >= Role.Technician;

    /// <summary>Marks an operation as not needed, for all plans from now on.</summary>
    public async Task<IActionResult> OnPostNotNeededAsync(string operation)
    {
        if (!MayMark)
        {
            return Refuse(MarksAre, StatusCodes.Status403Forbidden);
        }

        if (Shelved?.Plain.Operation(operation) is null)
        {
            return Refuse($"There is no step “{operation}” on this map.", StatusCodes.Status422UnprocessableEntity);
        }

        if (WhyNotLeftOut(Shelved.ForPlans([operation]), library) is { } why)
        {
            return Refuse(why, StatusCodes.Status409Conflict);
        }

        await maps.MarkAsync(Shelved.Plain.Id, operation, Person.Id, Job.Id, HttpContext.RequestAborted);
        return ToStage(Stage.WayIn);
    }

    /// <summary>Takes such a mark back.</summary>
    public async Task<IActionResult> OnPostTakeBackAsync(string operation)
    {
        if (!MayMark)
        {
            return Refuse(MarksAre, StatusCodes.Status403Forbidden);
        }

        if (Shelved is not null)
        {
            await maps.TakeBackAsync(Shelved.Plain.Id, operation, Person.Id, HttpContext.RequestAborted);
        }

        return ToStage(Stage.WayIn);
    }

    /// <summary>How sure it is that this map fits this vehicle, in words; with whether something speaks against it.</summary>
    public (string Words, bool Doubt) Applies()
    {
        if (Map?.AppliesTo.FirstOrDefault(a => a.Model == Job.Opened.Payload.Model) is not { } a)
        {
            return ("", false);
        }

        var years = a.Years?.Split('-').Select(y => int.TryParse(y, out var n) ? n : 0).ToArray();
        var outside = years is [var from, var to] && Vehicle?.Year is { } year && (year < from || year > to);
        var other = a.Version is not null && Vehicle?.Version.Length > 0 && !Vehicle.Version.Contains(a.Version, StringComparison.OrdinalIgnoreCase) && !a.Version.Contains(Vehicle.Version, StringComparison.OrdinalIgnoreCase);
        var sure = a.Certainty switch { "done" => "Done on this model here", "looks-same" => "Looks the same; nobody has done it on this model", _ => "Guessed from a sister model" };
        return ($"{sure}: {a.Model}{(a.Years is null ? "" : $", {a.Years}")}{(a.Version is null ? "" : $", {a.Version}")}.{(outside ? $" This one is of {Vehicle!.Year}: outside." : "")}{(other ? $" This one is “{Vehicle!.Version}”: compare before you trust it." : "")}", outside || other || a.Certainty != "done");
    }

    /// <summary>A way by what it holds, so that the button takes what was shown.</summary>
    public static string Key(WayPlan plan) => string.Join(' ', plan.Removal.Select(a => a.Id));

    /// <summary>This page with one condition changed.</summary>
    public string Link(string? by = null, string? tools = null, int? way = null, string? drop = null, string? plan = null, string? motor = null, string? fitted = null, string? place = null, string? power = null)
    {
        var pairs = new List<(string, string)>();
        void Add(string key, string? value)
        {
            if (value is { Length: > 0 } && value != drop)
            {
                pairs.Add((key, value));
            }
        }

        Array.ForEach(Block, b => Add("block", b));
        Array.ForEach(Missing, b => Add("without", b));
        Array.ForEach(Unneeded, b => Add("unneeded", b));
        Add("motor", motor ?? Motor);
        Add("fitted", fitted ?? FittedAs);
        Add("place", place ?? Place);
        Add("power", power ?? Power);
        Add("by", by ?? By);
        Add("tools", tools ?? With);
        Add("plan", plan ?? (Replans && Block.Length + Missing.Length + Unneeded.Length <= 1 ? "again" : PlanAll));
        Add("way", way?.ToString(System.Globalization.CultureInfo.InvariantCulture));
        return $"/jobs/{Number}/way-in" + (pairs.Count == 0 ? "" : "?" + string.Join('&', pairs.Select(p => $"{p.Item1}={Uri.EscapeDataString(p.Item2)}")));
    }

    /// <summary>A tool against the tools owned: owned, replaced by another, or missing.</summary>
    public (string State, string Words) Tool(string tool, IReadOnlyList<string> instead) =>
        Owned.Contains(tool) ? ("done", library.ToolTitle(tool))
        : instead.FirstOrDefault(Owned.Contains) is { } other ? ("waiting", $"{library.ToolTitle(other)} instead of {library.ToolTitle(tool)}")
        : ("danger", $"{library.ToolTitle(tool)}: not owned");
}
