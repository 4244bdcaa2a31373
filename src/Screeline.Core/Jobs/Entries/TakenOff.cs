using System.Text.Json.Serialization;
using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Something came off, was moved aside, loosened or looked at that no map told of, with the fasteners its author took out since their last word.</summary>
/// <param name="Act">What was done.</param>
/// <param name="What">What it was done to, in words.</param>
/// <param name="Place">Where one worked: a kind of <see cref="Position"/>.</param>
/// <param name="IsTarget">Whether that is what the job is about.</param>
/// <param name="Before">The step before which it was done, where it is told afterwards; null for now.</param>
/// <param name="Instead">The expected step in whose place it was, or null.</param>
/// <param name="Where">Where exactly, or null.</param>
/// <param name="Tools">Tools that were used, by id or in words.</param>
public sealed record TakenOff(
    TakenAct Act, string What, string Place,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)] bool IsTarget = false,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Before = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Instead = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Where = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<string>? Tools = null) : Payload
{
    /// <summary>Most letters of what it was.</summary>
    public const int LongestWhat = 200;

    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("taken-off", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => char.ToLowerInvariant(Act.Title(What)[0]) + Act.Title(What)[1..];

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (!Enum.IsDefined(Act))
        {
            faults.Add("act", "plug, hose, lead, part, aside, looked or loosened");
        }

        if (!Position.Kinds.Contains(Place))
        {
            faults.Add("place", $"one of: {string.Join(", ", Position.Kinds)}");
        }

        if (Before is not null && !job.Removed.ContainsKey(Before))
        {
            faults.Add("before", $"“{Before}” is nothing that was done");
        }

        if (Instead is not null && job.Map?.Operation(Instead) is null)
        {
            faults.Add("instead", $"“{Instead}” is nothing that was expected");
        }

        if (Tools is { Count: > 20 })
        {
            faults.Add("tools", "at most 20");
        }

        foreach (var (tool, i) in (Tools ?? []).Select((t, i) => (t, i)))
        {
            faults.Text($"tools[{i}]", tool, 100, needed: true);
        }

        faults.Text("what", What, LongestWhat, needed: true);
        faults.Text("where", Where, 500);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.CannotRecord ?? job.NotSafeYet(job.AsOperation(this));

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}
