using System.Text.Json;
using Screeline.Core.Formats;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>An entry said something wrong; this payload stands in its place.</summary>
/// <param name="Entry">The entry corrected.</param>
/// <param name="Payload">A payload of the same kind.</param>
public sealed record EntryCorrected(Guid Entry, JsonElement Payload) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("entry-corrected", withItself: Clash.SameSubject, withObservations: Clash.Never, by: Role.Apprentice, with: new Dictionary<string, Clash> { ["entry-withdrawn"] = Clash.SameSubject });

    /// <inheritdoc/>
    public override string Subject() => Entry.ToString();

    /// <inheritdoc/>
    public override string Describe(Job job) => $"corrected: {job.DescribeEntry(Entry)}";

    /// <inheritdoc/>
    public override Payload Content(Job job) => job.Find(Entry)?.Payload is { } first && Read(first).Payload is { } then ? then : this;

    /// <inheritdoc/>
    public override string? NeedsSecondPerson(Job job) => Content(job) is var content and not EntryCorrected ? content.NeedsSecondPerson(job) : null;

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.Find(Entry) is not { } entry)
        {
            faults.Add("entry", "that entry is not here: send it first");
            return;
        }

        // A wait is begun anew: a shorter one must not take the place of one that protects people.
        if (entry.Payload is JobOpened or JobImported or EntryWithdrawn or EntryCorrected or SecondWanted or SecondSigned or TimerStarted or TimerEnded)
        {
            faults.Add("entry", $"{EntryKinds.ForPayload(entry.Payload).Name} is withdrawn, not corrected");
            return;
        }

        var (corrected, refused) = Read(entry.Payload);
        if (corrected is null)
        {
            refused.ToList().ForEach(f => faults.Add("payload" + f.Path["$.payload".Length..], f.Message));
            return;
        }

        if (corrected.Subject() != entry.Payload.Subject())
        {
            faults.Add("payload", "speaks of something else: that is an entry of its own");
        }

        foreach (var inner in JobRules.Malformed(job, corrected))
        {
            faults.Add("payload" + inner.Path["$.payload".Length..], inner.Message);
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry)
    {
        // The fold has looked at it beforehand and applies what it says in the place of what it corrects.
    }

    // What it says of an entry, or why it cannot say that of it.
    private (Payload? Payload, IReadOnlyList<FormatFault> Faults) Read(Payload first)
    {
        try
        {
            return first is EntryCorrected ? (null, []) : (EntryKinds.ReadCorrection(EntryKinds.ForPayload(first), Payload), []);
        }
        catch (RefusedFileException e)
        {
            return (null, e.Faults);
        }
    }
}
