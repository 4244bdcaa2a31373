using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A second person has looked at it and answers for it too.</summary>
/// <param name="Entry">The entry that waited.</param>
public sealed record SecondSigned(Guid Entry) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("second-signed", withItself: Clash.SameSubject, withObservations: Clash.Never, by: Role.Technician, otherwise: "The second person is a technician or foreman.", with: new Dictionary<string, Clash> { ["entry-withdrawn"] = Clash.SameSubject, ["entry-corrected"] = Clash.SameSubject });

    /// <inheritdoc/>
    public override string Subject() => Entry.ToString();

    /// <inheritdoc/>
    public override string Describe(Job job) => $"second person for: {job.DescribeEntry(Entry)}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<Guid, Recorded<SecondSigned>> _seconds = [];

    internal void Record(Entry entry, SecondSigned p)
    {
        // One that does not hold stands as disputed and signs nothing.
        if (RefusedSecond(entry, p) is { } refused)
        {
            _disputes.RemoveAll(d => d.Entry.Id == entry.Id);
            _disputes.Add(new Dispute(entry, refused));
            return;
        }

        _seconds[p.Entry] = new(entry, p);
    }

    // Why a signature does not hold; null when it does.
    private string? RefusedSecond(Entry entry, SecondSigned p) =>
        Seconds.FirstOrDefault(s => s.Tick.Id == p.Entry) is not { } look ? "Nobody waits for a second person there."
        : look.Tick.Draft.Actor == entry.Draft.Actor ? "The second person is somebody else."
        : look.Signed is not null ? "A second person has signed already."
        : null;
}
