using System.Text.Json.Serialization;
using Screeline.Core.Access;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The vehicle came apart or altered: what was off, missing or wrong before anybody here touched it.</summary>
/// <param name="Map">SHA-256 of the map whose operations are named; null when there is none.</param>
/// <param name="Off">Operations of that map that were open already, in the order in which they can be opened.</param>
/// <param name="Loose">What was off besides, in words, a line each.</param>
/// <param name="Missing">What was missing, in words, a line each.</param>
/// <param name="Altered">What was not as the maker built it, in words, a line each.</param>
/// <param name="Unsafe">Why it must not be driven as it came; null when nobody said so.</param>
public sealed record ArrivalNoted(
    string? Map, IReadOnlyList<string> Off, IReadOnlyList<string> Loose, IReadOnlyList<string> Missing, IReadOnlyList<string> Altered,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Unsafe = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("arrival-noted", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string? NamesMap() => Map;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => Words(job) is { Count: > 0 } words ? $"as it came: {string.Join("; ", words)}" : "as it came: whole";

    /// <summary>Everything in words, a line each.</summary>
    public IReadOnlyList<string> Words(Job job) =>
    [
        .. Off.Select(id => (Map is null ? null : job.KnownMap(Map)?.Operation(id))?.DoneWords ?? id),
        .. Loose.Select(x => $"off: {x}"), .. Missing.Select(x => $"missing: {x}"), .. Altered.Select(x => $"altered: {x}"),
        .. Unsafe is { } words ? new[] { $"not driven as it came: {words}" } : [],
    ];

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        var map = Map is null ? null : job.KnownMap(Map);
        if (Map is not null && map is null)
        {
            faults.Add("map", "no map with this SHA-256 is kept here");
            return;
        }

        for (var i = 0; i < Off.Count; i++)
        {
            if (map?.Operation(Off[i]) is not { Kind: OperationKind.Open } || Off.Take(i).Contains(Off[i]))
            {
                faults.Add($"off[{i}]", $"“{Off[i]}” is nothing that can be off");
            }
        }

        foreach (var (path, lines) in new[] { ("loose", Loose), ("missing", Missing), ("altered", Altered) })
        {
            if (lines.Count > 100)
            {
                faults.Add(path, "at most 100 lines");
            }

            for (var i = 0; i < lines.Count; i++)
            {
                faults.Text($"{path}[{i}]", lines[i], 200, needed: true);
                if (path != "missing" && Missing.Contains(lines[i], StringComparer.OrdinalIgnoreCase))
                {
                    faults.Add($"{path}[{i}]", $"“{lines[i]}” is told to be missing too: which is it?");
                }
            }
        }

        faults.Text("unsafe", Unsafe, 500);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.Route is not null || job.Removed.Values.Any(r => r.Entry.Payload is StepDone) ? "The work has begun: what is found now is told at its step." : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>How the vehicle came, or null when nobody said.</summary>
    public Recorded<ArrivalNoted>? Arrival { get; private set; }

    internal void Record(Entry entry, ArrivalNoted p)
    {
        // Said again before the work began: the later word stands.
        _removed.Where(r => r.Value.Entry.Payload is ArrivalNoted).Select(r => r.Key).ToList().ForEach(id => _removed.Remove(id));
        Arrival = new(entry, p);
        if (Route is null && _removed.Count == 0)
        {
            _baseMap = p is { Map: { } map, Off.Count: > 0 } ? KnownMap(map) : null;
            MapChanged();
        }

        TakeOffWhatCameOff();
    }

    // What was off when it came is off, as if it had been ticked; nobody ticked it, and its entry says so.
    private void TakeOffWhatCameOff()
    {
        foreach (var id in Arrival?.Payload.Off ?? [])
        {
            if (Map?.Operation(id) is { Kind: OperationKind.Open } && !_refitted.ContainsKey(id))
            {
                _removed.TryAdd(id, new(Arrival!.Entry, new StepDone(WorkPhase.Apart, id, null, [])));
            }
        }
    }
}
