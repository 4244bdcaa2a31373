using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>
/// All that stands before it was told by a file. Written by whoever takes the file in, right behind its last entry, so that the job says for ever who
/// brought it and from where.
/// </summary>
/// <param name="File">The file's name, as whoever brought it called it.</param>
/// <param name="Sha256">Of the file, lower-case hex.</param>
/// <param name="Head">The head the file gave, lower-case hex.</param>
public sealed record JobImported(string File, string Sha256, string Head) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("job-imported", withItself: Clash.Always, withObservations: Clash.Never, by: Role.Technician, otherwise: "A technician or foreman takes jobs in.");

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"taken in from a file: {File}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("file", File, 300, needed: true);
        foreach (var (path, hex) in new[] { ("sha256", Sha256), ("head", Head) })
        {
            if (hex.Length != 64 || hex.Any(c => !char.IsAsciiHexDigitLower(c)))
            {
                faults.Add(path, "64 digits of lower-case hex");
            }
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>How it was taken in from a file, the latest time; null when it was told here from the beginning.</summary>
    public Recorded<JobImported>? Imported { get; private set; }

    /// <summary>Whether an entry was told by a file, not here.</summary>
    public bool IsToldByFile(Entry entry) => Imported is { } imported && entry.Position < imported.Entry.Position;

    // What somebody is said to have answered for elsewhere is answered for again before this job goes on here.
    internal void Record(Entry entry, JobImported p)
    {
        Imported = new(entry, p);
        if (HandedBack is null)
        {
            _seconds.Clear();
            _signed.Clear();
        }
    }
}
