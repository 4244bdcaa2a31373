using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The work is recorded as it goes: there is no map of this vehicle, or none that is followed.</summary>
/// <param name="Map">SHA-256 of a map that is expected, or null.</param>
/// <param name="Sizes">Whether its fasteners and tools are expected too, as of a sister's map; else only what comes off.</param>
/// <param name="Lines">What a printed procedure says, a line each; expected in their order.</param>
public sealed record RecordingBegun(string? Map, bool Sizes, IReadOnlyList<string> Lines) : Payload
{
    /// <summary>Most lines of a printed procedure.</summary>
    public const int MostLines = 200;

    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("recording-begun", withItself: Clash.Always, withObservations: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string? NamesMap() => Map;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => Lines.Count > 0 ? $"recorded as it goes, {Lines.Count} lines expected"
        : Map is not null && job.KnownMap(Map) is { } map ? $"recorded as it goes, expected: {map.Subject ?? map.Title}" : "recorded as it goes";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (Map is not null && job.KnownMap(Map) is null)
        {
            faults.Add("map", "no map with this SHA-256 is kept here");
        }

        if (Lines.Count > MostLines)
        {
            faults.Add("lines", $"{Lines.Count} lines: at most {MostLines}");
        }

        for (var i = 0; i < Math.Min(Lines.Count, MostLines); i++)
        {
            faults.Text($"lines[{i}]", Lines[i], 300, needed: true);
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.Decision is null ? "It is not decided yet what is repaired."
            : job.Decision.Payload.Act == DecisionAct.Elsewhere ? "The fault lies elsewhere: nothing comes apart."
            : job.Refitted.Count > 0 ? "The way back has begun: withdraw its steps first."
            : job.Recording is null && job.Removed.Values.Any(r => r.Entry.Payload is StepDone) ? "The way in by the map has begun: tell what it does not know at its step."
            : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>Since when the work is recorded as it goes; null for a job that follows a map, or before the way in is chosen.</summary>
    public Recorded<RecordingBegun>? Recording { get; private set; }

    /// <summary>How much wider the minutes of an expected map are: those of a sister, and of a kind of job seen on other vehicles.</summary>
    public const decimal SisterWider = 1.5m, CardWider = 2.5m;

    internal void Record(Entry entry, RecordingBegun p)
    {
        (Recording, _route) = (new(entry, p), null);
        var expected = p.Map is { } hash && KnownMap(hash) is { } map ? RecordedMap.Expected(map, p.Sizes, p.Sizes ? SisterWider : CardWider) : null;
        // What was off when it came, by a map or in words, was off.
        List<Operation> came = [.. (Arrival?.Payload.Off ?? []).Select(id => _baseMap?.Operation(id)).OfType<Operation>()
            .Select(o => o with { Position = _baseMap!.Positions.FirstOrDefault(x => x.Id == o.Position)?.Kind ?? "bay", Needs = Needs.Nothing, Close = new Closing(o.Close.Minutes, null, false, o.Close.Title) })];
        came.AddRange((Arrival?.Payload.Loose ?? []).Select((words, i) => Line($"came-{i + 1}", words)));
        var lines = p.Lines.Select((words, i) => Line($"line-{i + 1}", words)).ToList();
        _baseMap = RecordedMap.Of(System.Id, [.. came, .. (expected?.Operations ?? []).Where(o => came.All(c => c.Id != o.Id)), .. lines], expected);
        foreach (var o in came)
        {
            _removed.TryAdd(o.Id, new(Arrival!.Entry, new StepDone(WorkPhase.Apart, o.Id, null, [])));
        }

        MapChanged();
    }

    private Operation Line(string id, string words) =>
        new RecordedThing(id, null, words, "bay", [], false, [], null, Words.In(words, System.Id), []).ToOperation() with { Title = words, Done = words, Undone = null, Close = new Closing(null, null, false, null) };
}
