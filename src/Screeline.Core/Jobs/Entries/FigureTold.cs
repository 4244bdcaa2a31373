using System.Text.Json.Serialization;
using Screeline.Core.Fastening;
using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>Where the torque of a group comes from of which no map tells one.</summary>
public enum FigureFrom
{
    /// <summary>The maker's figure was looked up.</summary>
    Maker,
    /// <summary>It is worked out from thread, class and joint.</summary>
    Worked,
    /// <summary>It is tightened by hand.</summary>
    Hand,
}

/// <summary>The answer to what a group of fasteners is tightened to, where no map tells it; what was done is told apart from it.</summary>
/// <param name="Step">The step.</param>
/// <param name="Fastener">The group.</param>
/// <param name="From">Where the figure comes from.</param>
/// <param name="Value">The maker's figure; null otherwise.</param>
/// <param name="Source">Who says so; null otherwise.</param>
/// <param name="Thread">The thread, or null.</param>
/// <param name="Strength">The bolt's class, for example "8.8", or null.</param>
/// <param name="Joint">What it is screwed into; null when nobody said.</param>
/// <param name="Structural">Whether somebody is hurt when the joint fails; null when nobody was asked.</param>
public sealed record FigureTold(
    string Step, string Fastener, FigureFrom From, Figure? Value, string? Source,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Thread = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Strength = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] Joint? Joint = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] bool? Structural = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("figure-told", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => $"{Step}/{Fastener}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{job.HeldBy(Step, Fastener)}: {From switch { FigureFrom.Maker => $"{Value}, {Source}", FigureFrom.Worked => "worked out", _ => "by hand" }}{(Structural == true ? ", structural" : "")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.FastenersOf(Step).All(f => f.Id != Fastener))
        {
            faults.Add("fastener", $"“{Fastener}” is not in step “{Step}”");
        }

        if (From == FigureFrom.Maker ? Value is not { Kind: QuantityKind.Torque, Number: > 0 } : Value is not null)
        {
            faults.Add("value", From == FigureFrom.Maker ? "a torque above nothing is wanted here" : "no figure: only the maker's is told");
        }

        if (From == FigureFrom.Maker && string.IsNullOrWhiteSpace(Source))
        {
            faults.Add("source", "who says so: the maker's manual, a label, a letter");
        }

        if (Thread is not null && MetricThread.Read(Thread).Reason is { } reason)
        {
            faults.Add("thread", reason);
        }

        if (From == FigureFrom.Worked && Thread is null && job.FastenersOf(Step).FirstOrDefault(f => f.Id == Fastener)?.Thread is null)
        {
            faults.Add("thread", "which thread? For example M8");
        }

        if (Strength is not null && StrengthClass.Parse(Strength) is null)
        {
            faults.Add("strength", $"“{Strength}” is no class known here, such as 8.8");
        }

        if (Joint is { } joint && !Enum.IsDefined(joint))
        {
            faults.Add("joint", "steel, light-alloy, copper-stud, self-tapper or plastic");
        }

        faults.Text("source", Source, 200);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);

    /// <summary>The group with what was told of it.</summary>
    internal Fastener On(Fastener f) => f with
    {
        Torque = From == FigureFrom.Maker && Value is { } value ? new TorqueSpecification(value, Source ?? "", null, null) : f.Torque,
        Thread = Thread ?? f.Thread, Strength = Strength ?? f.Strength, Joint = Joint ?? f.Joint, Structural = Structural ?? f.Structural,
    };
}

public sealed partial class Job
{
    private readonly Dictionary<(string Step, string Fastener), Recorded<FigureTold>> _figures = [];

    /// <summary>What was told of a group's torque where no map tells one, or null.</summary>
    public Recorded<FigureTold>? FigureOf(string step, string fastener) => _figures.GetValueOrDefault((step, fastener));

    internal void Record(Entry entry, FigureTold p) => _figures[(p.Step, p.Fastener)] = new(entry, p);
}
