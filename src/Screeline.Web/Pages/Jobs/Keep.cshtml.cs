using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Planning;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The way in of this job, kept for the next one on the model: what is sure, what was seen once, what is worth asking.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class KeepModel(JobStore jobs, PeopleStore people, CurrentPerson current, LearnedMaps learned, VehicleStore vehicles, ShippedLibrary library) : JobPage(jobs, people, current)
{
    public override Stage Stage => Stage.HandBack;

    /// <summary>"own": this version of the vehicle gets a map of its own.</summary>
    [BindProperty(SupportsGet = true, Name = "as")]
    public string? As { get; set; }

    /// <summary>What the job would make of a map; null when nothing came off.</summary>
    public LearnOffer? Offer { get; private set; }

    /// <summary>The best way on the map with this job, or null while it has none.</summary>
    public WayPlan? Plan { get; private set; }

    /// <summary>What is worth asking; null while that is planned.</summary>
    public IReadOnlyList<Question>? Asked { get; private set; }

    /// <summary>Pairs of which nobody knows which came first.</summary>
    public IReadOnlyList<(string, string)> Unordered { get; private set; } = [];

    /// <summary>Other models that are known here.</summary>
    public IReadOnlyList<string> OtherModels { get; private set; } = [];

    public ShippedLibrary Library => library;

    /// <summary>The map drawn, or null while it cannot be.</summary>
    public MapPicture? Picture => Offer is not { Faults.Count: 0 } || Plan is null ? null : MapPicture.ForWay(Offer.After, Plan.Set, [], [], Plan.Target) with { Column = 700 };

    protected override bool ShowsGrowth => false;

    protected override Task PrepareAsync() => LookAsync();

    private async Task LookAsync()
    {
        var cancel = HttpContext.RequestAborted;
        var vehicle = await vehicles.FindAsync(Job.Opened.Payload.Vehicle, cancel);
        var version = vehicle?.Version is { Length: > 0 } told ? told : null;
        Offer = await learned.OfferAsync(Job, NameOf, version, Told(), As == "own", cancel);
        Unordered = Offer is null ? [] : WorkedWay.Unordered(Job);
        if (Offer is { Faults.Count: 0 })
        {
            Plan = RoutePlanner.Plan(new PlanRequest(Offer.After, Offer.After.Targets[0].Operation) { Budget = TimeSpan.FromMilliseconds(500) }, cancel).Routes.FirstOrDefault();
            Asked = learned.QuestionsFor(Offer, Job.System.Frame);
        }

        OtherModels = [.. (await vehicles.AllAsync(cancel)).Select(v => v.Model).Distinct().Where(m => m != Job.Opened.Payload.Model && Offer?.After.AppliesTo.All(a => a.Model != m) != false).Order(StringComparer.Ordinal)];
    }

    // What was said of the things that may be the same: "same-thing" is the map's id, or "other".
    private Dictionary<string, string?> Told() => !Request.HasFormContentType ? []
        : Request.Form.Where(f => f.Key.StartsWith("same-", StringComparison.Ordinal) && f.Value.ToString().Length > 0).ToDictionary(f => f.Key["same-".Length..], f => f.Value.ToString() == "other" ? null : f.Value.ToString(), StringComparer.Ordinal);

    public void OnGet()
    {
    }

    /// <summary>What is worth asking, once it is planned.</summary>
    public IActionResult OnGetQuestions() => Partial("_Questions", this);

    /// <summary>Keeps the way in of this job for the model.</summary>
    public async Task<IActionResult> OnPostAsync(string[] sisters)
    {
        if (Offer is null)
        {
            return Refuse("Nothing came off in this job: there is nothing to keep.", StatusCodes.Status409Conflict);
        }

        if (!Ended)
        {
            return Refuse("The job is under way: the way in is kept when it ends.", StatusCodes.Status409Conflict);
        }

        if (Offer is { IsIn: false, Names: [var open, ..] })
        {
            foreach (var name in Offer.Names)
            {
                FieldFaults[$"same-{name.Thing}"] = "The same, or another one?";
            }

            return Refuse($"Say first whether “{open.Title}” is what the map calls “{open.KnownTitle}”.", StatusCodes.Status422UnprocessableEntity);
        }

        if (Offer.Faults is [var fault, ..])
        {
            return Refuse(WhyNot ?? $"{fault.Path}: {fault.Message}", StatusCodes.Status409Conflict);
        }

        var sister = (Request.Form["certainty"].ToString() == "guessed" ? "guessed" : "looks-same", Look: Given("look"));
        var done = new Applicability(Job.Opened.Payload.Model, null, Offer.Job.Version, "done");
        List<Applicability> applies = [.. Offer.After.AppliesTo];
        var at = applies.FindIndex(a => a.Model == done.Model && (a.Version is null || string.Equals(a.Version, done.Version, StringComparison.OrdinalIgnoreCase)));
        if (at >= 0)
        {
            // Done here now, whatever it was before; its years stay.
            applies[at] = applies[at] with { Certainty = "done" };
        }
        else
        {
            applies.Add(done);
        }

        applies.AddRange(sisters.Where(OtherModels.Contains).Select(m => new Applicability(m, null, null, sister.Item1) { Look = sister.Look is null ? [] : [sister.Look] }));
        var map = MapChanges.Headed(Offer.After, Offer.After.Title, applies, Offer.After.Learned);
        if (!await learned.KeepAsync(map, Offer.Version, Person.Id, HttpContext.RequestAborted))
        {
            return Refuse("Somebody else kept another version of this map meanwhile. Look at what it is now, and keep it again.", StatusCodes.Status409Conflict);
        }

        return Redirect(Here);
    }

    /// <summary>Tells of a job that is kept that one of its things is what others had too, or is another one after all.</summary>
    public async Task<IActionResult> OnPostNameAsync()
    {
        if (Offer is not { IsIn: true, Faults.Count: 0 })
        {
            return Refuse(WhyNot ?? "This job is in no map.", StatusCodes.Status409Conflict);
        }

        return await learned.KeepAsync(Offer.After, Offer.Version, Person.Id, HttpContext.RequestAborted) ? Redirect(Here)
            : Refuse("Somebody else kept another version of this map meanwhile. Look at what it is now.", StatusCodes.Status409Conflict);
    }

    /// <summary>Keeps the answer to a question.</summary>
    public Task<IActionResult> OnPostAnswerAsync(string part, string[] needed, string? back)
    {
        var refitted = Job.Refitted.Keys.ToHashSet(StringComparer.Ordinal);
        return SayAsync([new NeededFor(part, needed, back == "yes" ? [.. needed.Where(refitted.Contains)] : null)]);
    }

    /// <summary>Tells which of two came first.</summary>
    public Task<IActionResult> OnPostOrderAsync(string first, string second) => SayAsync([new OrderMoved(WorkPhase.Apart, first, second)]);

    /// <summary>Tells because of what a step of the way back is done.</summary>
    public Task<IActionResult> OnPostBecauseAsync(string step, string operation) => SayAsync([new BecauseOf(step, operation)]);

    /// <summary>Takes back something that was said.</summary>
    public Task<IActionResult> OnPostUnsayAsync(Guid said) => SayAsync([new EntryWithdrawn(said)]);

    /// <summary>Takes this job out of the map.</summary>
    public async Task<IActionResult> OnPostTakeOutAsync()
    {
        if (Offer is not { IsIn: true, Before: { } before })
        {
            return Refuse("This job is in no map.", StatusCodes.Status409Conflict);
        }

        return await learned.KeepAsync(learned.Without(before, Job.Id), Offer.Version, Person.Id, HttpContext.RequestAborted) ? Redirect(Here)
            : Refuse("Somebody else kept another version of this map meanwhile. Look at what it is now.", StatusCodes.Status409Conflict);
    }

    // Keeps what is said; a map that has this job learns it at once.
    private async Task<IActionResult> SayAsync(IReadOnlyList<Payload> said)
    {
        var wasIn = Offer?.IsIn == true;
        var result = await KeepAsync(said, Stage.HandBack);
        if (!WasKept)
        {
            return result;
        }

        if (wasIn && await _jobs.FindAsync(Number, HttpContext.RequestAborted) is { } now)
        {
            Preview(now.Job);
            await LookAsync();
            // Where it can no longer be walked, the map stays as it was, and the page says what is wrong.
            if (Offer is { Faults.Count: 0 })
            {
                await learned.KeepAsync(Offer.After, Offer.Version, Person.Id, HttpContext.RequestAborted);
            }
        }

        return Redirect(Here);
    }

    private readonly JobStore _jobs = jobs;

    private string Here => $"/jobs/{Number}/keep{(As is null ? "" : $"?as={As}")}";

    /// <summary>Whether the job has ended: handed back, or left.</summary>
    public bool Ended => Job.HandedBack is not null || Job.Left?.Payload.How.Closes() == true;

    /// <summary>Why it cannot be kept yet, in words; null when it can.</summary>
    public string? WhyNot => Offer is null ? null
        : Offer.Faults is [{ Message: not LearnedMaps.NotReached }, ..] && Unordered is [var pair, ..] ? $"Two devices told of “{Job.TitleOf(pair.Item1)}” and “{Job.TitleOf(pair.Item2)}” without having seen each other: say which came first."
        : Offer.Faults is [var fault, ..] ? (fault.Message == LearnedMaps.NotReached ? fault.Message : $"{fault.Message} ({fault.Path})") : null;

    /// <summary>How sure a step is, in words.</summary>
    public string Sure(string step) => Offer!.From.Certainty(step) switch
    {
        (0, _) when Offer.From.Operations?.Any(o => o.Id == step) == true => "as the map says",
        (0, _) => "from the family",
        (1, _) => "seen once",
        (var n, 1) => $"{n} times, by one person",
        (var n, var people) => $"{n} times, by {people} people",
    };

    /// <summary>Steps of the way back that were done here and that the family does not ask for, each with what it was said to be because of, by this job's ids.</summary>
    public IEnumerable<RefitStep> Steps => (Offer?.Job.Steps ?? []).Where(s => Job.Map?.Step(s.Id) is not null && Job.System.Frame.Steps.All(f => f.Step.Id != s.Id) && s.Id != Job.System.Frame.PowerOn?.Id && s.Id != Job.System.Frame.PowerOff?.Id)
        .Select(s => s with { AppliesIf = Offer!.Job.Words.LastOrDefault(w => w.Kind == WordKind.Because && w.Step == s.Id)?.Of[0] ?? s.AppliesIf });

    /// <summary>What was said about this job, each with what it says.</summary>
    public IEnumerable<(Guid Entry, string Words, string By)> Words => Job.WordsKept.Select(w => (w.Id, w.Payload.Describe(Job), NameOf(w.Draft.Actor)));
}
