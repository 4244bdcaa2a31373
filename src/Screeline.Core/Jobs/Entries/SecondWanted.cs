using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>
/// An apprentice's critical entry waits for a second person. Written by whoever takes the entry in, right behind it, so that the record
/// says what was asked for then, whatever becomes of the apprentice later.
/// </summary>
/// <param name="Entry">The entry that waits.</param>
/// <param name="Why">What a second person looks at, in words.</param>
public sealed record SecondWanted(Guid Entry, string Why) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("second-wanted", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Entry.ToString();

    /// <inheritdoc/>
    public override string Describe(Job job) => $"waits for a second person: {Why}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults) => faults.Text("why", Why);

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<SecondWanted>> _wanted = [];

    /// <summary>Entries that a second person looks at, oldest first; those that no longer stand are left out.</summary>
    public IReadOnlyList<SecondLook> Seconds
    {
        get
        {
            var looks = new List<SecondLook>();
            foreach (var wanted in _wanted)
            {
                if (_history.FirstOrDefault(h => h.Entry.Id == wanted.Payload.Entry) is { WithdrawnBy: null, Entry: var tick } && Stands(tick))
                {
                    looks.Add(new SecondLook(tick, tick.Payload.Content(this), wanted.Payload.Why, _seconds.GetValueOrDefault(tick.Id)));
                }
            }

            return looks;
        }
    }

    /// <summary>Those that still wait.</summary>
    public IReadOnlyList<SecondLook> SecondsMissing => _wanted.Count == 0 ? [] : [.. Seconds.Where(s => s.Signed is null)];

    /// <summary>What waits at a step, or null.</summary>
    public SecondLook? SecondMissingAt(string step) => SecondsMissing.FirstOrDefault(s => s.What switch
    {
        StepDone p => p.Step == step,
        TorqueSet p => p.Step == step,
        _ => false,
    });

    internal void Record(Entry entry, SecondWanted p) => _wanted.Add(new(entry, p));

    // A tick or a torque that was sent back no longer waits for anybody.
    // A correction stands with what it corrects; the entry that it is recorded under is that one.
    private bool Stands(Entry tick)
    {
        var (said, id) = tick.Payload is EntryCorrected correction ? (correction.Content(this), correction.Entry) : (tick.Payload, tick.Id);
        return said switch
        {
            StepDone step => (step.Phase == WorkPhase.Apart ? _removed : _refitted).GetValueOrDefault(step.Step)?.Entry.Id == id,
            TorqueSet => _torques.Any(t => t.Entry.Id == id),
            _ => true,
        };
    }
}
