using Screeline.Core.Fastening;

namespace Screeline.Core.Access.Recording;

/// <summary>What one press says was done.</summary>
public enum TakenAct
{
    /// <summary>A plug was pulled.</summary>
    Plug,
    /// <summary>A hose came off.</summary>
    Hose,
    /// <summary>A lead or cable came off.</summary>
    Lead,
    /// <summary>A part came off.</summary>
    Part,
    /// <summary>Something was moved aside and still hangs there.</summary>
    Aside,
    /// <summary>Something was looked at or measured.</summary>
    Looked,
    /// <summary>Fasteners were loosened that freed nothing by themselves.</summary>
    Loosened,
}

/// <summary>Words for <see cref="TakenAct"/>.</summary>
public static class TakenActs
{
    /// <summary>The instruction on the way in, which is also what is told when it is done.</summary>
    public static string Title(this TakenAct act, string what) => act switch
    {
        TakenAct.Looked => what,
        _ when SaysSo(what) => what,
        TakenAct.Aside => $"{what} moved aside",
        TakenAct.Loosened => $"{what} loose",
        _ => $"{what} off",
    };

    /// <summary>The instruction on the way back, which is also what is told when it is done.</summary>
    public static string Undone(this TakenAct act, string what) => act switch
    {
        _ when Reversed.FirstOrDefault(r => what.EndsWith(" " + r.Off, StringComparison.Ordinal)) is { Off: not null } r => what[..^r.Off.Length] + r.On,
        _ when SaysSo(what) => $"Back: {what}",
        TakenAct.Plug => $"{what} on, tugged",
        TakenAct.Aside => $"{what} back in place",
        TakenAct.Loosened => $"{what} tightened",
        _ => $"{what} on",
    };

    /// <summary>What is counted besides fasteners when it came off; null for nothing.</summary>
    public static string? Piece(this TakenAct act) => act switch { TakenAct.Plug => "connector", TakenAct.Hose => "hose", TakenAct.Lead => "earth-lead", _ => null };

    private static readonly (string Off, string On)[] Reversed = [("out", "in"), ("off", "on"), ("aside", "back in place"), ("unplugged", "plugged, tugged"), ("loose", "tightened")];

    private static bool SaysSo(string what) => what.Split(' ', ',', ':', ';').Any(w => w is "off" or "out" or "aside" or "away" or "unplugged" or "loose" or "down" or "up" or "raised" or "free");
}

/// <summary>Something that was taken off, moved, loosened or looked at, as it was recorded at the vehicle.</summary>
/// <param name="Id">Its id as a step.</param>
/// <param name="Act">What was done; null while only fasteners are out and nobody said what they held.</param>
/// <param name="What">What, in words; for fasteners alone what they are.</param>
/// <param name="Place">A kind of <see cref="Position"/>.</param>
/// <param name="Groups">Its fasteners.</param>
/// <param name="IsTarget">Whether that is what the job is about.</param>
/// <param name="Tools">Tools that were used, by id or in words.</param>
/// <param name="Where">Where exactly, or null.</param>
/// <param name="Words">The things its words name, the one that says most first.</param>
/// <param name="Told">Cautions that somebody told for a word that is unknown.</param>
public sealed record RecordedThing(
    string Id, TakenAct? Act, string What, string Place, IReadOnlyList<Fastener> Groups, bool IsTarget, IReadOnlyList<string> Tools, string? Where, IReadOnlyList<PartWord> Words, IReadOnlyList<string> Told)
{
    /// <summary>What it is to the work.</summary>
    public PartRole Role => IsTarget ? PartRole.Motor : Words is [var about, ..] ? about.Role : Act is TakenAct.Plug or TakenAct.Hose or TakenAct.Lead ? PartRole.Connection : PartRole.Other;

    /// <summary>Cautions that its words bring, and those told.</summary>
    public IReadOnlyList<string> Cautions => [.. Words.SelectMany(w => w.Cautions).Concat(Told).Distinct()];

    /// <summary>The instruction on the way in.</summary>
    public string Title => (Act ?? TakenAct.Loosened).Title(What);

    /// <summary>It as an operation, without what it needs.</summary>
    public Operation ToOperation() => new()
    {
        Id = Id, Title = Title, Done = Title, Undone = (Act ?? TakenAct.Loosened).Undone(What), Kind = Act == TakenAct.Looked ? OperationKind.Once : OperationKind.Open, Position = Place, Place = Where,
        Minutes = WorkFrameReader.NoMinutes, Needs = Needs.Nothing, Tools = Tools, Fasteners = Groups, Cautions = Cautions, Damage = new Damage(0, 0, ""), Consumes = [],
        Off = Act?.Piece() is { } kind ? [new PieceOff(kind, What, 1)] : Role == PartRole.Cover && Act == TakenAct.Part ? [new PieceOff("cover", What, 1)] : [],
        Close = new Closing(null, null, false, (Act ?? TakenAct.Loosened).Undone(What)),
    };
}
