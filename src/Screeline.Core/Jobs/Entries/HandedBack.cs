using System.Text.Json.Serialization;
using Screeline.Core.Diagnosis;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What killed a part, as said at the end.</summary>
/// <param name="Cause">A root cause of the family, or <see cref="Unknown"/>.</param>
/// <param name="Done">What was done about it; for an unknown one, why it is not known.</param>
public sealed record CauseSaid(string Cause, string Done)
{
    /// <summary>Nobody knows.</summary>
    public const string Unknown = "unknown";
}

/// <summary>The vehicle went back to its owner.</summary>
/// <param name="Found">What was found.</param>
/// <param name="Left">What was found and left alone.</param>
/// <param name="Watch">What to watch.</param>
/// <param name="Cause">What killed the part and what was done about it; null where nothing was repaired.</param>
/// <param name="Checks">The checks that were asked for and held then: what is asked for later does not undo it.</param>
public sealed record HandedBack(
    string Found, string? Left, string? Watch,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] CauseSaid? Cause = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<string>? Checks = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("handed-back", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Technician, otherwise: "A technician or foreman answers for that.");

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

        // Whoever closes a job says what killed the part, unless nothing was wrong.
        if (job.Decision?.Payload.RepairId is { } repair && job.System.Repair(repair) is { Nothing: true })
        {
            return;
        }

        if (Cause is null)
        {
            faults.AddNow("cause", "what killed it; not known is an answer too, with a word why");
        }
        else if (Cause.Cause != CauseSaid.Unknown && job.System.RootCauses.All(c => c.Id != Cause.Cause))
        {
            faults.Add("cause.cause", $"one of: {string.Join(", ", job.System.RootCauses.Select(c => c.Id).Append(CauseSaid.Unknown))}");
        }
        else if (Cause.Done.Trim().Length < 3)
        {
            faults.Add("cause.done", Cause.Cause == CauseSaid.Unknown ? "why it is not known" : "what was done about it");
        }
        else
        {
            faults.Text("cause.done", Cause.Done);
        }
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

    internal void Record(Entry entry, HandedBack p) => (HandedBack, Waiting) = (new(entry, p), null);
}
