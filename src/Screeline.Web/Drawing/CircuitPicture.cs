using System.Globalization;
using Screeline.Core.Diagnosis;

namespace Screeline.Web.Drawing;

/// <summary>A probe point as drawn.</summary>
/// <param name="Point">The point.</param>
/// <param name="Number">The number it carries.</param>
/// <param name="State">now, done, danger or todo.</param>
public sealed record DrawnPoint(TestPoint Point, int Number, string State);

/// <summary>A wire as drawn.</summary>
/// <param name="Path">Its SVG path.</param>
/// <param name="Live">Whether it carries current in the state of the test at hand.</param>
/// <param name="Chevrons">SVG path of the chevrons along it; empty without current.</param>
public sealed record DrawnLine(string Path, bool Live, string Chevrons);

/// <summary>The circuit of a system as SVG numbers: wires with their current, symbols with their leads, points with their state.</summary>
public sealed class CircuitPicture
{
    // A current below this is not worth a mark: lamps of the dash, sleeping modules.
    private const double LeastAmperes = 0.05;
    private const int ChevronEvery = 48;

    private readonly List<List<(double X, double Y)>> _lines;

    /// <summary>Draws a system for a test.</summary>
    /// <param name="system">The system.</param>
    /// <param name="test">The test at hand, whose probes are marked.</param>
    /// <param name="currents">Currents in the test's state.</param>
    /// <param name="good">Whether the latest reading of a test is good; null when there is none.</param>
    /// <param name="open">Whether there is still something to probe.</param>
    public CircuitPicture(FaultSystem system, FaultTest test, IReadOnlyDictionary<string, double> currents, Func<string, bool?> good, bool open)
    {
        (System, Test) = (system, test);
        _lines = [.. system.Drawing.Wires.Select(w => SvgPath.Corners(w.Path))];
        Wires = [.. system.Drawing.Wires.Select((w, i) => Wire(w, _lines[i], system, currents))];
        Points = [.. system.Points.Select((p, i) => new DrawnPoint(p, i + 1, StateOf(p, test, system, good, open)))];
    }

    public FaultSystem System { get; }
    public FaultTest Test { get; }
    public IReadOnlyList<DrawnLine> Wires { get; }
    public IReadOnlyList<DrawnPoint> Points { get; }

    /// <summary>Whether anything carries current in this state.</summary>
    public bool AnyLive => Wires.Any(w => w.Chevrons.Length > 0);

    /// <summary>The part of the drawing round the points to probe, for narrow screens: left, top, width, height.</summary>
    public (int Left, int Top, int Width, int Height) Crop
    {
        get
        {
            var now = Points.Where(p => p.State == "now").Select(p => p.Point).DefaultIfEmpty(System.Points[0]).ToList();
            var (left, right, top, bottom) = (now.Min(p => p.X), now.Max(p => p.X), now.Min(p => p.Y), now.Max(p => p.Y));
            var width = Math.Min(System.Drawing.Width, Math.Max(320, right - left + 120));
            var height = Math.Min(System.Drawing.Height, Math.Max(200, bottom - top + 96));
            return (Math.Clamp((left + right - width) / 2, 0, System.Drawing.Width - width), Math.Clamp((top + bottom - height) / 2, 0, System.Drawing.Height - height), width, height);
        }
    }

    /// <summary>Ends of wires near a symbol, as lines to its middle; what is drawn over them covers the rest.</summary>
    public string Leads(DrawnSymbol s)
    {
        // Straight to the middle; a round motor may be met at a slant.
        var ends = _lines.SelectMany(l => new[] { l[0], l[^1] })
            .Where(e => (e.X == s.X && Math.Abs(e.Y - s.Y) <= 64) || (e.Y == s.Y && Math.Abs(e.X - s.X) <= 48) || (s.Kind == "motor" && (e.X - s.X) * (e.X - s.X) + (e.Y - s.Y) * (e.Y - s.Y) <= 56 * 56)).ToList();
        // A switch shows its gap: leads end at its two contacts.
        return string.Concat(ends.Select(e => s.Kind == "switch"
            ? string.Create(CultureInfo.InvariantCulture, $"M{e.X} {e.Y}L{s.X + 16 * Math.Sign(e.X - s.X)} {s.Y}")
            : string.Create(CultureInfo.InvariantCulture, $"M{e.X} {e.Y}L{s.X} {s.Y}")));
    }

    /// <summary>Whether wires meet a symbol from above and below rather than from the sides.</summary>
    public bool Upright(DrawnSymbol s) => _lines.SelectMany(l => new[] { l[0], l[^1] }).Any(e => e.X == s.X && Math.Abs(e.Y - s.Y) is > 0 and <= 64)
        && !_lines.SelectMany(l => new[] { l[0], l[^1] }).Any(e => e.Y == s.Y && Math.Abs(e.X - s.X) is > 0 and <= 48);

    private static string StateOf(TestPoint point, FaultTest test, FaultSystem system, Func<string, bool?> good, bool open)
    {
        if (open && test.Probes.Contains(point.Id))
        {
            return "now";
        }

        var read = system.Tests.Where(t => t.Probes.Contains(point.Id)).Select(t => good(t.Id)).Where(g => g is not null).ToList();
        return read.Contains(false) ? "danger" : read.Count > 0 ? "done" : "todo";
    }

    private static DrawnLine Wire(DrawnWire wire, List<(double X, double Y)> corners, FaultSystem system, IReadOnlyDictionary<string, double> currents)
    {
        var amperes = wire.Element is { } id ? currents.GetValueOrDefault(id) : 0;
        var live = Math.Abs(amperes) >= LeastAmperes;
        // The battery's own current counts into its post; its lead needs no arrow.
        var arrows = live && system.Circuit.FirstOrDefault(p => p.Id == wire.Element)?.Kind is not ("battery" or "source");
        return new DrawnLine(wire.Path, live, arrows ? Chevrons(corners, amperes > 0) : "");
    }

    private static string Chevrons(List<(double X, double Y)> corners, bool forward)
    {
        var path = "";
        var at = ChevronEvery / 2.0;
        for (var i = 1; i < corners.Count; i++)
        {
            var (a, b) = (corners[i - 1], corners[i]);
            var length = Math.Abs(b.X - a.X) + Math.Abs(b.Y - a.Y);
            var (dx, dy) = ((b.X - a.X) / length, (b.Y - a.Y) / length);
            for (; at <= length - 8; at += ChevronEvery)
            {
                var (x, y, s) = (a.X + dx * at, a.Y + dy * at, forward ? 6 : -6);
                path += string.Create(CultureInfo.InvariantCulture, $"M{x - s * dx - 6 * dy:0} {y - s * dy - 6 * dx:0}L{x + s * dx:0} {y + s * dy:0}L{x - s * dx + 6 * dy:0} {y - s * dy + 6 * dx:0}");
            }

            at = Math.Max(ChevronEvery / 2.0, at - length);
        }

        return path;
    }
}
