using System.Text.Json.Serialization;
using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>A fastener was tightened.</summary>
/// <param name="Step">The operation it belongs to.</param>
/// <param name="Fastener">Its id within the operation.</param>
/// <param name="Value">The value set, in the unit it was set in.</param>
/// <param name="Tool">The wrench, or null.</param>
/// <param name="Setting">What was set on the wrench's own scale, when that is another figure; null otherwise.</param>
/// <param name="AngleDegrees">The further angle, or null.</param>
public sealed record TorqueSet(
    string Step, string Fastener, Figure Value, string? Tool,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] Figure? Setting = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] decimal? AngleDegrees = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("torque-set", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => $"{Step}/{Fastener}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{Value} set: {job.HeldBy(Step, Fastener)}";

    /// <inheritdoc/>
    public override string? NeedsSecondPerson(Job job) => job.FastenersOf(Step).FirstOrDefault(f => f.Id == Fastener) is { Structural: true } f ? $"{Value} on {f.Holds}" : null;

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.FastenersOf(Step).All(f => f.Id != Fastener))
        {
            faults.Add("fastener", $"“{Fastener}” is not in step “{Step}”");
        }

        if (Value.Kind != QuantityKind.Torque || Value.Number <= 0)
        {
            faults.Add("value", "a torque above nothing is wanted here");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => job.Removed.ContainsKey(Step) ? null : $"“{Step}” was not opened.";

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<TorqueSet>> _torques = [];

    /// <summary>Torques that were set; the latest of a fastener counts.</summary>
    public IReadOnlyList<Recorded<TorqueSet>> Torques => _torques;

    internal void Record(Entry entry, TorqueSet p) => _torques.Add(new(entry, p));
}
