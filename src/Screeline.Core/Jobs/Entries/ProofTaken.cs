using System.Text.Json.Serialization;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Core.Proof;

namespace Screeline.Core.Jobs;

/// <summary>A check of the proof was taken.</summary>
/// <param name="Check">The check.</param>
/// <param name="Value">The number, or null.</param>
/// <param name="Choice">The answer, or null.</param>
/// <param name="Celsius">The temperature at the vehicle, °C, −40 to 60; null where nobody said.</param>
public sealed record ProofTaken(string Check, Figure? Value, string? Choice, [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] double? Celsius = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("proof-taken", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Check;

    /// <inheritdoc/>
    public override string Describe(Job job) => job.Check(Check) is { } check ? $"{check.Title}: {ProofSheet.AnswerWords(check, Value, Choice)}" : Check;

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Answer(job, job.Check(Check), "check", Check, Value, Choice);
        faults.Temperature(Celsius);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<string, Recorded<ProofTaken>> _proofs = new(StringComparer.Ordinal);

    /// <summary>Proof checks taken, the latest by check.</summary>
    public IReadOnlyDictionary<string, Recorded<ProofTaken>> Proofs => _proofs;

    internal void Record(Entry entry, ProofTaken p) => _proofs[p.Check] = new(entry, p);
}
