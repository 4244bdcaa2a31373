using Screeline.Core.Fastening;

namespace Screeline.Core.Jobs;

// What is kept at the vehicle besides ticks, readings and torques.
public sealed partial class Job
{
    private readonly List<Kept<ExtraFound>> _extras = [];
    private readonly List<Kept<StepException>> _troubles = [];
    private readonly Dictionary<string, Kept<TemporaryConnection>> _connections = new(StringComparer.Ordinal);
    private readonly Dictionary<(WorkPhase, string, string), int> _counted = [];
    private readonly List<(Entry Entry, TimerStarted Payload)> _timers = [];
    private readonly Dictionary<Guid, DateTimeOffset> _timersEnded = [];
    private readonly List<Kept<NoteAdded>> _notes = [];
    private readonly List<Kept<SettingKept>> _settings = [];
    private readonly List<Kept<PictureTaken>> _pictures = [];
    private readonly Dictionary<Guid, IReadOnlyList<Pin>> _pins = [];
    private readonly Dictionary<string, Kept<PartCompared>> _compared = new(StringComparer.Ordinal);
    // By the position of the entry that said it first.
    private readonly Dictionary<string, int> _carried = new(StringComparer.Ordinal);
    private readonly List<Kept<ToolLeft>> _toolsLeft = [];
    private readonly List<Kept<LeftOverFound>> _leftOvers = [];
    private readonly Dictionary<Guid, LeftOverSettled> _settled = [];
    // Who answered for which difference.
    private readonly Dictionary<string, Kept<DifferenceSigned>> _signed = new(StringComparer.Ordinal);
    // What was found in the openings that the count is of; what was found in an earlier one has gone back with it.
    private readonly List<(FastenerFound Found, WorkPhase During)> _foundInCount = [];

    /// <summary>Fasteners found that the map does not know.</summary>
    public IReadOnlyList<Kept<ExtraFound>> Extras => _extras;
    /// <summary>Steps that went otherwise.</summary>
    public IReadOnlyList<Kept<StepException>> Troubles => _troubles;
    /// <summary>Connections made for a moment, by what they connect; the latest word on each.</summary>
    public IReadOnlyCollection<Kept<TemporaryConnection>> Connections => _connections.Values;
    /// <summary>All timers, oldest first.</summary>
    public IReadOnlyList<WorkTimer> Timers => [.. _timers.Select(t => new WorkTimer(t.Entry, t.Payload, _timersEnded.TryGetValue(t.Entry.Id, out var at) ? at : null))];
    /// <summary>Notes, oldest first.</summary>
    public IReadOnlyList<Kept<NoteAdded>> Notes => _notes;
    /// <summary>Settings worked out, oldest first.</summary>
    public IReadOnlyList<Kept<SettingKept>> Settings => _settings;
    /// <summary>Pictures, oldest first, each with its pins or, when it shows a place again, with those of the first one.</summary>
    public IReadOnlyList<PinnedPicture> Pictures => [.. _pictures.Select(p => new PinnedPicture(p.Entry, p.Payload, _pins.GetValueOrDefault(p.Entry.Id) ?? (p.Payload.Over is { } over ? _pins.GetValueOrDefault(over) : null) ?? []))];
    /// <summary>Points at which old and new were compared.</summary>
    public IReadOnlyDictionary<string, Kept<PartCompared>> Compared => _compared;
    /// <summary>Pieces that went over to the new part.</summary>
    public IReadOnlyCollection<string> Carried => _carried.Keys;
    /// <summary>The part that is taken, or null.</summary>
    public Kept<PartChosen>? PartTaken { get; private set; }
    /// <summary>When the old core went back, or null.</summary>
    public Kept<CoreReturned>? OldCore { get; private set; }
    /// <summary>What lay on the bench in the end.</summary>
    public IReadOnlyList<LeftOver> LeftOvers => [.. _leftOvers.Select(l => new LeftOver(l, _settled.GetValueOrDefault(l.Entry.Id)))];
    /// <summary>Who answered for a difference and why; the latest.</summary>
    public Kept<DifferenceSigned>? Signed => _signed.Values.MaxBy(s => s.Entry.Position);

    /// <summary>What is known of the part that is exchanged, or null.</summary>
    public PartKnowledge? Part => _knowledge.Families.Part(Opened.Payload.Family, Opened.Payload.Model);

