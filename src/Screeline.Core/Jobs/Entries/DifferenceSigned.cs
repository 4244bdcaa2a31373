using Screeline.Core.Fastening;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Somebody answers with their name for a count that does not balance.</summary>
/// <param name="Reason">Why it may go all the same.</param>
/// <param name="Covers">The differences it covers, each as "step/fastener:count"; one that arises later is not covered.</param>
public sealed record DifferenceSigned(string Reason, IReadOnlyList<string> Covers) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("difference-signed", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Technician, otherwise: "A technician or foreman answers for that.");

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"difference signed: {Reason}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("reason", Reason, 1000, needed: true);
        // Looked at when it is said and never again: a screw that is found later must not make the signature wrong.
        if (Covers.Count == 0 || Covers.Any(c => job.Differences.All(x => x.Key != c)))
        {
            faults.AddNow("covers", "the count has changed: look at it again before you sign");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    // Who answered for which difference.
    private readonly Dictionary<string, Recorded<DifferenceSigned>> _signed = new(StringComparer.Ordinal);

    /// <summary>Who answered for a difference and why; the latest.</summary>
    public Recorded<DifferenceSigned>? Signed => _signed.Values.MaxBy(s => s.Entry.Position);

    /// <summary>Whether somebody answered for a difference as it is now.</summary>
    public bool IsSigned(FastenerAccount difference) => _signed.ContainsKey(difference.Key);

    internal void Record(Entry entry, DifferenceSigned p) => p.Covers.ToList().ForEach(key => _signed[key] = new(entry, p));
}
