using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages;

/// <summary>The step runner, on the way in and on the way back: one step at a time, large.</summary>
public abstract partial class StepPage(JobStore jobs, PeopleStore people, CurrentPerson current, Workshop shop) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override WithoutNetwork WithoutNetwork => WithoutNetwork.Steps;

    private string? _due;
    private int _dueAt = -1;

    /// <summary>A step that the person looks at instead of the one that is due.</summary>
    [BindProperty(SupportsGet = true, Name = "step")]
    public string? Asked { get; set; }

    /// <summary>The step after which the page is to be shown as if all before it were done too; "start" for the beginning of the way back.</summary>
    [BindProperty(SupportsGet = true, Name = "as_if")]
    public string? AsIf { get; set; }

    public ShippedLibrary Library => shop.Library;

    /// <summary>What the shop owns.</summary>
    public OwnedTools Tools { get; private set; } = new(new HashSet<string>(), []);

    /// <summary>What the latest closed jobs on this map say.</summary>
    public MapExperience Experience { get; private set; } = MapExperience.None;

    /// <summary>How the shop lays its tray: grid, strip or bags.</summary>
    public string TrayLayout { get; private set; } = "grid";

    /// <summary>The moment this page is made for.</summary>
    public DateTimeOffset Now { get; } = DateTimeOffset.Now;

    /// <summary>The direction of the work.</summary>
    public abstract WorkPhase Phase { get; }

    /// <summary>All steps of this direction in order; empty when there is no way in.</summary>
    public abstract IReadOnlyList<string> Order { get; }

    /// <summary>Steps of this direction that are done.</summary>
    public IReadOnlyDictionary<string, Recorded<StepDone>> Done => Phase == WorkPhase.Apart ? Job.Removed : Job.Refitted;

    /// <summary>The step that is due; null when all are done. One whose wait runs lets others pass.</summary>
    public string? Due
    {
        get
        {
            if (_dueAt != Job.Head)
            {
                (_due, _dueAt) = (WorkOrder.Due(Job, Order, Phase, Now), Job.Head);
            }

            return _due;
        }
    }

    /// <summary>The step shown.</summary>
    public string? Shown => Asked is not null && (Order.Contains(Asked) || (Records && Job.Expected.Any(o => o.Id == Asked))) ? Asked : Due ?? (Records ? null : Order.LastOrDefault());

    /// <summary>Whether the step shown is not the one that is due.</summary>
    public bool LooksAway => Due is not null && Shown != Due;

    public AccessMap Map => Job.Map!;

    /// <summary>The operation shown, or null when it is a refit step.</summary>
    public Operation? Operation => Shown is null ? null : Map.Operation(Shown);

    /// <summary>The refit step shown, or null when it is an operation.</summary>
    public RefitStep? RefitStep => Shown is null ? null : Map.Step(Shown);

    /// <summary>The fasteners of the step shown: those of the map and those found.</summary>
    public IReadOnlyList<Fastener> Fasteners => Shown is null ? [] : Job.FastenersOf(Shown);

    public string Title(string id) => Phase == WorkPhase.Apart ? Map[id].Title : Refit.Title(Map, id);

    public string Position(string id) => Map.Step(id)?.Position ?? Map[id].Position;

    public IReadOnlyList<string> ToolsOf(string id) => Map.Step(id)?.Tools ?? Map[id].Tools;

    /// <summary>Short words for the result of a step.</summary>
    public string DoneWords(string id) => new StepDone(Phase, id, null, []).Words(Map);

    /// <summary>The last tick of this direction that stands, or null.</summary>
    public Recorded<StepDone>? LastTick => Done.Values.Where(k => k.Entry.Payload is StepDone).OrderByDescending(k => k.Entry.Position).FirstOrDefault();

    /// <summary>How many steps at the same position follow without a break.</summary>
    public int MoreHere => Shown is null ? 0 : Order.SkipWhile(id => id != Shown).Skip(1).TakeWhile(id => Position(id) == Position(Shown)).Count(id => !Done.ContainsKey(id));

    /// <summary>What was found otherwise than expected of a step's fasteners.</summary>
    public IEnumerable<Recorded<FastenerFound>> FoundOf(string step) => Job.Found.Where(f => f.Payload.Step == step);

    /// <summary>The drive that fits a group: the one found, else the one expected.</summary>
    public string? Drive(string step, Fastener fastener) =>
        FoundOf(step).LastOrDefault(f => f.Payload.Fastener == fastener.Id && f.Payload.Found == FastenerState.OtherSize)?.Payload.Size ?? fastener.Drive;

    /// <summary>The tools of a step as they are taken up now: where another size was found, the one that fits it.</summary>
    public IReadOnlyList<string> ToolWords(string step) =>
    [
        .. from id in ToolsOf(step)
           let tool = Library.FindTool(id)
           let turned = tool?.Drive is null ? null : Job.FastenersOf(step).FirstOrDefault(f => f.Drive is not null && Drive(step, f) != f.Drive && Core.Fastening.Drive.Read(f.Drive).Drive is { } expected && SocketFit.Judge(expected, tool.Drive).Fit == Fit.Fits)
           let now = turned is null ? null : Core.Fastening.Drive.Read(Drive(step, turned)).Drive
           select now is null ? Library.ToolTitle(id)
               : ToolRoll.ForDrive(now, tool, Library.Tools, Tools.Owned) is { } other ? $"{other.Title}, not {Library.ToolTitle(id)}"
               : $"{now}: nothing owned fits, not {Library.ToolTitle(id)}",
    ];

    /// <summary>Words of the step shown that an apprentice may not know.</summary>
    public Explained Explained => new(
        [Title(Shown!), .. Fasteners.SelectMany(f => new[] { f.Words(1), LeftHand(Shown!, f) ? "left-hand thread" : null, Phase == WorkPhase.Refit ? f.Treatment : null, f.Torque?.Pattern }), RefitStep?.Place ?? Operation?.Place, Operation?.Reach, RefitStep?.Why ?? Operation?.Why],
        ToolsOf(Shown!), RefitStep?.Cautions ?? Operation?.Cautions ?? []);

    /// <summary>Whether a group turns the other way: by its thread, unless it was found the other way round.</summary>
    public bool LeftHand(string step, Fastener fastener) =>
        (fastener.Metric?.LeftHand ?? false) != FoundOf(step).Any(f => f.Payload.Fastener == fastener.Id && f.Payload.Found == FastenerState.OtherHand);

    /// <summary>The wait of the step shown, minutes; 0 for none. A wait belongs to the direction it is taken in.</summary>
    public decimal WaitMinutes => RefitStep?.WaitMinutes ?? (Phase == WorkPhase.Apart ? Operation?.WaitMinutes ?? 0 : 0);

    /// <summary>Whether restraint parts wait: nobody can shorten that.</summary>
    public bool WaitIsFixed => (RefitStep?.Cautions ?? Operation?.Cautions ?? []).Contains("restraint");

    /// <summary>The timer the step shown waits for now, or null.</summary>
    public WorkTimer? Waiting => Shown is null ? null : Job.Waits(Shown, Now);

    /// <summary>Whether the step shown has a wait that nobody has begun.</summary>
    public bool WaitNotBegun => WaitMinutes > 0 && Shown is not null && !Done.ContainsKey(Shown) && Job.Timers.All(t => t.Payload.Step != Shown);

    /// <summary>The group that is being counted and is not complete, with how many so far; null when none is.</summary>
    public (Fastener Fastener, int Count)? Counting => Shown is null || Done.ContainsKey(Shown) ? null
        : Fasteners.Select(f => (Fastener: f, Count: Job.Counted(Phase, Shown, f.Id))).Where(x => x.Count is { } n && n < x.Fastener.Count).Select(x => ((Fastener, int)?)(x.Fastener, x.Count!.Value)).FirstOrDefault();

    /// <summary>Pictures of the step shown.</summary>
    public IReadOnlyList<PinnedPicture> Pictures => [.. Job.Pictures.Where(p => p.Payload.Step == Shown)];

    protected override async Task PrepareAsync()
    {
        Experience = Job.Map is null ? MapExperience.None : await shop.ExperienceAsync(Job.Map.Id, HttpContext.RequestAborted);
        Tools = await shop.Crib.OwnedAsync(HttpContext.RequestAborted);
        TrayLayout = await shop.Choices.FindAsync(ShopChoiceStore.Tray, HttpContext.RequestAborted) ?? "grid";
        if (AsIf is { } last && HttpMethods.IsGet(Request.Method) && Job.Map is not null)
        {
            Preview(last);
        }

        // The step runner of a mapped job stays light: its keys have a page beside it.
        if (Job.Map is not null && Job.CannotRecord is null && (Records || WithoutNetwork == WithoutNetwork.Beside))
        {
            await PrepareRecorderAsync();
        }

        if (Job.Map is not null && Shown is { } shown && Pictures.Count == 0)
        {
            LastTime = await shop.Records.LastPictureAsync(Job.Opened.Payload.Model, Job.Opened.Payload.Family, shown, Job.Id, HttpContext.RequestAborted);
        }
    }

    /// <summary>The last picture that an earlier job on this model took at the step shown, and its number; null when this job has its own.</summary>
    public (PinnedPicture Picture, long Job)? LastTime { get; private set; }

    /// <summary>When a step was done, in words.</summary>
    public static string When(Recorded<StepDone> tick) => tick.Entry.Payload is ArrivalNoted ? "when it came" : Format.Clock(tick.Entry.Draft.OccurredAt);

    /// <summary>Why the step that is due must wait for a second person, who signs only with a network; null when it need not.</summary>
    public string? Held => Job.SecondsMissing.Count > 0 && Due is { } due ? JobRules.OutOfOrder(Job, new StepDone(Phase, due, null, []), Now) : null;

    /// <inheritdoc/>
    protected override string? Then
    {
        get
        {
            if (Job.Map is null || LooksAway || Held is not null || Due is not { } due)
            {
                return null;
            }

            var last = Order.All(id => id == due || Done.ContainsKey(id));
            return WaitNotBegun ? PreviewAddress(Stage, BegunMark + due)
                : !last ? PreviewAddress(Stage, due)
                : Phase == WorkPhase.Apart ? PreviewAddress(Stage.Refit, AsIfStart)
                : $"/jobs/{Number}/prove";
        }
    }

    /// <inheritdoc/>
    protected override Guid? TickId => Due is { } due && !LooksAway ? PreviewId(Phase, due) : null;

    private const string AsIfStart = "start", BegunMark = "~";

    // No way is longer; a name that no step has must not go round for ever.
    private const int MostSteps = 300;

    private string PreviewAddress(Stage stage, string last) => $"/jobs/{Number}/{stage.Slug()}?as_if={Uri.EscapeDataString(last)}";

    // Does what would be done next, one thing after the other, up to and with what is named: a step, or a wait begun.
    private void Preview(string last)
    {
        if (Phase == WorkPhase.Refit)
        {
            Preview(WorkPhase.Apart, () => Job.Route?.Payload.Removal ?? [], null);
        }

        if (last != AsIfStart)
        {
            Preview(Phase, () => Order, last);
        }
    }

    private void Preview(WorkPhase phase, Func<IReadOnlyList<string>> order, string? last)
    {
        for (var i = 0; i < MostSteps && WorkOrder.Due(Job, order(), phase, Now) is { } due; i++)
        {
            var minutes = Map.Step(due)?.WaitMinutes ?? (phase == WorkPhase.Apart ? Map.Operation(due)?.WaitMinutes : null) ?? 0;
            if (minutes > 0 && Job.Timers.All(t => t.Payload.Step != due))
            {
                Preview(Job.With([new EntryDraft(Guid.NewGuid(), Job.Id, 0, Person.Id, Now, new TimerStarted(due, TimerKind.Wait, minutes, Title(due)))]));
                if (last == BegunMark + due)
                {
                    return;
                }

                continue;
            }

            var fasteners = Job.FastenersOf(due);
            int? cell = phase == WorkPhase.Apart && Map.Operation(due) is { Kind: OperationKind.Open } && fasteners.Count > 0 ? Job.Count.FreeCell : null;
            FastenerOutcome[] outcomes = phase == WorkPhase.Apart ? [] : [.. fasteners.Select(f => FastenerCount.Expected(Job, due, f))];
            var tick = new EntryDraft(PreviewId(phase, due), Job.Id, 0, Person.Id, Now, new StepDone(phase, due, cell, outcomes));
            // What the server will ask for when it hears of an apprentice's tick.
            Payload[] asked = Roles.Parse(Person.Role) == Role.Apprentice && tick.Payload.NeedsSecondPerson(Job) is { } why ? [new SecondWanted(tick.Id, why)] : [];
            Preview(Job.With([tick, .. asked.Select(a => new EntryDraft(Guid.NewGuid(), Job.Id, 0, Person.Id, Now, a))]));
            if (due == last)
            {
                return;
            }
        }
    }

    // Pages made ahead agree on the id of a tick that nobody has made yet; scripts put the real one in its place.
    private Guid PreviewId(WorkPhase phase, string step) => new(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes($"ahead {Job.Id} {phase} {step}")).AsSpan(0, 16));
}
