using System.Globalization;
using System.Security.Cryptography;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Proof;
using Screeline.Data;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>
/// A page of one job: loads it, shows its stage, and appends entries from its forms. Each form carries the position it was made
/// at and the id its entry will have, so that pressing twice stores once and two people see each other.
/// </summary>
public abstract class JobPage(JobStore jobs, PeopleStore people, CurrentPerson current) : PageModel
{
    private IReadOnlyList<Person> _people = [];

    /// <summary>The stage this page shows.</summary>
    public abstract Stage Stage { get; }

    /// <summary>The number people call the job by.</summary>
    [BindProperty(SupportsGet = true)]
    public long Number { get; set; }

    /// <summary>The position the form was made at.</summary>
    [BindProperty(Name = "based_on")]
    public int BasedOn { get; set; }

    /// <summary>The id of the form's first entry.</summary>
    [BindProperty(Name = "entry")]
    public Guid Entry { get; set; }

    /// <summary>The job as it stands.</summary>
    public Job Job { get; private set; } = null!;

    /// <summary>The last entry that this page knows of; where it shows what would come next, that is not in it.</summary>
    public int SeenHead => _realHead ?? Job.Head;

    private int? _realHead;

    /// <summary>Shows the job as it would stand after something that was not kept yet.</summary>
    protected void Preview(Job job)
    {
        _realHead ??= Job.Head;
        Job = job;
    }

    /// <summary>Who works here now.</summary>
    public Person Person { get; private set; } = null!;

    /// <summary>Who works here, under whose sign-in, and what they may do.</summary>
    public CurrentPerson Current => current;

    /// <summary>What others did meanwhile, when a form clashed with it.</summary>
    public IReadOnlyList<Entry> Meanwhile { get; private set; } = [];

    /// <summary>Why the last form was not kept, or null.</summary>
    public string? Refusal { get; private set; }

    /// <summary>Faults by form field.</summary>
    public Dictionary<string, string> FieldFaults { get; } = new(StringComparer.Ordinal);

    /// <summary>What was typed, so that a refused form still holds it.</summary>
    public string Typed(string field, string otherwise = "") => Request.HasFormContentType && Request.Form.TryGetValue(field, out var values) ? values.ToString() : otherwise;

    /// <summary>What a field of the form says, trimmed; null for nothing.</summary>
    protected string? Given(string field) => Request.Form[field].ToString().Trim() is { Length: > 0 } text ? text : null;

    /// <summary>Whether this device sends what it kept while the network was away: nobody sits before the answer.</summary>
    private bool IsSentLater => Request.Headers.ContainsKey("X-Screeline-Kept");

    /// <summary>Whether what the form says is on the record now, whatever the answer looks like.</summary>
    protected bool WasKept { get; private set; }

    /// <summary>Who could look as a second person at what somebody did.</summary>
    public IEnumerable<Person> SecondsFor(SecondLook look) => _people.Where(p => p.Id != look.Tick.Draft.Actor && Roles.Parse(p.Role) >= Role.Technician);

    /// <summary>A person's name.</summary>
    public string NameOf(Guid person) => _people.FirstOrDefault(p => p.Id == person)?.Name ?? "somebody";

    /// <summary>Who an entry says did it, and that a file says so where it was not told here.</summary>
    public string NameOf(Entry entry) => Job.IsToldByFile(entry) ? $"{NameOf(entry.Draft.Actor)} (told by a file)" : NameOf(entry.Draft.Actor);

    /// <inheritdoc/>
    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        if (await jobs.FindAsync(Number, HttpContext.RequestAborted) is not { } found)
        {
            context.Result = new NotFoundResult();
            return;
        }

