namespace Screeline.Core.Fastening;

/// <summary>Whether a tool takes a drive.</summary>
public enum Fit
{
    /// <summary>As good as the right one.</summary>
    Fits,
    /// <summary>Goes on and may turn a light screw; rounds the corners off under load.</summary>
    Loose,
    /// <summary>Goes on only where the hexagon is at the small end of its tolerance.</summary>
    Perhaps,
    /// <summary>Does not go on.</summary>
    DoesNotGoOn,
    /// <summary>Turns round, or spoils the head at the first pull.</summary>
    Spoils,
}

/// <summary>What is known of a tool on a head.</summary>
/// <param name="Fit">The verdict.</param>
/// <param name="ClearanceLeast">Least clearance over the flats, mm; negative when it may not go on. Null where it is no hexagon.</param>
/// <param name="ClearanceMost">Greatest clearance over the flats, mm.</param>
/// <param name="FreeTurn">Degrees the worst pair turns before the corners bite; the right one stays below 6.5.</param>
/// <param name="Why">One line.</param>
public sealed record SocketVerdict(Fit Fit, double? ClearanceLeast, double? ClearanceMost, double? FreeTurn, string Why);

/// <summary>
/// Will another socket do? Hexagons: widths of ISO 272 with the tolerances of ISO 4759-1, grade A; openings with those of ISO 691 (from
/// memory). A hexagon of width s in an opening w turns by 30° − arccos(w/s · cos 30°) before its corners meet the flats.
/// </summary>
public static class SocketFit
{
    /// <summary>Free turn that the right socket stays below with a hexagon of grade A, degrees; beyond it corners are rounded off under load.</summary>
    public const double MostFreeTurn = 6.5;

    /// <summary>Free turn from which a head is spoilt at the first pull, degrees.</summary>
    public const double SpoilsAt = 12;

    // ISO 286: IT13 and IT14 by nominal size, mm.
    private static readonly (double To, double It13, double It14)[] Tolerances = [(3, 0.14, 0.25), (6, 0.18, 0.30), (10, 0.22, 0.36), (18, 0.27, 0.43), (30, 0.33, 0.52), (50, 0.39, 0.62), (80, 0.46, 0.74)];

    // ISO 691: how much wider than nominal an opening is, from and to, mm.
    private static readonly (double To, double From, double Till)[] Openings = [(4, 0.01, 0.12), (6, 0.02, 0.12), (9.5, 0.03, 0.15), (11.5, 0.04, 0.19), (13.5, 0.04, 0.24), (16.5, 0.05, 0.27), (18.5, 0.05, 0.30), (26.5, 0.06, 0.36), (33, 0.08, 0.48), (60, 0.10, 0.60), (80, 0.12, 0.72)];

    // ISO 10664: across the points of the recess, mm, by T size (from memory).
    private static readonly Dictionary<int, double> Lobes = new() { [6] = 1.75, [7] = 2.06, [8] = 2.40, [9] = 2.58, [10] = 2.80, [15] = 3.35, [20] = 3.95, [25] = 4.50, [27] = 5.07, [30] = 5.60, [40] = 6.75, [45] = 7.93, [50] = 8.95, [55] = 11.35, [60] = 13.45 };

    /// <summary>Least width of a hexagon, mm: nominal less IT13 to 32 mm, less IT14 above (ISO 4759-1, grade A).</summary>
    public static double LeastHexagon(double nominal)
    {
        var band = Tolerances.First(t => nominal <= t.To);
        return nominal - (nominal <= 32 ? band.It13 : band.It14);
    }

