using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Words kept with a step or the job.</summary>
/// <param name="Step">The step, or null.</param>
/// <param name="Text">The words.</param>
public sealed record NoteAdded(string? Step, string Text) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("note-added", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"note: {Text}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Step(job, Step, needed: false);
        faults.Text("text", Text, needed: true);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<NoteAdded>> _notes = [];

    /// <summary>Notes, oldest first.</summary>
    public IReadOnlyList<Recorded<NoteAdded>> Notes => _notes;

    internal void Record(Entry entry, NoteAdded p) => _notes.Add(new(entry, p));
}
