using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A tool that stayed in the vehicle was put back in its place.</summary>
public sealed record ToolBack(string Tool) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("tool-back", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Tool;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"back in its place: {job.ToolTitle(Tool)}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.ToolsLeft.All(t => t.Tool != Tool))
        {
            faults.Add("tool", $"“{Tool}” was not left in the vehicle");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<string, Recorded<ToolBack>> _toolsBack = new(StringComparer.Ordinal);

    /// <summary>Tools that were put back.</summary>
    public IReadOnlyDictionary<string, Recorded<ToolBack>> ToolsBack => _toolsBack;

    internal void Record(Entry entry, ToolBack p) => _toolsBack[p.Tool] = new(entry, p);
}