    /// <summary>Whether a tool for one drive takes another.</summary>
    /// <param name="head">The head or recess there is.</param>
    /// <param name="tool">What the tool is made for.</param>
    public static SocketVerdict Judge(Drive head, Drive tool)
    {
        if (head.Shape == DriveShape.Hex && tool.Shape == DriveShape.Hex)
        {
            return OfHexagon(head, tool);
        }

        if (head.Shape == DriveShape.Hex && tool.Shape == DriveShape.ExternalLobe)
        {
            return new SocketVerdict(Fit.Spoils, null, null, null, "An external six-lobe on a hexagon bites into the corners: damage");
        }

        if (head.Shape == tool.Shape && head.Shape == DriveShape.Slot)
        {
            return new SocketVerdict(Fit.Fits, null, null, null, "A slot takes the blade that fills it");
        }

        if (head.Shape == tool.Shape && head.Shape == DriveShape.Lobe && Lobes.TryGetValue((int)head.Size, out var recess) && Lobes.TryGetValue((int)tool.Size, out var bit))
        {
            return Math.Abs(recess - bit) < 0.01 ? new SocketVerdict(Fit.Fits, 0, 0, null, "The same size")
                : bit > recess ? new SocketVerdict(Fit.DoesNotGoOn, recess - bit, recess - bit, null, $"{tool} is {bit - recess:0.0#} mm too wide for {head}")
                : recess - bit < 0.12 * recess ? new SocketVerdict(Fit.Loose, recess - bit, recess - bit, null, $"{tool} is {recess - bit:0.0#} mm too small: it strips {head} under load")
                : new SocketVerdict(Fit.Spoils, recess - bit, recess - bit, null, $"{tool} turns round in {head}");
        }

        if (head.Shape == tool.Shape && Math.Abs(head.Size - tool.Size) < 0.01)
        {
            return new SocketVerdict(Fit.Fits, 0, 0, null, "The same size");
        }

        return (head.Shape, tool.Shape) is (DriveShape.Cross, DriveShape.CrossZ) or (DriveShape.CrossZ, DriveShape.Cross) && Math.Abs(head.Size - tool.Size) < 0.01
            ? new SocketVerdict(Fit.Loose, null, null, null, "PH and PZ of one size sit on their ribs: they climb out under load")
            : head.Shape == DriveShape.HexKey && tool.Shape == DriveShape.HexKey ? OfKey(head, tool)
            : new SocketVerdict(Fit.DoesNotGoOn, null, null, null, $"{tool} is not made for {head}");
    }

    private static SocketVerdict OfHexagon(Drive head, Drive tool)
    {
        var opening = Openings.First(o => tool.Size <= o.To);
        var (least, most) = (tool.Size + opening.From, tool.Size + opening.Till);
        var (small, large) = (LeastHexagon(head.Size), head.Size);
        var (clearanceLeast, clearanceMost) = (least - large, most - small);
        var cosine = most / small * Math.Cos(Math.PI / 6);
        var free = cosine >= 1 ? 30 : 30 - Math.Acos(cosine) * 180 / Math.PI;
        var between = $"{Math.Max(0, clearanceLeast):0.00} to {clearanceMost:0.00} mm of play";
        return clearanceMost <= 0 ? new SocketVerdict(Fit.DoesNotGoOn, clearanceLeast, clearanceMost, null, $"{-clearanceMost:0.0#} mm too narrow at best")
            : cosine >= 1 ? new SocketVerdict(Fit.Spoils, clearanceLeast, clearanceMost, 30, "It turns round on the corners")
            : free > SpoilsAt ? new SocketVerdict(Fit.Spoils, clearanceLeast, clearanceMost, free, $"{between}: the corners round off at the first pull")
            : clearanceLeast < 0 ? new SocketVerdict(Fit.Perhaps, clearanceLeast, clearanceMost, free, $"Goes on only where the head is at the small end: {-clearanceLeast:0.00} mm too narrow to {clearanceMost:0.00} mm of play")
            : free > MostFreeTurn ? new SocketVerdict(Fit.Loose, clearanceLeast, clearanceMost, free, $"{between}: turns {free:0}° before it bites, rounds the corners off under load")
            : new SocketVerdict(Fit.Fits, clearanceLeast, clearanceMost, free, Math.Abs(tool.Size - head.Size) < 0.01 ? $"The right size, {between}" : $"{between}, as the right one");
    }

    private static SocketVerdict OfKey(Drive head, Drive tool) =>
        tool.Size > head.Size + 0.05 ? new SocketVerdict(Fit.DoesNotGoOn, head.Size - tool.Size, head.Size - tool.Size, null, $"{tool.Size - head.Size:0.0#} mm too wide")
        : tool.Size > head.Size * 0.985 ? new SocketVerdict(Fit.Fits, 0, head.Size - tool.Size, null, "Nearly the same width")
        : tool.Size > head.Size * 0.95 ? new SocketVerdict(Fit.Loose, 0, head.Size - tool.Size, null, $"{head.Size - tool.Size:0.0#} mm too small: it rounds the recess out under load")
        : new SocketVerdict(Fit.Spoils, 0, head.Size - tool.Size, null, "It turns round in the recess");
}
