using Screeline.Core.Access;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The way in that is taken.</summary>
/// <param name="Map">SHA-256 (lower-case hex) of the map's text, so that the job keeps the version it was planned on.</param>
/// <param name="Target">The target's id.</param>
/// <param name="Removal">Operation ids in order.</param>
/// <param name="Refit">The planned way back: ids of operations to close and of refit steps, in order. Gates hold what stands behind them here.</param>
public sealed record RouteTaken(string Map, string Target, IReadOnlyList<string> Removal, IReadOnlyList<string> Refit) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("route-taken", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Apprentice, with: new Dictionary<string, Clash> { ["reading-taken"] = Clash.Never, ["fastener-found"] = Clash.Never });

    /// <inheritdoc/>
    public override string? NamesMap() => Map;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"way in taken, {Removal.Count} steps";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.KnownMap(Map) is not { } map)
        {
            faults.Add("map", "no map with this SHA-256 is kept here");
            return;
        }

        if (map.Targets.FirstOrDefault(t => t.Id == Target) is not { } target)
        {
            faults.Add("target", $"no target “{Target}”");
        }
        else if (Removal.Count == 0 || (Removal[^1] != target.Operation && !job.Removed.ContainsKey(target.Operation)))
        {
            faults.Add("removal", $"a way in ends with “{target.Operation}”");
        }

        // What is off already is off, however it came to be.
        var done = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (id, i) in Removal.Select((id, i) => (id, i)))
        {
            if (map.Operation(id) is not { } operation || done.Contains(id) || (!job.Removed.ContainsKey(id) && !WalkRules.MayRemove(operation, done)))
            {
                faults.Add($"removal[{i}]", map.Operation(id) is null ? $"no operation “{id}”" : $"“{id}” is not possible there");
            }

            done.Add(id);
        }

        if (!Jobs.Refit.Holds(map, Refit, new RefitProgress(done, new HashSet<string>(), new HashSet<string>())))
        {
            faults.Add("refit", "this is no valid way back from there");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.Decision is null ? "It is not decided yet what is repaired."
            : job.Decision.Payload.Act == DecisionAct.Elsewhere ? "The fault lies elsewhere: nothing comes apart."
            : job.Refitted.Count > 0 ? "The way back has begun: withdraw its steps first."
            : job.Things.Count > 0 && job.IsRecorded ? "What is recorded stays: go on recording."
            : job.Removed.Keys.FirstOrDefault(id => !Removal.Contains(id) && job.Things.All(t => t.Id != id)) is { } off ? $"“{off}” is off already and must stay part of the way."
            : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    internal void Record(Entry entry, RouteTaken p)
    {
        (_route, _baseMap, Recording) = (new(entry, p), KnownMap(p.Map), null);
        MapChanged();
        TakeOffWhatCameOff();
    }
}
