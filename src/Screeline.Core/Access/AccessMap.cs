using Screeline.Core.Access.Learning;
using Screeline.Core.Fastening;

namespace Screeline.Core.Access;

/// <summary>
/// How one family's motor is reached on one vehicle, and what belongs to the way back: the format
/// <c>screeline/access-map@1</c>, exact meanings in docs/formats.md.
/// </summary>
public sealed class AccessMap
{
    /// <summary>Identifier, stable over versions.</summary>
    public required string Id { get; init; }
    /// <summary>What people call it.</summary>
    public required string Title { get; init; }
    /// <summary>The family (starting, charging …).</summary>
    public required string Family { get; init; }
    /// <summary>Vehicles it fits and how sure that is.</summary>
    public IReadOnlyList<Applicability> AppliesTo { get; init; } = [];
    /// <summary>Where the technician stands before the first operation.</summary>
    public required string StartPosition { get; init; }
    /// <summary>Places to work from.</summary>
    public required IReadOnlyList<Position> Positions { get; init; }
    /// <summary>Minutes between positions, in either direction.</summary>
    public required IReadOnlyList<Move> Moves { get; init; }
    /// <summary>Minutes for a change of position that <see cref="Moves"/> does not list.</summary>
    public required decimal DefaultMoveMinutes { get; init; }
    /// <summary>Minutes lost when the next tool differs from the last.</summary>
    public required decimal ToolChangeMinutes { get; init; }
    /// <summary>Labour rate in the shop's currency per hour.</summary>
    public required decimal LabourRatePerHour { get; init; }
    /// <summary>Everything that can be done on the way in.</summary>
    public required IReadOnlyList<Operation> Operations { get; init; }
    /// <summary>What is done on the way back only.</summary>
    public IReadOnlyList<RefitStep> RefitSteps { get; init; } = [];
    /// <summary>What can be aimed at.</summary>
    public required IReadOnlyList<Target> Targets { get; init; }
    /// <summary>The route a manual prints, operation ids; empty when there is none.</summary>
    public IReadOnlyList<string> PrintedRoute { get; init; } = [];
    /// <summary>Labour minutes somebody publishes for the whole, or null.</summary>
    public decimal? PublishedMinutes { get; init; }
    /// <summary>The kind of job in the trade's words ("Starter behind the exhaust"), or null.</summary>
    public string? Subject { get; init; }
    /// <summary>What this job is known to punish, and where it is taken care of.</summary>
    public IReadOnlyList<Lesson> Lessons { get; init; } = [];
    /// <summary>Which version is fitted: asked before anything is planned; null where all are alike.</summary>
    public Fitted? Fitted { get; init; }
    /// <summary>What must be set or learned again after something lost its power or its place.</summary>
    public IReadOnlyList<Restore> Restores { get; init; } = [];
    /// <summary>Where a failed check of the proof leads back to.</summary>
    public IReadOnlyList<Suspect> Suspects { get; init; } = [];
    /// <summary>What must be open on this vehicle for what the family's tests want off: an operation, or null when nothing is in the way.</summary>
    public IReadOnlyDictionary<string, string?> Reaches { get; init; } = new Dictionary<string, string?>();

    /// <summary>What it is learned from; null for a map that somebody drew.</summary>
    public LearnedFrom? Learned { get; init; }

    /// <summary>The operation with this id.</summary>
    /// <exception cref="KeyNotFoundException">No such operation.</exception>
    public Operation this[string id] => Operation(id) ?? throw new KeyNotFoundException($"No operation “{id}” in map “{Id}”.");

    /// <summary>The operation with this id, or null.</summary>
    public Operation? Operation(string id) => OperationsById.GetValueOrDefault(id);

    /// <summary>The refit step with this id, or null.</summary>
    public RefitStep? Step(string id) => StepsById.GetValueOrDefault(id);

    /// <summary>The target of a repair: the one that names it, else the first that names none, else the first.</summary>
    public Target TargetFor(string? repair) =>
        Targets.FirstOrDefault(t => repair is not null && t.Repairs.Contains(repair)) ?? Targets.FirstOrDefault(t => t.Repairs.Count == 0) ?? Targets[0];

    /// <summary>The operation that opens what a family's test wants off; null when this map knows none.</summary>
    public string? OpenerOf(string access) => Reaches.TryGetValue(access, out var operation) ? operation : Operation(access)?.Id;

    /// <summary>Minutes of a change of position; zero for staying.</summary>
    public decimal MoveMinutes(string from, string to) =>
        from == to ? 0m
        : Moves.FirstOrDefault(m => (m.From == from && m.To == to) || (m.From == to && m.To == from))?.Minutes ?? DefaultMoveMinutes;

    /// <summary>The title of a position.</summary>
    public string PositionTitle(string id) => Positions.First(p => p.Id == id).Title;

