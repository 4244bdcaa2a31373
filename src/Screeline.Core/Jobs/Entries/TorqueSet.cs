using System.Text.Json.Serialization;
using Screeline.Core.Fastening;
using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>How a fastener was tightened.</summary>
public enum TorqueHow
{
    /// <summary>With a torque wrench that was set to the value.</summary>
    Wrench,
    /// <summary>By hand, without a figure.</summary>
    ByHand,
    /// <summary>Not tightened as it should be, for a reason that is told.</summary>
    NotDone,
    /// <summary>Told by a version that stored the figure specified without asking how it was done.</summary>
    RecordedThen,
}

/// <summary>How a fastener was tightened, as somebody said it.</summary>
/// <param name="Step">The operation it belongs to.</param>
/// <param name="Fastener">Its id within the operation.</param>
/// <param name="How">How.</param>
/// <param name="Value">The value set, in the unit it was set in; null where none was.</param>
/// <param name="Tool">The wrench, or null when nobody said.</param>
/// <param name="Setting">What was set on the wrench's own scale, when that is another figure; null otherwise.</param>
/// <param name="AngleDegrees">The further angle, or null.</param>
/// <param name="Why">Why it was not done; null otherwise.</param>
public sealed record TorqueSet(
    string Step, string Fastener, TorqueHow How, Figure? Value, string? Tool,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] Figure? Setting = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] decimal? AngleDegrees = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Why = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("torque-set", withItself: Clash.SameSubject, by: Role.Apprentice, older: [older =>
    {
        older.TryAdd("how", "recorded-then");
        return older;
    }]);

    /// <summary>Whether a figure was reached.</summary>
    [JsonIgnore]
    public bool HasFigure => How is TorqueHow.Wrench or TorqueHow.RecordedThen;

    /// <summary>How it was done, without what it holds.</summary>
    [JsonIgnore]
    public string Words => How switch
    {
        TorqueHow.Wrench => $"{Value} set",
        TorqueHow.ByHand => "by hand",
        TorqueHow.NotDone => $"not tightened to its figure ({Why})",
        _ => $"{Value}, as recorded then",
    };

    /// <inheritdoc/>
    public override string Subject() => $"{Step}/{Fastener}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{Words}: {job.HeldBy(Step, Fastener)}";

    /// <inheritdoc/>
    public override string? NeedsSecondPerson(Job job) => job.FastenersOf(Step).FirstOrDefault(f => f.Id == Fastener) is { Structural: true } f ? $"{Value?.ToString() ?? Words} on {f.Holds}" : null;

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.FastenersOf(Step).All(f => f.Id != Fastener))
        {
            faults.Add("fastener", $"“{Fastener}” is not in step “{Step}”");
        }

        if (How == TorqueHow.RecordedThen)
        {
            faults.AddNow("how", "wrench, by-hand or not-done: recorded-then is of entries before it was asked");
        }

        if (HasFigure ? Value is not { Kind: QuantityKind.Torque, Number: > 0 } : Value is not null)
        {
            faults.Add("value", HasFigure ? "a torque above nothing is wanted here" : "no figure: none was set");
        }

        if (How == TorqueHow.NotDone && (Why ?? "").Trim().Length < 3)
        {
            faults.Add("why", "why, in a few words");
        }

        faults.Text("why", Why, 500);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => job.Removed.ContainsKey(Step) ? null : $"“{Step}” was not opened.";

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

/// <summary>A structural joint that was closed and of which nobody said that it has its figure: the vehicle is not driven until it is checked.</summary>
/// <param name="Step">The operation.</param>
/// <param name="Fastener">The group.</param>
/// <param name="Told">What was said of its torque, or null when nothing was.</param>
/// <param name="Checked">Who looked afterwards and says that it is right, or null.</param>
public sealed record JointWithoutFigure(string Step, Fastener Fastener, TorqueSet? Told, Recorded<JointChecked>? Checked)
{
    /// <summary>It in words.</summary>
    public string Words => $"{Fastener.Holds}: {Told?.Words ?? "nobody said how it was tightened"}";
}

public sealed partial class Job
{
    private readonly List<Recorded<TorqueSet>> _torques = [];

    /// <summary>How fasteners were tightened; the latest of a fastener counts.</summary>
    public IReadOnlyList<Recorded<TorqueSet>> Torques => _torques;

    /// <summary>The latest that was said of how a group was tightened, or null.</summary>
    public Recorded<TorqueSet>? TorqueOf(string step, string fastener) => _torques.LastOrDefault(t => t.Payload.Step == step && t.Payload.Fastener == fastener);

    /// <summary>Structural joints that are closed and have no figure, those that were checked since among them.</summary>
    public IReadOnlyList<JointWithoutFigure> JointsWithoutFigure =>
    [
        .. from step in _refitted.Values.OrderBy(r => r.Entry.Position).Select(r => r.Payload.Step)
           from fastener in FastenersOf(step)
           where fastener.Structural
           let told = TorqueOf(step, fastener.Id)?.Payload
           where told is not { HasFigure: true } || (fastener.Torque is null && IsOfRecord(step, fastener.Id))
           select new JointWithoutFigure(step, fastener, told, _jointsChecked.GetValueOrDefault((step, fastener.Id))),
    ];

    // Recorded, and nobody gave the maker's figure: what was set instead is no figure for a joint that somebody's safety hangs on.
    private bool IsOfRecord(string step, string fastener) => IsRecorded || _things.Any(t => t.Id == step) || _figures.ContainsKey((step, fastener));

    /// <summary>Those of them because of which the vehicle is not driven.</summary>
    public IReadOnlyList<JointWithoutFigure> NotDrivenUntilChecked => [.. JointsWithoutFigure.Where(j => j.Checked is null)];

    internal void Record(Entry entry, TorqueSet p) => _torques.Add(new(entry, p));
}
