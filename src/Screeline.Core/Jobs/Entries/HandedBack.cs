using System.Text.Json.Serialization;
using Screeline.Core.Diagnosis;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What killed a part, as somebody said it.</summary>
/// <param name="Cause">A root cause of the family, or <see cref="Unknown"/>.</param>
/// <param name="Done">What was done about it, or why it is not known; null when nobody said.</param>
public sealed record CauseSaid(string Cause, string? Done)
{
    /// <summary>Nobody knows.</summary>
    public const string Unknown = "unknown";

    /// <summary>The cause, and what was done about it.</summary>
    public string Words(Job job) => $"{job.System.RootCauses.FirstOrDefault(c => c.Id == Cause)?.Title ?? "not known"}{(Done is null ? "" : $". {Done}")}";

    internal void Validate(Job job, EntryFaults faults)
    {
        if (Cause != Unknown && job.System.RootCauses.All(c => c.Id != Cause))
        {
            faults.Add("cause.cause", $"one of: {string.Join(", ", job.System.RootCauses.Select(c => c.Id).Append(Unknown))}");
        }

        faults.Text("cause.done", Done);
    }
}

/// <summary>The vehicle went back to its owner.</summary>
/// <param name="Found">What was found.</param>
/// <param name="Left">What was found and left alone.</param>
/// <param name="Watch">What to watch.</param>
/// <param name="Cause">What killed the part; null where nobody said.</param>
/// <param name="Checks">The checks that were asked for and held then: what is asked for later does not undo it.</param>
/// <param name="RecordedThen">Whether it was told by a version that put in a remedy where nobody said one.</param>
public sealed record HandedBack(
    string Found, string? Left, string? Watch,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] CauseSaid? Cause = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<string>? Checks = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)] bool RecordedThen = false) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("handed-back", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Technician, otherwise: "A technician or foreman answers for that.", older: [older =>
    {
        older.TryAdd("recorded_then", true);
        return older;
    }]);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => "handed back";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("found", Found);
        faults.Text("left", Left);
        faults.Text("watch", Watch);
        var asked = job.Checks.Where(c => c.Moment == ProofMoment.End).Select(c => c.Id).ToList();
        if (Checks is null || asked.Any(id => !Checks.Contains(id)))
        {
            faults.AddNow("checks", $"every check that is asked for: {string.Join(", ", asked)}");
        }

        if (RecordedThen)
        {
            faults.AddNow("recorded_then", "is of entries before it was asked");
        }

        Cause?.Validate(job, faults);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at)
    {
        // Judged by what was asked for then.
        var asked = (Checks ?? [.. job.Checks.Where(c => c.Moment == ProofMoment.End && job.Proofs.ContainsKey(c.Id)).Select(c => c.Id)]).Select(job.Check).OfType<ProofCheck>();
        var missing = job.Missing(asked);
        return job.IsDone(Stage.Refit) && missing.Count == 0 ? null : $"Not proved yet. {string.Join(". ", missing.Take(3))}";
    }

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>How it ended, or null while it is open.</summary>
    public Recorded<HandedBack>? HandedBack { get; private set; }

    internal void Record(Entry entry, HandedBack p) => (HandedBack, Waiting, Cause) = (new(entry, p), null, p.Cause ?? Cause);
}
