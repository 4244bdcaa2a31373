using Screeline.Core.Access;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A step that was expected is not there on this vehicle.</summary>
/// <param name="Step">The step: on the way in, or of the way back only.</param>
/// <param name="Why">Why, in words; or null.</param>
public sealed record ExpectationStruck(string Step, string? Why) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("expectation-struck", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Step;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"not there: {job.TitleOf(Step)}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Step(job, Step);
        faults.Text("why", Why, 500);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.CannotRecord is { } reason ? reason
            : job.Removed.ContainsKey(Step) || job.Refitted.ContainsKey(Step) ? "It was done already: undo that first."
            : job.Map is { } map && map.Step(Step) is { Gate: true } ? "A gate is not left out: what it asks for proves the repair."
            : job.MakesSafe(Step) is { } safe ? $"“{safe.Title}” makes the work safe: it is not left out so. Look for another way."
            : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<string, Recorded<ExpectationStruck>> _struck = new(StringComparer.Ordinal);

    /// <summary>Expected steps that are not there on this vehicle.</summary>
    public IReadOnlyDictionary<string, Recorded<ExpectationStruck>> Struck => _struck;

    /// <summary>An operation of the map that is followed without which the work would not be safe: no word leaves it out. Null for any other.</summary>
    internal Operation? MakesSafe(string step) => !IsRecorded && Map?.Operation(step) is { Provides.Count: > 0 } safe ? safe : null;

    internal void Record(Entry entry, ExpectationStruck p)
    {
        // Also where it comes late and stands as disputed.
        if (MakesSafe(p.Step) is null && !_removed.ContainsKey(p.Step) && !_refitted.ContainsKey(p.Step) && Map?.Step(p.Step) is not { Gate: true })
        {
            _titlesStruck[p.Step] = TitleOf(p.Step);
            _struck.TryAdd(p.Step, new(entry, p));
            MapChanged();
        }
    }
}