    // A map with faults may hold an id twice; the checks look before they tell, so the first one counts here.
    private Dictionary<string, Operation> OperationsById => field ??= Operations.DistinctBy(o => o.Id).ToDictionary(o => o.Id, StringComparer.Ordinal);

    private Dictionary<string, RefitStep> StepsById => field ??= RefitSteps.DistinctBy(s => s.Id).ToDictionary(s => s.Id, StringComparer.Ordinal);
}

/// <summary>A vehicle a map fits.</summary>
/// <param name="Model">Model name.</param>
/// <param name="Years">For example "2031-2036"; null for any.</param>
/// <param name="Version">What tells the version by sight; null for any.</param>
/// <param name="Certainty">"done", "looks-same" or "guessed".</param>
public sealed record Applicability(string Model, string? Years, string? Version, string Certainty)
{
    /// <summary>What to look at on a sister before the map is trusted, each in a few words.</summary>
    public IReadOnlyList<string> Look { get; init; } = [];
}

/// <summary>A place to work from.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Requires">States that must be provided before anybody works there.</param>
/// <param name="Kind">Where that is on any vehicle, so that jobs can be compared and what holds of such a place is asked for; null when it is none of <see cref="Kinds"/>.</param>
public sealed record Position(string Id, string Title, IReadOnlyList<string> Requires, string? Kind = null)
{
    /// <summary>Kinds that are known.</summary>
    public static IReadOnlyList<string> Kinds { get; } = ["bay", "screen", "cabin", "footwell", "door", "tail", "floor", "arch", "under", "bench"];

    /// <summary>Kinds of place where somebody lies or reaches under a raised vehicle: they require the state "vehicle-supported".</summary>
    public static IReadOnlyList<string> UnderneathKinds { get; } = ["arch", "under"];
}

/// <summary>What a job is known to punish.</summary>
/// <param name="Words">In one or two sentences.</param>
/// <param name="At">Operations or refit steps at which it is taken care of; empty when it concerns the whole way.</param>
public sealed record Lesson(string Words, IReadOnlyList<string> At);

/// <summary>A question by sight that decides which steps there are.</summary>
/// <param name="Question">What is asked.</param>
/// <param name="Choices">The versions.</param>
public sealed record Fitted(string Question, IReadOnlyList<FittedChoice> Choices);

/// <summary>A version that may be fitted.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Tell">How it is told by sight.</param>
/// <param name="Without">Operations that this version does not have.</param>
public sealed record FittedChoice(string Id, string Title, string Tell, IReadOnlyList<string> Without);

/// <summary>Something to set or learn again.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="What">What.</param>
/// <param name="How">How it is done.</param>
/// <param name="After">The state that was taken up, or the operation that was done, which made it necessary.</param>
public sealed record Restore(string Id, string What, string How, string After);

/// <summary>Where a failed check of the proof leads back to.</summary>
/// <param name="Check">The check's id.</param>
/// <param name="Step">The operation or refit step to look at again.</param>
/// <param name="Why">Why, one line.</param>
public sealed record Suspect(string Check, string Step, string Why);

/// <summary>A step that others do.</summary>
/// <param name="Who">Who.</param>
/// <param name="Price">What they take, in the shop's currency.</param>
/// <param name="Days">How long it is away or waited for.</param>
public sealed record Outsourced(string Who, decimal Price, decimal Days);

/// <summary>A change of position, in either direction.</summary>
public sealed record Move(string From, string To, decimal Minutes);

/// <summary>A three-point estimate in minutes, low ≤ likely ≤ high.</summary>
public sealed record Minutes(decimal Low, decimal Likely, decimal High)
{
    /// <summary>Mean of the estimate, (low + 4·likely + high) / 6 (the PERT mean).</summary>
    public decimal Mean => (Low + 4m * Likely + High) / 6m;

    /// <summary>Variance of the estimate, ((high − low) / 6)² (the PERT variance), minutes squared.</summary>
    public decimal Variance => (High - Low) / 6m * ((High - Low) / 6m);
}

/// <summary>What may break, how likely, and what that costs.</summary>
public sealed record Damage(decimal Chance, decimal Cost, string What);

/// <summary>A part or material used up by an operation.</summary>
public sealed record Consumable(string Part, decimal Quantity, decimal Price);

/// <summary>How an operation is undone on the way back.</summary>
/// <param name="Minutes">Its own estimate, or null for the operation's.</param>
/// <param name="While">What must still be open while it is closed; null for the operation's own needs.</param>
/// <param name="Gate">While it is unfinished, nothing behind it in the refit may be ticked.</param>
/// <param name="Title">The instruction on the way back; null for "Refit:" and the operation's title.</param>
public sealed record Closing(Minutes? Minutes, Needs? While, bool Gate, string? Title)
{
    /// <summary>Whether nobody has closed it yet: what must be open then is worked out from how it came off.</summary>
    public bool WorkedOut { get; init; }
}