        (Job, Person) = (found.Job, current.Person!);
        _people = await people.AllAsync(HttpContext.RequestAborted);
        ViewData["Title"] = $"{Stage.Name()}, {Job.Opened.Payload.VehicleName}";
        ViewData["Band"] = this;
        ViewData["Frame"] = "frame-job";
        await PrepareAsync();
        ViewData[JobFrame.Key] = new JobFrame(Number, SeenHead, Then, TickId, Person.Id, WithoutNetwork, ShowsGrowth);
        await next();
    }

    /// <summary>How this page is used while the network is away.</summary>
    protected virtual WithoutNetwork WithoutNetwork => WithoutNetwork.Nothing;

    /// <summary>Whether the page is shown anew by itself when somebody else adds to the job.</summary>
    protected virtual bool ShowsGrowth => true;

    /// <summary>Where the page stands that follows when its main action is done, made ahead for when the network is away; null when there is none.</summary>
    protected virtual string? Then => null;

    /// <summary>The id that pages made ahead give the entry of this page's main action.</summary>
    protected virtual Guid? TickId => null;

    /// <summary>Loads what this page needs besides the job, before every handler.</summary>
    protected virtual Task PrepareAsync() => Task.CompletedTask;

    /// <summary>Appends what a form says; on success goes on to a stage, else shows the form again with what was typed.</summary>
    /// <param name="payloads">What it says, all or nothing.</param>
    /// <param name="then">The stage to go to; null for where the work is then.</param>
    /// <param name="fieldOf">The form field that a path in the payload belongs to; null to show faults above the form.</param>
    /// <param name="actor">Who says it; null for whoever pressed the form.</param>
    /// <param name="outOfTurn">What becomes of something done out of its turn: refused, or kept and shown as disputed because it was done all the same.</param>
    protected async Task<IActionResult> KeepAsync(IReadOnlyList<Payload> payloads, Stage? then = null, Func<string, string?>? fieldOf = null, Guid? actor = null, OutOfTurn outOfTurn = OutOfTurn.Refuse)
    {
        if (Entry == Guid.Empty)
        {
            return Refuse("The form was incomplete. Nothing was kept; press again.", StatusCodes.Status400BadRequest);
        }

        if (await current.WhoPressedAsync(Request.Form["by"], Job.Id, HttpContext.RequestAborted) is not { } pressed)
        {
            return Refuse("Who pressed this cannot be told any more. Open the page again and press there.", StatusCodes.Status403Forbidden);
        }

        var (at, waited) = Said(pressed.PageMade);
        var drafts = payloads.Select((payload, i) => new EntryDraft(Derived(Entry, i), Job.Id, BasedOn, actor ?? pressed.Person, at, payload, waited)).ToList();
        // Whoever comes in for one signature by their PIN is there themselves.
        var sender = actor is { } second ? Roles.Lesser(Roles.Parse(_people.FirstOrDefault(p => p.Id == second)?.Role), Role.Technician) : current.Role;
        var outcome = await jobs.AppendAsync(Job.Id, drafts, current.Signed!.SignedIn.Person, IsSentLater ? OutOfTurn.KeepInLine : outOfTurn, SameAgain.WhatTheySay, sender: sender, cancel: HttpContext.RequestAborted);
        HttpContext.RequestServices.GetRequiredService<Metrics>().Entry(outcome.GetType().Name);
        WasKept = outcome is AppendResult.Kept or AppendResult.Repeated;
        switch (outcome)
        {
            case AppendResult.Kept or AppendResult.Repeated when IsSentLater:
                return new JsonResult(new { state = "kept" });
            case AppendResult.Kept kept:
                return ToStage(then ?? kept.Job.Current);
            case AppendResult.Repeated again:
                return ToStage(then ?? again.Job.Current);
            case AppendResult.Clashed clash:
                (Job, Meanwhile) = (clash.Job, clash.Since);
                if (IsSentLater)
                {
                    return new JsonResult(new
                    {
                        state = "clash",
                        head = clash.Job.Head,
                        theirs = clash.Since.Select(e => $"{Format.Clock(e.Draft.OccurredAt)}, {NameOf(e.Draft.Actor)}: {e.Payload.Describe(clash.Job)}"),
                        yours = drafts.Select(d => $"{Format.Clock(d.OccurredAt)}, {NameOf(d.Actor)}: {d.Payload.Describe(clash.Job)}"),
                    }) { StatusCode = StatusCodes.Status409Conflict };
                }

                return Refuse($"Somebody else came first. What you typed is still here; keep it too, or leave it.", StatusCodes.Status409Conflict);
            case AppendResult.OutOfOrder order:
                Job = order.Job;
                return Refuse(order.Reason, StatusCodes.Status409Conflict);
            case AppendResult.NotAllowed not:
                Job = not.Job;
                return Refuse(not.Reason, StatusCodes.Status403Forbidden);
            case AppendResult.Malformed malformed:
                foreach (var fault in malformed.Faults)
                {
                    FieldFaults[fieldOf?.Invoke(fault.Path) ?? ""] = fault.Message;
                }

                return Refuse(FieldFaults.GetValueOrDefault(""), StatusCodes.Status422UnprocessableEntity);
            case AppendResult.IdTaken:
                return Refuse("This form was sent before with other content. That was kept; look at it before you send this again.", StatusCodes.Status409Conflict, newEntry: true);
            default:
                return NotFound();
        }
    }

    /// <summary>Keeps the answer to a check of the proof; the page stays where it is.</summary>
    protected async Task<IActionResult> KeepCheckAsync()
    {
        var id = Request.Form["check"].ToString();
        if (Job.Check(id) is not { } check)
        {
            return Refuse($"There is no check “{id}”.", StatusCodes.Status422UnprocessableEntity);
        }

        var (value, choice, reason) = check.ReadAnswer(Request.Form["value"], Request.Form["choice"], Job.Opened.Payload.NominalVolts);
        return reason is not null ? RefuseField($"check-{id}", reason) : await KeepAsync([new ProofTaken(id, value, choice, HttpContext.RequestServices.GetRequiredService<DevicePreferences>().Celsius)], Stage, _ => $"check-{id}");
    }

    /// <summary>A failed check leads back, to the step named or to Find.</summary>
    public async Task<IActionResult> OnPostLeadAsync()
    {
        var step = Request.Form["again"].ToString() is { Length: > 0 } named ? named : null;
        return Job.Check(Request.Form["check"].ToString()) is not { } check || ProofLead.FromCheck(Job, check).FirstOrDefault(l => l.Step == step) is not { } lead
            ? Refuse("That check does not lead there any more.", StatusCodes.Status409Conflict)
            : await KeepAsync([new SentBack(check.Id, step, lead.Why), .. step is null ? Cancelled(lead.Why) : []]);
    }

    /// <summary>The order of a part that is chosen, cancelled; nothing when none is.</summary>
    protected IEnumerable<Payload> Cancelled(string why) => Job.PartTaken is null ? [] : [new PartCancelled(why)];

    /// <summary>Shows the page again with a reason.</summary>
    protected IActionResult Refuse(string? reason, int status, bool newEntry = false)
    {
        if (IsSentLater)
        {
            return new JsonResult(new { state = "refused", reason = reason ?? string.Join(" ", FieldFaults.Values) }) { StatusCode = status };
        }

        Refusal = reason;
        Response.StatusCode = status;

        // Sending again means: knowing what is there now. What was typed stays typed, the hidden fields move on.
        ModelState.Clear();
        BasedOn = Job.Head;
        if (newEntry || Entry == Guid.Empty)
        {
            Entry = Guid.NewGuid();
        }

        return Page();
    }

    /// <summary>What a form is about is not there: no page to show it on; for what was sent later the reason.</summary>
    protected IActionResult Gone(string reason) => IsSentLater ? Refuse(reason, StatusCodes.Status409Conflict) : NotFound();

    /// <summary>Shows the page again with a fault at a field.</summary>
    protected IActionResult RefuseField(string field, string reason)
    {
        FieldFaults[field] = reason;
        return Refuse(null, StatusCodes.Status422UnprocessableEntity);
    }

    /// <summary>A second person has looked: whoever works here now, or somebody who says so with their PIN.</summary>
    public async Task<IActionResult> OnPostSecondAsync(Guid target, Guid person, string? pin)
    {
        if (person != Person.Id && (await current.Gatekeeper.PinAsync(person, pin ?? "", HttpContext.RequestAborted)) is { Account: null, Reason: var reason })
        {
            return RefuseField($"second-{target}", reason!);
        }

        return await KeepAsync([new SecondSigned(target)], Stage, _ => $"second-{target}", person);
    }

    /// <summary>Withdraws an entry of this job.</summary>
    public Task<IActionResult> OnPostWithdrawAsync(Guid target) => KeepAsync([new EntryWithdrawn(target)], Stage);

    /// <summary>Goes to a stage of this job.</summary>
    protected RedirectResult ToStage(Stage stage) => Redirect($"/jobs/{Number}/{stage.Slug()}");

    /// <summary>The id of a form, new on every rendering, or the one it was sent with when it comes back refused.</summary>
    public Guid FormEntry(string form) => Refusal is not null || FieldFaults.Count > 0 || Meanwhile.Count > 0
        ? (Typed("which-form") == form ? Entry : Guid.NewGuid())
        : Guid.NewGuid();

    // When it was pressed, and how many seconds it waited on the device: by the running clock of the page, which cannot have run longer than since that
    // page was made. On another page than it was pressed on that clock tells less, and the moment is told by the device's date, if that can be.
    private (DateTimeOffset At, int WaitedSeconds) Said(DateTimeOffset pageMade)
    {
        var now = DateTimeOffset.Now;
        if (!IsSentLater)
        {
            return (now, 0);
        }

        var ran = TimeSpan.FromMilliseconds(double.TryParse(Request.Form["waited_ms"], NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var ms) ? Math.Clamp(ms, 0, Math.Max(0, Math.Min((now - pageMade).TotalMilliseconds, Gatekeeper.TicketLife.TotalMilliseconds))) : 0);
        var at = Request.Form["same_page"] != "yes" && DateTimeOffset.TryParse(Request.Form["occurred_at"], CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var date) && date <= now && date >= now - Gatekeeper.TicketLife
            ? new DateTimeOffset(date.UtcTicks / 10 * 10, TimeSpan.Zero).ToOffset(date.Offset) : now - ran;
        return (at, (int)ran.TotalSeconds);
    }

    private static Guid Derived(Guid first, int index) =>
        index == 0 ? first : new Guid(SHA256.HashData([.. first.ToByteArray(), (byte)index]).AsSpan(0, 16));
}

