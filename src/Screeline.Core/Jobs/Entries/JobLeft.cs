using System.Text.Json.Serialization;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>How a job is left before it is finished.</summary>
public enum WayOut
{
    /// <summary>The customer does not want it done: too dear.</summary>
    Declined,
    /// <summary>Towed away or handed on to another shop.</summary>
    HandedOn,
    /// <summary>Sent out to somebody who does a part of it and sends it back.</summary>
    Sublet,
    /// <summary>Stopped and kept apart for days.</summary>
    Parked,
    /// <summary>The vehicle is not worth it and goes.</summary>
    Scrapped,
    /// <summary>The customer takes it as it is.</summary>
    AsItIs,
}

/// <summary>Words for ways out.</summary>
public static class WaysOut
{
    /// <summary>All of them.</summary>
    public static IReadOnlyList<WayOut> All { get; } = Enum.GetValues<WayOut>();

    /// <summary>A way out in a few words.</summary>
    public static string Title(this WayOut way) => way switch
    {
        WayOut.Declined => "Declined",
        WayOut.HandedOn => "Towed or handed on",
        WayOut.Sublet => "Sent out to somebody",
        WayOut.Parked => "Parked as it stands",
        WayOut.Scrapped => "Scrapped",
        _ => "Taken as it is",
    };

    /// <summary>Whether the vehicle is gone and the job leaves the yard; otherwise it waits there.</summary>
    public static bool Closes(this WayOut way) => way is not (WayOut.Sublet or WayOut.Parked);
}

/// <summary>The job is left before it is finished. What is apart and what lies loose follows from what was done.</summary>
/// <param name="How">How.</param>
/// <param name="Why">Why, or null when nobody said.</param>
/// <param name="Told">Who was told, or null when nobody was.</param>
/// <param name="Drivable">Whether it may be driven as it stands; null when that was not looked at.</param>
/// <param name="With">What goes with it and where the rest is kept, or null.</param>
/// <param name="Until">When it is expected to go on, or null.</param>
public sealed record JobLeft(
    WayOut How, string? Why, string? Told, bool? Drivable,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? With = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] DateTimeOffset? Until = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("job-left", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Technician, otherwise: "A technician or foreman answers for that.");

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{How.Title().ToLowerInvariant()}{(Why is null ? "" : $": {Why}")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("why", Why);
        faults.Text("told", Told, 200);
        faults.Text("with", With);
        faults.Time("until", Until);
        if (Drivable == true && job.NotDriven is [var first, ..])
        {
            faults.AddNow("drivable", $"not as it stands: {first}");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>How it was left before it was finished; null while it is worked on, and again once it is taken up.</summary>
    public Recorded<JobLeft>? Left { get; private set; }

    /// <summary>What is open on the vehicle now, by id, the first opened first.</summary>
    public IReadOnlyList<string> Open => Map is null ? [] : [.. _removed.Values.OrderBy(r => r.Entry.Position).Select(r => r.Payload.Step).Where(id => Map[id].Kind == Access.OperationKind.Open && !_refitted.ContainsKey(id))];

    /// <summary>Why the vehicle is not driven as it stands: structural joints that are open or were closed without their figure, and tools under it.</summary>
    public IReadOnlyList<string> NotDriven =>
    [
        .. Open.SelectMany(FastenersOf).Where(f => f.Structural).Select(f => $"{f.Holds} is open"),
        .. NotDrivenUntilChecked.Select(j => j.Words),
        .. Arrival?.Payload.Unsafe is { } words && !IsDone(Stage.Prove) ? new[] { words } : [],
    ];

    internal void Record(Entry entry, JobLeft p) => (Left, Waiting) = (new(entry, p), null);
}
