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
    public override string? NeedsSecondPerson(Job job) => job.History.FirstOrDefault(h => h.Entry.Id == Entry)?.Entry.Payload is { } first ? CorrectedTo(first)?.NeedsSecondPerson(job) : null;

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        // An entry not yet sent cannot be looked at; the fold reads the correction when it arrives.
        if (job.History.FirstOrDefault(h => h.Entry.Id == Entry)?.Entry is not { } entry)
        {
            return;
        }

        if (entry.Payload is JobOpened or EntryWithdrawn or EntryCorrected or SecondWanted or SecondSigned)
        {
            faults.Add("entry", $"{EntryKinds.ForPayload(entry.Payload).Name} is withdrawn, not corrected");
            return;
        }

        try
        {
            var corrected = EntryKinds.Read(EntryKinds.ForPayload(entry.Payload).Tag, Payload);
            foreach (var inner in JobRules.Malformed(job, corrected))
            {
                faults.Add("payload" + inner.Path["$.payload".Length..], inner.Message);
            }
        }
        catch (RefusedFileException e)
        {
            e.Faults.ToList().ForEach(f => faults.Add("payload" + f.Path["$.payload".Length..], f.Message));
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry)
    {
        // The fold has looked at it beforehand and applies what it says in the place of what it corrects.
    }

    private Payload? CorrectedTo(Payload first)
    {
        try
        {
            return first is EntryCorrected ? null : EntryKinds.Read(EntryKinds.ForPayload(first).Tag, Payload);
        }
        catch (RefusedFileException)
        {
            // It is refused elsewhere, with its faults.
            return null;
        }
    }
}