/// <summary>Whether an operation is undone on the way back.</summary>
public enum OperationKind
{
    /// <summary>Done on the way in, undone on the way back.</summary>
    Open,
    /// <summary>Done on the way in only: inspect, clean, mark, test.</summary>
    Once,
}

/// <summary>What a pin marks.</summary>
public enum PinKind
{
    /// <summary>A screw, bolt or nut.</summary>
    Screw,
    /// <summary>A clip or push pin.</summary>
    Clip,
    /// <summary>A plug.</summary>
    Plug,
    /// <summary>The way a wire or hose runs: a line of points.</summary>
    Wire,
}

/// <summary>A place on a picture, in hundredths of its width and height.</summary>
public sealed record PinPoint(decimal X, decimal Y);

/// <summary>A mark on a picture.</summary>
/// <param name="Kind">What it marks.</param>
/// <param name="Points">One point; a wire has as many as were tapped.</param>
/// <param name="Label">A few words, or null.</param>
public sealed record Pin(PinKind Kind, IReadOnlyList<PinPoint> Points, string? Label);

/// <summary>A picture that goes with a step. The picture lies in the documents under its hash.</summary>
/// <param name="Sha256">Hash of its bytes, lower-case hex.</param>
/// <param name="Width">Pixels.</param>
/// <param name="Height">Pixels.</param>
/// <param name="Caption">What it shows, or null.</param>
/// <param name="Pins">Its marks.</param>
public sealed record StepPicture(string Sha256, int Width, int Height, string? Caption, IReadOnlyList<Pin> Pins)
{
    /// <inheritdoc/>
    public bool Equals(StepPicture? other) => other is not null && Sha256 == other.Sha256;

    /// <inheritdoc/>
    public override int GetHashCode() => Sha256.GetHashCode(StringComparison.Ordinal);
}

/// <summary>One thing to do on the way in.</summary>
public sealed record Operation
{
    /// <summary>Identifier, unique over operations and refit steps.</summary>
    public required string Id { get; init; }
    /// <summary>The instruction.</summary>
    public required string Title { get; init; }
    /// <summary>Why it is done, one line, or null.</summary>
    public string? Why { get; init; }
    /// <summary>Undone on the way back or not.</summary>
    public required OperationKind Kind { get; init; }
    /// <summary>Where it is done from.</summary>
    public required string Position { get; init; }
    /// <summary>Its estimate.</summary>
    public required Minutes Minutes { get; init; }
    /// <summary>Waiting (cool-down, cure) that is not labour, in minutes.</summary>
    public decimal WaitMinutes { get; init; }
    /// <summary>What must be open or done before it.</summary>
    public required Needs Needs { get; init; }
    /// <summary>Tools in the order they are taken up.</summary>
    public required IReadOnlyList<string> Tools { get; init; }
    /// <summary>For a tool, others that do as well.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<string>> OrTools { get; init; } = new Dictionary<string, IReadOnlyList<string>>();
    /// <summary>Pairs of hands it takes.</summary>
    public int Hands { get; init; } = 1;
    /// <summary>What holds the part.</summary>
    public IReadOnlyList<Fastener> Fasteners { get; init; } = [];
    /// <summary>Caution ids, words in the library.</summary>
    public IReadOnlyList<string> Cautions { get; init; } = [];
    /// <summary>States that hold while it is open.</summary>
    public IReadOnlyList<string> Provides { get; init; } = [];
    /// <summary>What may break.</summary>
    public required Damage Damage { get; init; }
    /// <summary>What is used up.</summary>
    public required IReadOnlyList<Consumable> Consumes { get; init; }
    /// <summary>How it is undone.</summary>
    public required Closing Close { get; init; }
    /// <summary>Where exactly, and how to get a hand there; null when the title says it.</summary>
    public string? Place { get; init; }
    /// <summary>Short words for the result once done ("Shield off"); null for the title.</summary>
    public string? Done { get; init; }
    /// <summary>Short words for the result once undone ("Shield on"); null for the title.</summary>
    public string? Undone { get; init; }
    /// <summary>Tools that stay in or under the vehicle while this is open and must come back.</summary>
    public IReadOnlyList<string> Leaves { get; init; } = [];
    /// <summary>How a hand or tool gets there; null when it is plain.</summary>
    public string? Reach { get; init; }
    /// <summary>The part's outline as a closed line, each corner from 0 to 100 both ways; empty when it is not drawn.</summary>
    public IReadOnlyList<Spot> Outline { get; init; } = [];
    /// <summary>What comes off besides fasteners and is counted like them.</summary>
    public IReadOnlyList<PieceOff> Off { get; init; } = [];
    /// <summary>Whether the vehicle must still have its power: to be done before the battery is isolated.</summary>
    public bool Live { get; init; }
    /// <summary>Whether the motor that this map is about does it: not possible when that one is dead.</summary>
    public bool ByMotor { get; init; }
    /// <summary>How it is done without power, or null.</summary>
    public string? Unpowered { get; init; }
    /// <summary>What must not be done here, each in a few words.</summary>
    public IReadOnlyList<string> Never { get; init; } = [];
    /// <summary>Who else does it, or null.</summary>
    public Outsourced? Outsourced { get; init; }
    /// <summary>Pictures taken at it in earlier jobs, oldest first.</summary>
    public IReadOnlyList<StepPicture> Pictures { get; init; } = [];

