using System.Text.Json.Serialization;
using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Diagnosis;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The two directions of the work on the vehicle.</summary>
public enum WorkPhase
{
    /// <summary>On the way in.</summary>
    Apart,
    /// <summary>On the way back.</summary>
    Refit,
}

/// <summary>What became of a group of fasteners on the way back.</summary>
/// <param name="Fastener">Its id within the step.</param>
/// <param name="Back">How many of the old ones are in again.</param>
/// <param name="Renewed">How many new ones are in.</param>
/// <param name="Missing">How many are declared missing.</param>
public sealed record FastenerOutcome(string Fastener, int Back, int Renewed, int Missing);

/// <summary>A step was done: an operation on the way in, its closing, or a refit step.</summary>
/// <param name="Phase">Which direction.</param>
/// <param name="Step">Operation or refit step.</param>
/// <param name="Cell">The tray cell its fasteners went into; null when there are none.</param>
/// <param name="Fasteners">On the way back: what became of them.</param>
/// <param name="Together">Whether it was told in one go with others, after they were done.</param>
public sealed record StepDone(
    WorkPhase Phase, string Step, int? Cell, IReadOnlyList<FastenerOutcome> Fasteners,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)] bool Together = false) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("step-done", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => $"{(Phase == WorkPhase.Apart ? "apart" : "refit")}:{Step}";

    /// <inheritdoc/>
    public override string Describe(Job job) => Together ? $"{Words(job.Map)}, told together with others" : Words(job.Map);

    /// <inheritdoc/>
    public override string? NeedsSecondPerson(Job job) =>
        Phase == WorkPhase.Apart ? (IsSupport(job, Step) ? $"Supports: {job.Map![Step].Title}" : null)
            : job.Map is { } map && (map.Step(Step) is not null || map.Operation(Step) is not null) && WalkRules.IsGate(map, Step) ? $"Gate: {Refit.Title(map, Step)}"
            : null;

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        var operation = job.Map?.Operation(Step);
        if (operation is null && (Phase == WorkPhase.Apart || job.Map?.Step(Step) is null))
        {
            faults.Add("step", $"no step “{Step}”");
            return;
        }

        if (Cell is < 1 or > 999)
        {
            faults.Add("cell", "a cell from 1 to 999");
        }

        foreach (var (o, i) in Fasteners.Select((o, i) => (o, i)))
        {
            var count = job.FastenersOf(Step).FirstOrDefault(f => f.Id == o.Fastener)?.Count;
            if (count is null || Phase == WorkPhase.Apart || Fasteners.Count(x => x.Fastener == o.Fastener) > 1)
            {
                faults.Add($"fasteners[{i}].fastener", $"“{o.Fastener}” has no place here");
            }
            else if (o.Back < 0 || o.Renewed < 0 || o.Missing < 0 || o.Back + o.Renewed + o.Missing > count)
            {
                faults.Add($"fasteners[{i}]", $"{o.Back} back, {o.Renewed} renewed, {o.Missing} missing: there are {count}");
            }
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.Map is not null && job.Waits(Step, at) is { } wait ? $"Its wait runs until {wait.EndsAt:HH:mm}."
            : job.Map is not { } map || job.Route is null ? "No way in is chosen yet."
            : Phase == WorkPhase.Apart ? ApartOutOfOrder(job, map, at)
            : RefitOutOfOrder(job, map, at);

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);

    /// <summary>What a tick of this step says, in the map's words.</summary>
    /// <param name="map">The map; null when it is not known.</param>
    public string Words(AccessMap? map) =>
        map is null ? Step
        : map.Step(Step) is { } step ? step.DoneWords
        : map.Operation(Step) is { } operation ? (Phase == WorkPhase.Apart ? operation.DoneWords : operation.UndoneWords)
        : Step;

    private string? ApartOutOfOrder(Job job, AccessMap map, DateTimeOffset at) =>
        map.Operation(Step) is not { } operation || (!job.Set.Contains(Step) && job.Recording is null) ? $"“{Step}” does not belong to the way in."
            : job.Struck.ContainsKey(Step) ? "It was said that this is not there: take that back first."
        : operation is { WaitMinutes: > 0 } && operation.Cautions.Contains("restraint") && !job.Timers.Any(t => t.Payload.Step == Step && t.Payload.Kind == TimerKind.Restraint && !t.Runs(at)) ? "The maker's waiting time was not taken: start it."
        : job.Removed.TryGetValue(Step, out var before) ? $"Ticked already at {before.Entry.Draft.OccurredAt:HH:mm}."
        : Underneath(map, operation) && job.SecondsMissing.FirstOrDefault(x => x.What is StepDone done && IsSupport(job, done.Step)) is { } unseen ? $"Nobody goes under it before a second person has looked. {unseen.Why}."
        : job.Recording is not null && job.NotSafeYet(operation) is { } unsafeYet ? unsafeYet
        : job.Recording is not null && operation.Provides.Contains(AccessMapChecks.Isolated) && job.Expected.FirstOrDefault(o => o.Live && job.System.Frame.Find(o.Id) is { Moment: FrameMoment.First }) is { } live ? $"While there is power: {live.Title}. Do it, or say that it is not there."
        : WalkRules.MayRemove(operation, job.Removed.Keys.ToHashSet(StringComparer.Ordinal)) ? null
        : $"Before “{operation.Title}”: {Missing(map, operation, job)}.";

    private string? RefitOutOfOrder(Job job, AccessMap map, DateTimeOffset at)
    {
        if (job.Refitted.TryGetValue(Step, out var earlier))
        {
            return $"Ticked already at {earlier.Entry.Draft.OccurredAt:HH:mm}.";
        }

        if (!job.IsDone(Stage.TakeApart))
        {
            return "Not everything on the way in is ticked yet.";
        }

        var progress = job.RefitProgress;
        if (!WalkRules.RefitActions(map, progress.Set).Contains(Step))
        {
            return $"“{Step}” does not belong to the way back.";
        }

        if (!WalkRules.MayRefit(map, Step, progress))
        {
            return $"“{Refit.Title(map, Step)}” is not possible yet: something it needs open is closed, or a step comes before it.";
        }

        if (RecordedWay.First(job, Step, at) is { } first)
        {
            return $"Worked out from the record: first “{Refit.Title(map, first)}”. If it can go back now, draw it forward.";
        }

        if (Refit.GateBefore(job, Step) is { } gate)
        {
            return job.SecondMissingAt(gate) is { } unsigned ? $"The gate holds until a second person has signed. {unsigned.Why}." : $"Gate first: {Refit.Title(map, gate)}.";
        }

        if (WalkRules.IsGate(map, Step) && job.SecondsMissing.FirstOrDefault(x => x.What is TorqueSet) is { } loose)
        {
            return $"The gate holds until a second person has signed. {loose.Why}.";
        }

        var open = (map.Step(Step)?.Checks ?? []).Select(job.Check).OfType<ProofCheck>().Where(c => job.Held(c) != true).ToList();
        return open.Count > 0 ? $"The gate holds: {string.Join("; ", open.Select(c => c.Title))}."
            : map.Step(Step)?.Setting is { } setting && job.SettingAt(Step, setting) is var made && made?.Payload.Holds != true
                ? made is null ? "The gate holds: the setting is not kept yet." : $"The gate holds: {made.Payload.Words}."
            : null;
    }

    // Whether an operation puts the vehicle on its supports.
    private static bool IsSupport(Job job, string step) => job.Map?.Operation(step)?.Provides.Contains(AccessMapChecks.Supported) == true;

    private static bool Underneath(AccessMap map, Operation operation) => map.Positions.FirstOrDefault(p => p.Id == operation.Position)?.Requires.Contains(AccessMapChecks.Supported) == true;

    private static string Missing(AccessMap map, Operation operation, Job job) =>
        string.Join(", ", operation.Needs.Names.Where(id => job.Set.Contains(id) && !job.Removed.ContainsKey(id)).Select(id => map[id].Title).DefaultIfEmpty("what it needs"));
}

public sealed partial class Job
{
    private readonly Dictionary<string, Recorded<StepDone>> _removed = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Recorded<StepDone>> _refitted = new(StringComparer.Ordinal);

    /// <summary>Operations done on the way in, by id.</summary>
    public IReadOnlyDictionary<string, Recorded<StepDone>> Removed => _removed;
    /// <summary>Closings and refit steps done, by id.</summary>
    public IReadOnlyDictionary<string, Recorded<StepDone>> Refitted => _refitted;

    internal void Record(Entry entry, StepDone p)
    {
        if (Map?.Operation(p.Step) is null && Map?.Step(p.Step) is null)
        {
            return;
        }

        if ((p.Phase == WorkPhase.Apart ? _removed : _refitted).TryAdd(p.Step, new(entry, p)) && p.Phase == WorkPhase.Apart)
        {
            TakeGroups(entry, p);
            MapChanged();
            // A tool that was put back once is in the vehicle again.
            Map.Operation(p.Step)?.Leaves.ToList().ForEach(tool => _toolsBack.Remove(tool));
        }
        else if (p.Phase == WorkPhase.Refit)
        {
            OpenAgain = [];
        }
    }
}
