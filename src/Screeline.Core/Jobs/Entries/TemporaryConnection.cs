using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Something is plugged back for a moment, or taken off again.</summary>
/// <param name="What">The connection in words.</param>
/// <param name="Step">The operation that took it off, or null.</param>
/// <param name="On">Whether it is on now.</param>
public sealed record TemporaryConnection(string What, string? Step, bool On) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("temporary-connection", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => What;

    /// <inheritdoc/>
    public override string Describe(Job job) => On ? $"plugged back for a moment: {What}" : $"off again: {What}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("what", What, 200, needed: true);
        faults.Step(job, Step, needed: false);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<string, Recorded<TemporaryConnection>> _connections = new(StringComparer.Ordinal);

    /// <summary>Connections made for a moment, by what they connect; the latest word on each.</summary>
    public IReadOnlyCollection<Recorded<TemporaryConnection>> Connections => _connections.Values;

    internal void Record(Entry entry, TemporaryConnection p) => _connections[p.What] = new(entry, p);
}
