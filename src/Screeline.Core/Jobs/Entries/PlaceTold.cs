using Screeline.Core.Diagnosis;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Where somebody who tests is no longer, and whether there is anybody to help.</summary>
/// <param name="Out">Whether they came out: the place, the helper and what the readings needed open count no longer.</param>
/// <param name="Alone">Whether there is nobody to call from now on.</param>
public sealed record PlaceTold(bool Out, bool Alone) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("place-told", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{(Out ? "came out; " : "")}{(Alone ? "alone" : "somebody can help")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        // Nothing in it can be wrong.
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private int _readingsBeforeOut;
    private bool _alone;

    /// <summary>Where whoever tests is, and with whom: as at the last reading, until they came out.</summary>
    public Whereabouts Whereabouts
    {
        get
        {
            var here = ReadingsHere;
            return here.Aggregate(new Whereabouts(null, false, _alone), (at, test) => at.After(test)) with { IsAlone = _alone };
        }
    }

    /// <summary>What readings needed open since whoever tests came out last, by id: it is still open.</summary>
    public IReadOnlySet<string> OpenedForReadings
    {
        get
        {
            var open = new HashSet<string>(StringComparer.Ordinal);
            foreach (var test in ReadingsHere)
            {
                open.UnionWith(TestAccess.Wanted(System, test, open));
            }

            return open;
        }
    }

    private IEnumerable<FaultTest> ReadingsHere => _readings.Skip(_readingsBeforeOut).Select(r => System.Test(r.Payload.Test)!);

    internal void Record(Entry entry, PlaceTold p) => (_readingsBeforeOut, _alone) = (p.Out ? _readings.Count : _readingsBeforeOut, p.Alone);
}
