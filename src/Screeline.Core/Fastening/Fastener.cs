using Screeline.Core.Quantities;

namespace Screeline.Core.Fastening;

/// <summary>
/// A group of like fasteners that hold one part: they come off together and share a tray cell. The contents of
/// <c>fasteners</c> in an access map; exact meanings in docs/formats.md.
/// </summary>
public sealed record Fastener
{
    /// <summary>Identifier, unique within its operation.</summary>
    public required string Id { get; init; }
    /// <summary>What it holds.</summary>
    public required string Holds { get; init; }
    /// <summary>Where it sits; null when the operation's place says it.</summary>
    public string? Place { get; init; }
    /// <summary>bolt, screw, nut, stud, self-tapper, clip, push-pin, clamp, pin or ball-joint.</summary>
    public required string Kind { get; init; }
    /// <summary>Drive and size, for example "hex-13" or "T30"; null when it needs no tool.</summary>
    public string? Drive { get; init; }
    /// <summary>Other drives that fit the same head.</summary>
    public IReadOnlyList<string> AlsoFits { get; init; } = [];
    /// <summary>Thread, for example "M8"; null for clips and clamps.</summary>
    public string? Thread { get; init; }
    /// <summary>Length under the head in millimetres; null where it does not matter.</summary>
    public decimal? LengthMillimetres { get; init; }
    /// <summary>How many there are.</summary>
    public required int Count { get; init; }
    /// <summary>"yes", "inspect" or "renew".</summary>
    public required string Reuse { get; init; }
    /// <summary>dry, oil, thread-locker, anti-seize, grease or sealant.</summary>
    public required string Treatment { get; init; }
    /// <summary>The specified torque, or null.</summary>
    public TorqueSpecification? Torque { get; init; }
    /// <summary>Strength class of the bolt, for example "8.8"; null when it is not known.</summary>
    public string? Strength { get; init; }
    /// <summary>What it is screwed into or made of.</summary>
    public Joint Joint { get; init; }
    /// <summary>Whether somebody is hurt when the joint fails.</summary>
    public bool Structural { get; init; }
    /// <summary>Where its members sit on the operation's outline, one for each or none at all.</summary>
    public IReadOnlyList<Spot> At { get; init; } = [];
    /// <summary>What must stand between wrench and fastener, or null.</summary>
    public Adaptor? Adaptor { get; init; }

    /// <summary>The thread, when it is a metric one.</summary>
    public MetricThread? Metric => Thread is null ? null : MetricThread.Read(Thread).Thread;

    /// <summary>Places of its members: the map's, or made-up ones that show the order only.</summary>
    public IReadOnlyList<Spot> Spots => At.Count == Count ? At : TighteningOrder.Places(Count, Torque?.Pattern);

    /// <summary>Kinds that are allowed.</summary>
    public static IReadOnlyList<string> Kinds { get; } = ["bolt", "screw", "nut", "stud", "self-tapper", "clip", "push-pin", "clamp", "pin", "ball-joint"];
    /// <summary>Values of <see cref="Reuse"/>.</summary>
    public static IReadOnlyList<string> Reuses { get; } = ["yes", "inspect", "renew"];
    /// <summary>Values of <see cref="Treatment"/>.</summary>
    public static IReadOnlyList<string> Treatments { get; } = ["dry", "oil", "thread-locker", "anti-seize", "grease", "sealant"];

    /// <summary>The kind in the number asked for, with its thread: "1 M8 nut", "9 T30 screws".</summary>
    public string Words(int count)
    {
        var plural = count == 1 ? Kind.Replace('-', ' ') : Kind switch { "clip" or "stud" or "nut" or "bolt" or "screw" or "clamp" or "pin" => Kind + "s", "push-pin" => "push pins", "self-tapper" => "self tappers", _ => "ball joints" };
        var label = Thread is null ? plural : $"{Thread} {plural}";
        return $"{count} {label}";
    }
}

/// <summary>A specified torque as its source prints it.</summary>
/// <param name="Value">Number and unit, unaltered.</param>
/// <param name="Source">Who says so.</param>
/// <param name="AngleDegrees">Further angle after the torque, degrees; null for none.</param>
/// <param name="Pattern">"line", "ring", "crosswise" or "centre-out"; null for a single one.</param>
public sealed record TorqueSpecification(Figure Value, string Source, decimal? AngleDegrees, string? Pattern)
{
    /// <summary>How good the source is.</summary>
    public SourceGrade Grade { get; init; }
    /// <summary>What other sources say.</summary>
    public IReadOnlyList<SourcedTorque> Others { get; init; } = [];
    /// <summary>Shares of the torque pass by pass, rising to 1; empty for the usual ones.</summary>
    public IReadOnlyList<decimal> Passes { get; init; } = [];

    /// <summary>All figures, its own first.</summary>
    public IReadOnlyList<SourcedTorque> All => [new SourcedTorque(Value, Source, Grade), .. Others];
}
