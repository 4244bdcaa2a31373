using System.Text.Json.Serialization;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The answer to a question: for what did a part have to be off?</summary>
/// <param name="Step">The part.</param>
/// <param name="For">What it was in the way of; empty for nothing.</param>
/// <param name="Back">What had to go back while it was still off; null where nobody said.</param>
public sealed record NeededFor(string Step, IReadOnlyList<string> For, [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<string>? Back = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("needed-for", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => Step;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"“{job.TitleOf(Step)}” had to be off for {(For.Count == 0 ? "nothing" : string.Join(", ", For.Select(job.TitleOf)))}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        var order = job.OpenedInOrder;
        var at = order.IndexOf(Step);
        if (at < 0)
        {
            faults.Add("step", $"“{Step}” was never off");
        }

        void Each(IReadOnlyList<string> ids, string path, Func<string, bool> fits, string wanted)
        {
            for (var i = 0; i < ids.Count; i++)
            {
                if (!fits(ids[i]) || ids[i] == Step || ids.Take(i).Contains(ids[i]))
                {
                    faults.Add($"{path}[{i}]", $"“{ids[i]}” {wanted}");
                }
            }
        }

        Each(For, "for", id => order.IndexOf(id) > at, "did not come off after it");
        Each(Back ?? [], "back", job.Refitted.ContainsKey, "is not back");
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Said(entry, this);
}
