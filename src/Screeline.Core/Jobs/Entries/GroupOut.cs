using System.Text.Json.Serialization;
using Screeline.Core.Fastening;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Fasteners came out, or loose, that no map told of; they belong to what is taken off next by the same person.</summary>
/// <param name="Kind">bolt, screw, nut …</param>
/// <param name="Drive">Drive and size, for example "hex-13"; null for none.</param>
/// <param name="Count">How many.</param>
/// <param name="Cell">The tray cell they went into; null when they stay where they are.</param>
/// <param name="LengthMillimetres">Length, or null.</param>
/// <param name="Thread">Thread, for example "M8", or null.</param>
/// <param name="Holds">What they hold, where somebody said so; else what comes off next.</param>
/// <param name="Place">Where they sit, or null.</param>
/// <param name="Hidden">Whether they were hidden.</param>
/// <param name="Note">Condition, washers, in words; or null.</param>
/// <param name="Tool">The tool that turned them, or null.</param>
public sealed record GroupOut(
    string Kind, string? Drive, int Count, int? Cell,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] decimal? LengthMillimetres = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Thread = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Holds = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Place = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)] bool Hidden = false,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Note = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Tool = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("group-out", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{Words} out";

    /// <summary>How many of what: "3 T20 screws".</summary>
    [JsonIgnore]
    public string Words
    {
        get
        {
            var words = new Fastener { Id = "", Holds = "", Kind = Kind, Count = Count, Reuse = "yes", Treatment = "dry" }.Words(Count);
            return Drive is null ? words : words.Insert(words.IndexOf(' ') + 1, $"{Fastening.Drive.Read(Drive).Drive?.ToString() ?? Drive} ");
        }
    }

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (!Fastener.Kinds.Contains(Kind))
        {
            faults.Add("kind", $"one of: {string.Join(", ", Fastener.Kinds)}");
        }

        if (Drive is not null && Fastening.Drive.Read(Drive).Reason is { } reason)
        {
            faults.Add("drive", reason);
        }

        if (Count is < 1 or > 500)
        {
            faults.Add("count", "1 to 500");
        }

        if (Cell is < 1 or > 999)
        {
            faults.Add("cell", "a cell from 1 to 999");
        }

        if (LengthMillimetres is <= 0 or > 2000)
        {
            faults.Add("length_millimetres", "above 0 and at most 2000");
        }

        if (Thread is not null && MetricThread.Read(Thread).Reason is { } unreadable)
        {
            faults.Add("thread", unreadable);
        }

        faults.Text("holds", Holds, 200);
        faults.Text("place", Place, 500);
        faults.Text("note", Note, 500);
        faults.Text("tool", Tool, 100);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => job.CannotRecord;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}
