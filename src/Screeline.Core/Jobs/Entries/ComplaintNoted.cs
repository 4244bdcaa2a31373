using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The complaint turned into observed behaviour.</summary>
/// <param name="Words">The customer's words.</param>
/// <param name="Behaviours">Ids of observed behaviours.</param>
/// <param name="When">Hot, cold, always, now and then, since when; in words.</param>
/// <param name="Tried">How often it was tried.</param>
/// <param name="Failed">How often it failed.</param>
/// <param name="Lately">What was done to the vehicle lately; null when nothing.</param>
public sealed record ComplaintNoted(string Words, IReadOnlyList<string> Behaviours, string When, int Tried, int Failed, string? Lately) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("complaint-noted", withItself: Clash.Always, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"observed: {string.Join(", ", Behaviours.Select(b => job.System.Behaviours.FirstOrDefault(x => x.Id == b)?.Title ?? b))}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("words", Words);
        faults.Text("when", When);
        faults.Text("lately", Lately);
        if (Behaviours.Count == 0)
        {
            faults.Add("behaviours", "at least one observed behaviour");
        }

        foreach (var (id, i) in Behaviours.Select((id, i) => (id, i)).Where(x => job.System.Behaviours.All(b => b.Id != x.id)))
        {
            faults.Add($"behaviours[{i}]", $"“{id}” is not known in {job.System.Title}");
        }

        if (Tried is < 0 or > 1000 || Failed < 0 || Failed > Tried)
        {
            faults.Add("failed", $"failed {Failed} of {Tried} tries cannot be");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>The complaint as observed, or null.</summary>
    public Recorded<ComplaintNoted>? Complaint { get; private set; }

    internal void Record(Entry entry, ComplaintNoted p) => Complaint = new(entry, p);
}
