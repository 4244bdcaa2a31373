using Screeline.Core.Motion;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A setting was worked out and made: what was measured, what it came to, whether it holds.</summary>
/// <param name="Step">The step of the way back it belongs to, or null.</param>
/// <param name="Setting">Its kind: see <see cref="SettingKinds"/>.</param>
/// <param name="Words">The result in one line.</param>
/// <param name="Holds">Whether everything is where it belongs.</param>
/// <param name="Asked">Everything typed, by field, so that it can be opened again as it was.</param>
public sealed record SettingKept(string? Step, string Setting, string Words, bool Holds, IReadOnlyDictionary<string, string> Asked) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("setting-kept", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => $"{Step}/{Setting}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{SettingKinds.Title(Setting).ToLowerInvariant()}: {Words}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Step(job, Step, needed: false);
        faults.Text("words", Words, 300, needed: true);
        if (!SettingKinds.OnVehicle.Contains(Setting))
        {
            faults.Add("setting", $"one of: {string.Join(", ", SettingKinds.OnVehicle)}");
        }

        if (Asked.Count > 200 || Asked.Any(a => a.Key.Length > 40 || a.Value.Length > 2000))
        {
            faults.Add("asked", "at most 200 fields of at most 2000 characters");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<SettingKept>> _settings = [];

    /// <summary>Settings worked out, oldest first.</summary>
    public IReadOnlyList<Recorded<SettingKept>> Settings => _settings;

    /// <summary>The latest setting kept of a kind at a step, or null.</summary>
    public Recorded<SettingKept>? SettingAt(string? step, string kind) => _settings.LastOrDefault(s => s.Payload.Step == step && s.Payload.Setting == kind);

    internal void Record(Entry entry, SettingKept p) => _settings.Add(new(entry, p));
}