/// <summary>How a page is used while the network is away.</summary>
public enum WithoutNetwork
{
    /// <summary>Not at all.</summary>
    Nothing,
    /// <summary>One works through it step by step; what follows is made ahead.</summary>
    Steps,
    /// <summary>One comes to it from a step and goes back there.</summary>
    Beside,
}

/// <summary>What scripts need of a job's page, to keep the work going without a network and to see what others do.</summary>
/// <param name="Number">The job.</param>
/// <param name="Head">The last entry the page knows of.</param>
/// <param name="Then">The page that follows its main action, made ahead.</param>
/// <param name="TickId">The id that page gives the action's entry.</param>
/// <param name="Who">Who works here: pages that are on the device for somebody else are not theirs.</param>
/// <param name="WithoutNetwork">How it is used without a network.</param>
/// <param name="ShowsGrowth">Whether it is shown anew when the job grows.</param>
public sealed record JobFrame(long Number, int Head, string? Then, Guid? TickId, Guid Who, WithoutNetwork WithoutNetwork, bool ShowsGrowth)
{
    /// <summary>Where a page puts it for the layout.</summary>
    public const string Key = "Job frame";

    /// <summary>Addresses of the stages at which one works step by step, with blanks between.</summary>
    public string Steps => string.Join(' ', Stages.AtVehicle.Select(s => $"/jobs/{Number}/{s.Slug()}"));
}
