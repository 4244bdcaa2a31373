using System.Text.Json.Serialization;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>How soon something seen beside the job wants doing.</summary>
public enum SeenUrgency
{
    /// <summary>Looked at again at the next visit.</summary>
    NextVisit,
    /// <summary>Done soon.</summary>
    Soon,
    /// <summary>The vehicle is not driven before.</summary>
    BeforeDriving,
}

/// <summary>Words for urgencies.</summary>
public static class SeenUrgencies
{
    /// <summary>An urgency in a few words.</summary>
    public static string Title(this SeenUrgency urgency) => urgency switch
    {
        SeenUrgency.NextVisit => "look again at the next visit",
        SeenUrgency.Soon => "soon",
        _ => "before it is driven",
    };
}

/// <summary>Something seen that is not what the job is about: a leak, a worn pad, a screw that an earlier repair left out.</summary>
/// <param name="What">What, in words.</param>
/// <param name="Urgency">How soon it wants doing.</param>
/// <param name="Step">The step at which it was seen, or null.</param>
/// <param name="Sha256">A picture of it by its hash, lower-case hex; null for none.</param>
public sealed record SeenBeside(
    string What, SeenUrgency Urgency, string? Step,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Sha256 = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("seen-beside", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string? NamesPicture() => Sha256;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"seen beside: {What} ({Urgency.Title()})";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("what", What, 500, needed: true);
        faults.Step(job, Step, needed: false);
        if (Sha256 is { } hash && (hash.Length != 64 || hash.Any(c => !char.IsAsciiHexDigitLower(c))))
        {
            faults.Add("sha256", "64 digits of lower-case hex");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

/// <summary>Something seen beside the job, and what became of it.</summary>
/// <param name="Seen">What was seen.</param>
/// <param name="Settled">What became of it; null while nothing did.</param>
public sealed record SeenThing(Recorded<SeenBeside> Seen, Recorded<SeenSettled>? Settled);

public sealed partial class Job
{
    private readonly List<Recorded<SeenBeside>> _seen = [];

    /// <summary>What was seen beside the job, oldest first.</summary>
    public IReadOnlyList<SeenThing> Seen => [.. _seen.Select(s => new SeenThing(s, _seenSettled.GetValueOrDefault(s.Entry.Id)))];

    internal void Record(Entry entry, SeenBeside p) => _seen.Add(new(entry, p));
}
