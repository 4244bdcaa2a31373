using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Somebody who may answer for it has checked a structural joint that was closed without its figure.</summary>
/// <param name="Step">The operation it belongs to.</param>
/// <param name="Fastener">Its id within the operation.</param>
/// <param name="How">How it was checked, in words.</param>
public sealed record JointChecked(string Step, string Fastener, string How) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("joint-checked", withItself: Clash.SameSubject, withObservations: Clash.Never, by: Role.Technician, otherwise: "A technician or foreman answers for a structural joint.");

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => $"{Step}/{Fastener}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"checked: {job.HeldBy(Step, Fastener)}, {How}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.FastenersOf(Step).All(f => f.Id != Fastener))
        {
            faults.Add("fastener", $"“{Fastener}” is not in step “{Step}”");
        }

        faults.Text("how", How, 500, needed: true);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.JointsWithoutFigure.Any(j => j.Step == Step && j.Fastener.Id == Fastener) ? null : "That joint is not one that waits to be checked.";

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<(string, string), Recorded<JointChecked>> _jointsChecked = [];

    internal void Record(Entry entry, JointChecked p) => _jointsChecked[(p.Step, p.Fastener)] = new(entry, p);
}
