using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>How a fastener was found.</summary>
public enum FastenerState
{
    /// <summary>Another size than the map says.</summary>
    OtherSize,
    /// <summary>Not there when the work began.</summary>
    Missing,
    /// <summary>Will not turn.</summary>
    Seized,
    /// <summary>Broke.</summary>
    Broken,
    /// <summary>Came out with its stud.</summary>
    StudOut,
    /// <summary>Somebody had put it into the wrong hole.</summary>
    WrongHole,
    /// <summary>Loose, but cannot be withdrawn: it stays in its hole.</summary>
    StaysInHole,
    /// <summary>Threaded the other way round than expected.</summary>
    OtherHand,
    /// <summary>Put back by hand where it belongs, so that it is not lost.</summary>
    OnStud,
}

/// <summary>Words for how a fastener was found.</summary>
public static class FastenerStates
{
    /// <summary>A state in words.</summary>
    public static string Title(this FastenerState state) => state switch
    {
        FastenerState.OtherSize => "Other size",
        FastenerState.Missing => "Missing on arrival",
        FastenerState.Seized => "Seized",
        FastenerState.StudOut => "Came out with its stud",
        FastenerState.WrongHole => "Was in the wrong hole",
        FastenerState.StaysInHole => "Stays in its hole",
        FastenerState.OnStud => "By hand on its stud",
        FastenerState.OtherHand => "Turns the other way",
        _ => "Broken",
    };
}

/// <summary>A fastener was found otherwise than expected; what is not recorded was as expected.</summary>
/// <param name="Step">The operation.</param>
/// <param name="Fastener">Its id within the operation.</param>
/// <param name="Found">How.</param>
/// <param name="Count">How many of the group.</param>
/// <param name="Size">The drive that fits, for another size.</param>
/// <param name="Note">In words, or null.</param>
public sealed record FastenerFound(string Step, string Fastener, FastenerState Found, int Count, string? Size, string? Note) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("fastener-found", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => $"{Step}/{Fastener}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{Found.Title()}: {job.HeldBy(Step, Fastener)}{(Size is null ? "" : $", {Size} fits")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        var fastener = job.FastenersOf(Step).FirstOrDefault(f => f.Id == Fastener);
        if (fastener is null)
        {
            faults.Add("fastener", $"“{Fastener}” is not in step “{Step}”");
        }
        else if (Count < 1 || Count > fastener.Count)
        {
            faults.Add("count", $"1 to {fastener.Count}");
        }

        faults.Text("size", Size, 40);
        faults.Text("note", Note);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);

    /// <summary>What it means for the work, one line; empty where it means nothing beyond itself.</summary>
    /// <param name="refit">Whether the way back is on.</param>
    public string Consequence(bool refit) => Found switch
    {
        FastenerState.Missing => refit ? "Fit a new one, or declare it missing." : "Nothing goes into the tray for it.",
        FastenerState.Broken => "A new one goes in; it is on the order list.",
        FastenerState.StudOut => refit ? "Stud first, with thread-locker, then its nut." : "Keep stud and nut together in the cell.",
        FastenerState.WrongHole => refit ? "Now into the right hole: compare the lengths." : "Mark it; it goes elsewhere on the way back.",
        FastenerState.StaysInHole or FastenerState.OnStud => "It is counted as there.",
        FastenerState.OtherHand => "It turns the other way than the map says.",
        _ => "",
    };
}

public sealed partial class Job
{
    private readonly List<Recorded<FastenerFound>> _found = [];
    // What was found in the openings that the count is of; what was found in an earlier one has gone back with it.
    private readonly List<(FastenerFound Found, WorkPhase During)> _foundInCount = [];

    /// <summary>Fasteners that were not as expected.</summary>
    public IReadOnlyList<Recorded<FastenerFound>> Found => _found;

    /// <summary>How many of a group were found in a state, since their step was last opened.</summary>
    public int FoundCount(string step, string fastener, FastenerState state) =>
        _foundInCount.Where(f => f.Found.Step == step && f.Found.Fastener == fastener && f.Found.Found == state).Sum(f => f.Found.Count);

    internal void Record(Entry entry, FastenerFound p)
    {
        _found.Add(new(entry, p));
        _foundInCount.Add((p, IsDone(Stage.TakeApart) ? WorkPhase.Refit : WorkPhase.Apart));
    }
}
