namespace Screeline.Core.Motion;

/// <summary>A way in which shops find where a wiper parks.</summary>
/// <param name="Id">Its name in entries.</param>
/// <param name="Title">What it is called at the vehicle.</param>
/// <param name="Short">The same on a sheet.</param>
public sealed record ParkSchool(string Id, string Title, string Short)
{
    /// <summary>The marks made before taking apart: right only when the old position was.</summary>
    public const string Marks = "marks";

    /// <summary>All, the safest first (common practice, no source).</summary>
    public static IReadOnlyList<ParkSchool> All { get; } =
    [
        new("gap", "Measured gap or pin", "measured gap or pin"),
        new("run", "Motor run to park, crank free", "run to park"),
        new(Marks, "Marks made before", "marks"),
    ];

    /// <summary>The school of this name, or null.</summary>
    public static ParkSchool? Find(string id) => All.FirstOrDefault(s => s.Id == id);

    /// <summary>Why it must not be taken, in words; null when it may.</summary>
    /// <param name="oldPositionGood">Whether the old position was checked good.</param>
    public string? Refuse(bool oldPositionGood) =>
        Id == Marks && !oldPositionGood ? "Marks only when the old position was checked good: else they keep the old fault. Tick that it was, or take another way." : null;
}

/// <summary>A step of setting a window.</summary>
/// <param name="Id">Its name in entries.</param>
/// <param name="Act">What is done.</param>
/// <param name="Because">Why.</param>
public sealed record WindowOrder(string Id, string Act, string Because)
{
    /// <summary>All, in order (common practice, no source).</summary>
    public static IReadOnlyList<WindowOrder> Steps { get; } =
    [
        new("loose", "Guide and carrier screws loose, a turn each", "Because the glass must be able to find its own place."),
        new("up", "Run it fully up, into its seal", "Because the seal is what it must meet: it sets the glass, not the screws."),
        new("tight", "Tighten there, upper guide first", "Because tightened lower down it keeps the tilt it had there."),
        new("down", "Run it down and watch the gap at both guides", "Because where the gap changes it tilts."),
        new("again", "Up again: same sound, same time, square in the seal", "Because once is chance."),
    ];
}
