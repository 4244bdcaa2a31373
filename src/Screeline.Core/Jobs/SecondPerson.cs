using System.Text.Json.Serialization;
using Screeline.Core.Access;
using Screeline.Core.Formats;

namespace Screeline.Core.Jobs;

/// <summary>
/// An apprentice's critical entry waits for a second person. Written by whoever takes the entry in, right behind it, so that the record
/// says what was asked for then, whatever becomes of the apprentice later.
/// </summary>
/// <param name="Entry">The entry that waits.</param>
/// <param name="Why">What a second person looks at, in words.</param>
public sealed record SecondWanted(Guid Entry, string Why) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Entry.ToString();
}

/// <summary>A second person has looked at it and answers for it too.</summary>
/// <param name="Entry">The entry that waited.</param>
public sealed record SecondSigned(Guid Entry) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Entry.ToString();
}

/// <summary>An entry that a second person looks at.</summary>
/// <param name="Tick">The entry.</param>
/// <param name="Why">What is looked at.</param>
/// <param name="Signed">Who did; null while it waits.</param>
public sealed record SecondLook(Entry Tick, string Why, Kept<SecondSigned>? Signed);

/// <summary>Which entries are critical: what falls on somebody, tears off or goes live when it was not done.</summary>
public static class SecondPerson
{
    /// <summary>What a second person would have to look at, in words; null when the entry is not critical.</summary>
    /// <param name="job">The job before the entry.</param>
    /// <param name="payload">What the entry says.</param>
    public static string? Why(Job job, Payload payload) => payload switch
    {
        StepDone { Phase: WorkPhase.Apart } s when IsSupport(job, s.Step) => $"Supports: {job.Map![s.Step].Title}",
        StepDone { Phase: WorkPhase.Refit } s when job.Map is { } map && Known(map, s.Step) && WalkRules.IsGate(map, s.Step) => $"Gate: {Refit.Title(map, s.Step)}",
        TorqueSet t when job.FastenersOf(t.Step).FirstOrDefault(f => f.Id == t.Fastener) is { Structural: true } f => $"{t.Value} on {f.Holds}",
        EntryCorrected c when job.History.FirstOrDefault(h => h.Entry.Id == c.Entry)?.Entry.Payload is { } first => CorrectedTo(first, c) is { } then ? Why(job, then) : null,
        _ => null,
    };

    /// <summary>Whether an operation puts the vehicle on its supports.</summary>
    internal static bool IsSupport(Job job, string step) => job.Map?.Operation(step)?.Provides.Contains(AccessMapChecks.Supported) == true;

    private static bool Known(AccessMap map, string step) => map.Step(step) is not null || map.Operation(step) is not null;

    private static Payload? CorrectedTo(Payload first, EntryCorrected correction)
    {
        try
        {
            return first is EntryCorrected ? null : EntryKinds.Read(EntryKinds.Of(first).Tag, correction.Payload);
        }
        catch (RefusedFileException)
        {
            // It is refused elsewhere, with its faults.
            return null;
        }
    }
}

// Second persons.
public sealed partial class Job
{
    private readonly List<Kept<SecondWanted>> _wanted = [];
    private readonly Dictionary<Guid, Kept<SecondSigned>> _seconds = [];

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
                    looks.Add(new SecondLook(tick, wanted.Payload.Why, _seconds.GetValueOrDefault(tick.Id)));
                }
            }

            return looks;
        }
    }

    /// <summary>Those that still wait.</summary>
    public IReadOnlyList<SecondLook> SecondsMissing => _wanted.Count == 0 ? [] : [.. Seconds.Where(s => s.Signed is null)];

    /// <summary>What waits at a step, or null.</summary>
    public SecondLook? SecondMissingAt(string step) => SecondsMissing.FirstOrDefault(s => s.Tick.Payload switch
    {
        StepDone p => p.Step == step,
        TorqueSet p => p.Step == step,
        _ => false,
    });

    // A tick or a torque that was sent back no longer waits for anybody.
    private bool Stands(Entry tick) => tick.Payload switch
    {
        StepDone step => (step.Phase == WorkPhase.Apart ? _removed : _refitted).GetValueOrDefault(step.Step)?.Entry.Id == tick.Id,
        TorqueSet => _torques.Any(t => t.Entry.Id == tick.Id),
        _ => true,
    };

    // Why a signature does not hold; null when it does.
    private string? RefusedSecond(Entry entry, SecondSigned p) =>
        Seconds.FirstOrDefault(s => s.Tick.Id == p.Entry) is not { } look ? "Nobody waits for a second person there."
        : look.Tick.Draft.Actor == entry.Draft.Actor ? "The second person is somebody else."
        : look.Signed is not null ? "A second person has signed already."
        : null;
}