    /// <summary>Short words for the result once done.</summary>
    public string DoneWords => Done ?? Title;
    /// <summary>Short words for the result once undone.</summary>
    public string UndoneWords => Undone ?? "Back: " + Title;
    /// <summary>The instruction on the way back.</summary>
    public string CloseTitle => Close.Title ?? "Refit: " + Title;
    /// <summary>What must still be open while it is closed.</summary>
    public Needs CloseWhile => Close.While ?? Needs;
    /// <summary>The estimate of undoing it.</summary>
    public Minutes CloseMinutes => Close.Minutes ?? Minutes;
}

/// <summary>A plug, hose, lead, shield or cover that comes off and must be on again.</summary>
/// <param name="Kind">connector, hose, earth-lead, shield, cover, bracket, seal or stop.</param>
/// <param name="What">Which one.</param>
/// <param name="Count">How many.</param>
/// <param name="Try">What shows that it is on again ("Both headlamps light"): tried at the end; null when nothing does.</param>
/// <param name="Forgotten">What happens when it stays off, or null.</param>
public sealed record PieceOff(string Kind, string What, int Count, string? Try = null, string? Forgotten = null)
{
    /// <summary>Kinds that are allowed.</summary>
    public static IReadOnlyList<string> Kinds { get; } = ["connector", "hose", "earth-lead", "shield", "cover", "bracket", "seal", "stop"];
}

/// <summary>One thing done on the way back only: fill, bleed, grease, set, test.</summary>
public sealed record RefitStep
{
    /// <summary>Identifier, unique over operations and refit steps.</summary>
    public required string Id { get; init; }
    /// <summary>The instruction.</summary>
    public required string Title { get; init; }
    /// <summary>Why it is done, or null.</summary>
    public string? Why { get; init; }
    /// <summary>Where it is done from.</summary>
    public required string Position { get; init; }
    /// <summary>Its estimate.</summary>
    public required Minutes Minutes { get; init; }
    /// <summary>Waiting that is not labour, in minutes.</summary>
    public decimal WaitMinutes { get; init; }
    /// <summary>Tools in the order they are taken up.</summary>
    public required IReadOnlyList<string> Tools { get; init; }
    /// <summary>The operation whose presence in the job makes it apply; null for always.</summary>
    public string? AppliesIf { get; init; }
    /// <summary>Operations closed, or steps done, before it.</summary>
    public required IReadOnlyList<string> After { get; init; }
    /// <summary>Operations that stay open, or steps that wait, until it is done.</summary>
    public required IReadOnlyList<string> Before { get; init; }
    /// <summary>While it is unfinished, nothing behind it in the refit may be ticked.</summary>
    public required bool Gate { get; init; }
    /// <summary>Caution ids.</summary>
    public IReadOnlyList<string> Cautions { get; init; } = [];
    /// <summary>Where exactly; null when the title says it.</summary>
    public string? Place { get; init; }
    /// <summary>Short words for the result.</summary>
    public string? Done { get; init; }
    /// <summary>Ids of the family's proof checks that must be held before this can be ticked.</summary>
    public IReadOnlyList<string> Checks { get; init; } = [];

    /// <summary>The kind of setting (<see cref="Motion.SettingKinds"/>) that must hold before this can be ticked, or null.</summary>
    public string? Setting { get; init; }

    /// <summary>What must not be done here, each in a few words.</summary>
    public IReadOnlyList<string> Never { get; init; } = [];
    /// <summary>Who else does it, or null.</summary>
    public Outsourced? Outsourced { get; init; }

    /// <summary>Short words for the result.</summary>
    public string DoneWords => Done ?? Title;
}

/// <summary>Something to aim at.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Operation">The operation that reaches it.</param>
public sealed record Target(string Id, string Operation)
{
    /// <summary>Repairs of the family that are done there; empty: whatever no other target is for.</summary>
    public IReadOnlyList<string> Repairs { get; init; } = [];
}
