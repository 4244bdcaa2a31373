using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Which of the parts on offer is taken.</summary>
/// <param name="Offer">The offer's id.</param>
/// <param name="Title">The offer in words, with its price then.</param>
/// <param name="Price">Without the deposit, in the shop's currency.</param>
/// <param name="Deposit">On the old core; 0 for none.</param>
public sealed record PartChosen(string Offer, string Title, decimal Price, decimal Deposit) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("part-chosen", withItself: Clash.Always, withObservations: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"part taken: {Title}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("offer", Offer, 100, needed: true);
        faults.Text("title", Title, 300, needed: true);
        if (Price is < 0 or > 1_000_000 || Deposit is < 0 or > 1_000_000)
        {
            faults.Add("price", "0 to 1000000");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>The part that is taken, or null.</summary>
    public Recorded<PartChosen>? PartTaken { get; private set; }

    internal void Record(Entry entry, PartChosen p) => PartTaken = new(entry, p);
}