    /// <summary>Pieces that should have gone over to the new part; asked only once the old one is out.</summary>
    public IReadOnlyList<CarriedPiece> NotCarried => Decision?.Payload.Act == DecisionAct.Elsewhere || Route is null || (Decision?.Payload.RepairId is { } repair && System.Repair(repair) is { IsMotor: false }) ? [] : [.. (Part?.Carried ?? []).Where(p => !_carried.ContainsKey(p.Id))];

    /// <summary>The fasteners of an operation: those of the map and those found.</summary>
    public IReadOnlyList<Fastener> FastenersOf(string step) =>
        Map?.Operation(step) is not { } operation ? [] : _extras.Any(x => x.Payload.Step == step) ? [.. operation.Fasteners, .. _extras.Where(x => x.Payload.Step == step).Select(x => x.Payload.ToFastener())] : operation.Fasteners;

    /// <summary>How many of a group were counted so far in a direction; null while nobody counts.</summary>
    public int? Counted(WorkPhase phase, string step, string fastener) => _counted.TryGetValue((phase, step, fastener), out var count) ? count : null;

    /// <summary>The timer a step waits for at a moment, or null.</summary>
    public WorkTimer? Waits(string step, DateTimeOffset now) => Timers.LastOrDefault(t => t.Payload.Step == step && t.Runs(now));

    /// <summary>Waits whose step is not done yet and that nobody ended, the latest of each kind at a step; those whose time is over are among them.</summary>
    public IReadOnlyList<WorkTimer> OpenTimers =>
        [.. Timers.Where(t => t.EndedAt is null && !_removed.ContainsKey(t.Payload.Step) && !_refitted.ContainsKey(t.Payload.Step)).GroupBy(t => (t.Payload.Step, t.Payload.Kind)).Select(g => g.Last())];

    /// <summary>How many of a group were found in a state, since their step was last opened.</summary>
    public int FoundCount(string step, string fastener, FastenerState state) =>
        _foundInCount.Where(f => f.Found.Step == step && f.Found.Fastener == fastener && f.Found.Found == state).Sum(f => f.Found.Count);

    /// <summary>The latest setting kept of a kind at a step, or null.</summary>
    public Kept<SettingKept>? SettingAt(string? step, string kind) => _settings.LastOrDefault(s => s.Payload.Step == step && s.Payload.Setting == kind);

    /// <summary>Differences between what came off and what is accounted for; what only lies in the tray still is none before the way back is done.</summary>
    public IReadOnlyList<FastenerAccount> Differences => Count.Unaccounted;

    /// <summary>Whether somebody answered for a difference as it is now.</summary>
    public bool IsSigned(FastenerAccount difference) => _signed.ContainsKey(difference.Key);

    private void ApplyWork(Entry entry, Payload payload)
    {
        switch (payload)
        {
            case ExtraFound p when FastenersOf(p.Step).All(f => f.Id != p.Fastener): _extras.Add(new(entry, p)); break;
            case StepException p: _troubles.Add(new(entry, p)); break;
            case TemporaryConnection p: _connections[p.What] = new(entry, p); break;
            case FastenersCounted p: _counted[(p.Phase, p.Step, p.Fastener)] = p.Count; break;
            case TimerStarted p: _timers.Add((entry, p)); break;
            // Nobody shortens the wait of restraint parts, whoever says so.
            case TimerEnded p when _timers.Any(t => t.Entry.Id == p.Timer && t.Payload.Kind != TimerKind.Restraint): _timersEnded.TryAdd(p.Timer, entry.Draft.OccurredAt); break;
            case NoteAdded p: _notes.Add(new(entry, p)); break;
            case SettingKept p: _settings.Add(new(entry, p)); break;
            case PictureTaken p: _pictures.Add(new(entry, p)); break;
            case PinsSet p: _pins[p.Picture] = p.Pins; break;
            case PartCompared p: _compared[p.Point] = new(entry, p); break;
            case PartChosen p: PartTaken = new(entry, p); break;
            case PartCarried p: _carried.TryAdd(p.Piece, entry.Position); break;
            case CoreReturned p: OldCore = new(entry, p); break;
            case LeftOverFound p: _leftOvers.Add(new(entry, p)); break;
            case LeftOverSettled p: _settled[p.LeftOver] = p; break;
            case DifferenceSigned p: p.Covers.ToList().ForEach(key => _signed[key] = new(entry, p)); break;
        }
    }
}
