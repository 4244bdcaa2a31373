using System.Globalization;
using Screeline.Core.Access;

namespace Screeline.Web.Drawing;

/// <summary>An access map drawn: lanes by position, deeper further down, a way lit, what is off, what blocks.</summary>
/// <param name="Map">The map.</param>
/// <param name="Layout">Where everything stands.</param>
/// <param name="Way">Operations of the way that is lit.</param>
/// <param name="Off">Operations that are off already.</param>
/// <param name="Blocked">Operations that will not come off.</param>
/// <param name="Target">The motor.</param>
public sealed record MapPicture(AccessMap Map, MapLayout Layout, IReadOnlySet<string> Way, IReadOnlySet<string> Off, IReadOnlySet<string> Blocked, string Target)
{
    /// <summary>The operation the hand is at, or null.</summary>
    public string? Now { get; init; }

    /// <summary>Whether its parts can be walked through with the arrow keys and chosen.</summary>
    public bool Picks { get; init; }

    /// <summary>The width of the column it is drawn in, in pixels at the usual size.</summary>
    public int Column { get; init; } = 1200;

    private const int LaneLeast = 172;
    private const int RowHeight = 44;
    private const int Head = 72;

    /// <summary>The picture of a map.</summary>
    public static MapPicture ForWay(AccessMap map, IEnumerable<string> way, IEnumerable<string> off, IEnumerable<string> blocked, string target) =>
        new(map, MapLayout.ForMap(map), way.ToHashSet(StringComparer.Ordinal), off.ToHashSet(StringComparer.Ordinal), blocked.ToHashSet(StringComparer.Ordinal), target);

    /// <summary>Width of a lane.</summary>
    public int Lane => Math.Max(LaneLeast, Column / Math.Max(1, Layout.Lanes.Count));

    /// <summary>Width of the drawing.</summary>
    public int Width => Lane * Layout.Lanes.Count;

    /// <summary>Height of the drawing.</summary>
    public int Height => Head + RowHeight * Layout.Rows + 8;

    /// <summary>A node's place.</summary>
    public (int X, int Y) At(MapNode node) => (node.Lane * Lane + 24, Head + node.Row * RowHeight + 20);

    /// <summary>How an operation stands: now is the motor, done, blocked, lit, or aside.</summary>
    public string State(string id) => id == Now ? "now" : Blocked.Contains(id) ? "blocked" : Off.Contains(id) ? "done" : Way.Contains(id) ? "lit" : "aside";

    /// <summary>The words beside a node, cut to what its lane holds.</summary>
    public string Words(string id)
    {
        var words = Map[id].Done ?? Map[id].Title;
        var most = (Lane - 52) / 8;
        return words.Length <= most ? words : words[..(most - 1)].TrimEnd() + "…";
    }

    /// <summary>A lane's title in as many lines as it wants.</summary>
    public IReadOnlyList<string> HeadLines(int lane)
    {
        var (lines, most) = (new List<string> { "" }, (Lane - 24) / 10);
        foreach (var word in Layout.Lanes[lane].Title.Split(' '))
        {
            if (lines[^1].Length > 0 && lines[^1].Length + word.Length >= most)
            {
                lines.Add(word);
            }
            else
            {
                lines[^1] += (lines[^1].Length > 0 ? " " : "") + word;
            }
        }

        return lines;
    }

    /// <summary>An edge as a path: out to the left, down a channel of its row's own, across between the rows.</summary>
    public string Path(MapEdge edge)
    {
        var (from, to) = (Layout.Nodes.First(n => n.Id == edge.From), Layout.Nodes.First(n => n.Id == edge.To));
        var (a, b) = (At(from), At(to));
        if (a.X == b.X && to.Row == from.Row + 1)
        {
            return string.Create(CultureInfo.InvariantCulture, $"M{a.X} {a.Y}V{b.Y}");
        }

        // Neighbouring rows take different channels and heights, so that their lines lie apart.
        var (channel, height) = (a.X - 11 - 5 * (from.Row % 3), b.Y - RowHeight / 2 + 5 * (from.Row % 3) - 5);
        return a.X == b.X
            ? string.Create(CultureInfo.InvariantCulture, $"M{a.X} {a.Y}H{channel}V{b.Y}H{b.X}")
            : string.Create(CultureInfo.InvariantCulture, $"M{a.X} {a.Y}H{channel}V{height}H{b.X}V{b.Y}");
    }

    /// <summary>What a part leans on, in words.</summary>
    public string Leans(string id) => Core.Access.Learning.ShownNeeds.Words(Map, id);

    /// <summary>How an edge is drawn: of the part the hand is at, of the way, or aside; dotted where either will do, dashed where it was off and never tried without.</summary>
    public string Line(MapEdge edge) => (edge.To == Now ? "d-edge d-leans" : IsLit(edge) ? "d-edge" : "d-faint") + (edge.Either ? " d-either" : edge.Sure ? "" : " d-unsure");

    /// <summary>Whether some of its lines are of what was never tried otherwise.</summary>
    public bool HasUnsure => Layout.Edges.Any(e => !e.Sure);

    /// <summary>Whether an edge belongs to the way.</summary>
    public bool IsLit(MapEdge edge) => Way.Contains(edge.From) && Way.Contains(edge.To);
}
