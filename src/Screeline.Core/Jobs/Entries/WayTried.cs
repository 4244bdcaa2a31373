using System.Text.Json.Serialization;
using Screeline.Core.Access;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A way that was tried and does not lead there.</summary>
/// <param name="What">Which way, in words.</param>
/// <param name="Minutes">What it took, or null.</param>
/// <param name="Place">Where one worked: a kind of <see cref="Position"/>; or null.</param>
public sealed record WayTried(
    string What,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] decimal? Minutes = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Place = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("way-tried", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"tried, no way: {What}{(Minutes is { } m ? $", {m:0.#} min" : "")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("what", What, 500, needed: true);
        if (Minutes is < 0 or > 1440)
        {
            faults.Add("minutes", "0 to 1440");
        }

        if (Place is not null && !Position.Kinds.Contains(Place))
        {
            faults.Add("place", $"one of: {string.Join(", ", Position.Kinds)}");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<WayTried>> _tried = [];

    /// <summary>Ways that were tried and lead nowhere, oldest first.</summary>
    public IReadOnlyList<Recorded<WayTried>> Tried => _tried;

    internal void Record(Entry entry, WayTried p) => _tried.Add(new(entry, p));
}
