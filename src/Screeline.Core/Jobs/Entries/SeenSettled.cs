using System.Text.Json.Serialization;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What became of something seen beside a job.</summary>
public enum SeenEnd
{
    /// <summary>Put right.</summary>
    Done,
    /// <summary>Not there any more, or never was.</summary>
    NotThere,
    /// <summary>The customer was told and leaves it.</summary>
    LetBe,
}

/// <summary>What became of something seen beside this job or an earlier one on the vehicle.</summary>
/// <param name="Seen">The entry that saw it; of this job or of another.</param>
/// <param name="End">What became of it.</param>
/// <param name="Note">More, in words; null for nothing.</param>
public sealed record SeenSettled(Guid Seen, SeenEnd End, string? Note) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("seen-settled", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => Seen.ToString();

    /// <inheritdoc/>
    public override string Describe(Job job) => $"seen beside, now {Words}: {(job.Find(Seen)?.Payload as SeenBeside)?.What ?? "of an earlier job"}";

    /// <summary>What became of it, in words.</summary>
    [JsonIgnore]
    public string Words => $"{End switch { SeenEnd.Done => "put right", SeenEnd.NotThere => "not there any more", _ => "left by the customer" }}{(Note is null ? "" : $" ({Note})")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("note", Note, 500);
        if (Seen == Guid.Empty)
        {
            faults.Add("seen", "the entry that saw it");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<Guid, Recorded<SeenSettled>> _seenSettled = [];

    /// <summary>What became of things seen beside this job or earlier ones, by the entry that saw them.</summary>
    public IReadOnlyDictionary<Guid, Recorded<SeenSettled>> SeenSettledHere => _seenSettled;

    internal void Record(Entry entry, SeenSettled p) => _seenSettled[p.Seen] = new(entry, p);
}
