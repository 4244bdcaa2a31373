using Screeline.Core.Fastening;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A fastener the map does not know: found hidden, or left by somebody's earlier repair.</summary>
/// <param name="Step">The operation it belongs to.</param>
/// <param name="Fastener">An id of its own within the operation.</param>
/// <param name="Holds">What it holds.</param>
/// <param name="Kind">bolt, screw, nut …</param>
/// <param name="Drive">Drive and size, or null by hand.</param>
/// <param name="Thread">Thread, or null.</param>
/// <param name="LengthMillimetres">Length, or null.</param>
/// <param name="Count">How many.</param>
/// <param name="Place">Where it sits.</param>
public sealed record ExtraFound(string Step, string Fastener, string Holds, string Kind, string? Drive, string? Thread, decimal? LengthMillimetres, int Count, string? Place) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("fastener-extra", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <summary>The fastener as maps write it; used again as it is found, without a torque.</summary>
    public Fastener ToFastener() => new()
    {
        Id = Fastener, Holds = Holds, Kind = Kind, Drive = Drive, Thread = Thread, LengthMillimetres = LengthMillimetres, Count = Count, Place = Place, Reuse = "yes", Treatment = "dry",
    };

    /// <inheritdoc/>
    public override string Subject() => $"{Step}/{Fastener}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"found besides the map: {Count} {Kind.Replace('-', ' ')}, {Holds}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.Map?.Operation(Step) is null)
        {
            faults.Add("step", $"no step “{Step}”");
        }

        if (!Fastening.Fastener.Kinds.Contains(Kind))
        {
            faults.Add("kind", $"one of: {string.Join(", ", Fastening.Fastener.Kinds)}");
        }

        if (Count is < 1 or > 500)
        {
            faults.Add("count", "1 to 500");
        }

        if (LengthMillimetres is <= 0 or > 2000)
        {
            faults.Add("length_millimetres", "above 0 and at most 2000");
        }

        faults.Text("fastener", Fastener, 60, needed: true);
        faults.Text("holds", Holds, 200, needed: true);
        faults.Text("drive", Drive, 40);
        faults.Text("thread", Thread, 40);
        faults.Text("place", Place, 500);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<ExtraFound>> _extras = [];

    /// <summary>Fasteners found that the map does not know.</summary>
    public IReadOnlyList<Recorded<ExtraFound>> Extras => _extras;

    /// <summary>The fasteners of an operation: those of the map and those found.</summary>
    public IReadOnlyList<Fastener> FastenersOf(string step) =>
        [.. Held(step).Select(f => FigureOf(step, f.Id)?.Payload.On(f) ?? f)];

    private IReadOnlyList<Fastener> Held(string step) =>
        Map?.Operation(step) is not { } operation ? [] : _extras.Any(x => x.Payload.Step == step) ? [.. operation.Fasteners, .. _extras.Where(x => x.Payload.Step == step).Select(x => x.Payload.ToFastener())] : operation.Fasteners;

    /// <summary>What a group of fasteners holds, in words; its id when it is not known.</summary>
    public string HeldBy(string step, string fastener) => FastenersOf(step).FirstOrDefault(f => f.Id == fastener)?.Holds ?? fastener;

    internal void Record(Entry entry, ExtraFound p)
    {
        if (FastenersOf(p.Step).All(f => f.Id != p.Fastener))
        {
            _extras.Add(new(entry, p));
        }
    }
}
