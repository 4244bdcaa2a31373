using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A tool that stays in or on the vehicle: a locking pin, a wedge, a latched bonnet switch.</summary>
/// <param name="Tool">Its id, or what it is called.</param>
/// <param name="Where">Where it sits.</param>
/// <param name="Step">The step, or null.</param>
public sealed record ToolLeft(string Tool, string? Where, string? Step) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("tool-left", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Tool;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"stays in the vehicle: {job.ToolTitle(Tool)}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("tool", Tool, 100, needed: true);
        faults.Text("where", Where, 300);
        faults.Step(job, Step, needed: false);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<ToolLeft>> _toolsLeft = [];

    /// <summary>Tools that stay in or under the vehicle while something is open, with the operation that left them.</summary>
    public IReadOnlyList<(string Tool, string Operation)> ToolsLeft =>
        [.. Map is null ? [] : _removed.Keys.SelectMany(id => Map[id].Leaves.Select(tool => (tool, id))), .. _toolsLeft.Select(t => (t.Payload.Tool, t.Payload.Step ?? ""))];

    /// <summary>What people call a tool.</summary>
    public string ToolTitle(string tool) => _knowledge.Families.ToolTitle(tool);

    internal void Record(Entry entry, ToolLeft p)
    {
        _toolsLeft.Add(new(entry, p));
        _toolsBack.Remove(p.Tool);
    }
}
