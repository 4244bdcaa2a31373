using System.Globalization;
using System.Text;
using Screeline.Core.Motion;

namespace Screeline.Web.Drawing;

/// <summary>
/// A wiper linkage to scale on its windscreen, from the driver's seat: found thin, right thick, bands at the tips, contacts marked.
/// </summary>
public sealed class WiperPicture
{
    private const double Width = 720;
    private const double Margin = 12;
    private const int FrameStep = 3;

    private readonly WiperLinkage _right;
    private readonly WiperLinkage? _found;
    private readonly double _scale;
    private readonly double _left;
    private readonly double _top;

    /// <summary>Draws it.</summary>
    /// <param name="right">The linkage as it should be.</param>
    /// <param name="found">As it stands now, or null.</param>
    /// <param name="seen">What was measured: contacts are marked.</param>
    /// <param name="crank">The angle it is shown at.</param>
    public WiperPicture(WiperLinkage right, WiperLinkage? found, IReadOnlyList<TipSeen> seen, double crank)
    {
        (_right, _found) = (right, found);
        var glass = right.Glass;
        List<Planar> all = [.. glass.Cowl, .. glass.LeftPillar, .. glass.RightPillar, right.Motor - new Planar(right.Crank + 20, right.Crank + 20), right.Motor + new Planar(right.Crank + 20, 0), .. right.Rockers.Select(r => r.Pivot - new Planar(0, r.Lever + 20))];
        var (x0, x1, y0, y1) = (all.Min(p => p.X), all.Max(p => p.X), all.Min(p => p.Y), all.Max(p => p.Y));
        _scale = (Width - 2 * Margin) / (x1 - x0);
        (_left, _top) = (x0, y1);
        var height = _scale * (y1 - y0) + 2 * Margin;

        var words = string.Join(", ", right.Rockers.Select((r, i) => $"{r.Title.ToLowerInvariant()} tip {SvgDrawing.N(right.TipHeights(right.Park[0])[i])} mm above the cowl at park{(found is null ? "" : $", now {SvgDrawing.N(found.TipHeights(found.Park[0])[i])} mm")}"));
        Drawing = new SvgDrawing(Width, height, "Wiper linkage on the windscreen, from the driver's seat", words);

        // The glass, open at its top where the roof begins.
        Drawing.Line("d-outline d-inset", [.. glass.LeftPillar.Reverse().Select(P), .. glass.Cowl.Select(P), .. glass.RightPillar.Select(P)], closed: true);
        Drawing.Line("d-edge", glass.Cowl.Select(P));
        Drawing.Line("d-edge", glass.LeftPillar.Select(P));
        Drawing.Line("d-edge", glass.RightPillar.Select(P));
        foreach (var (rocker, i) in right.Rockers.Select((r, i) => (r, i)))
        {
            DrawBand(rocker, i);
            DrawSweep(i);
        }

        DrawMoving(found, crank, "f", false);
        DrawMoving(right, crank, "r", true);
        Drawing.Circle("d-edge d-sheet", P(right.Motor).X, P(right.Motor).Y, 9);
        Drawing.Words("d-number d-small", P(right.Motor).X, P(right.Motor).Y + 5, "M");
        foreach (var s in seen.Where(s => s.What == TipMeasure.PillarClearance && s.Value <= 0))
        {
            Contact((found ?? right).Turn((right.Range.To - right.Range.From) / 72).MinBy(p => right.Glass.PillarClearance(p.Rockers[s.Arm].Tip))!.Rockers[s.Arm].Tip);
        }

        foreach (var s in seen.Where(s => s.What is TipMeasure.ParkHeight or TipMeasure.LowHeight && s.Value <= 0))
        {
            Contact(Stand(found ?? right, (found ?? right).Park[0]).Rockers[s.Arm].Tip);
        }
    }

    /// <summary>The drawing.</summary>
    public SvgDrawing Drawing { get; }

    private (double X, double Y) P(Planar p) => (Margin + _scale * (p.X - _left), Margin + _scale * (_top - p.Y));

    // The band lies across the tip's path, square to the cowl.
    private void DrawBand(WiperRocker rocker, int i)
    {
        foreach (var park in _right.Park)
        {
            var tip = Stand(_right, park).Rockers[i].Tip;
            var up = new Planar(0, 1);
            var (low, high) = (tip + (rocker.Band.Low - rocker.Band.Height) * up, tip + (rocker.Band.High - rocker.Band.Height) * up);
            var side = 14 / _scale;
            Drawing.Line("d-band", [P(low - new Planar(side, 0)), P(low + new Planar(side, 0)), P(high + new Planar(side, 0)), P(high - new Planar(side, 0))], closed: true);
            Drawing.Line("d-outline", [P(low - new Planar(side, 0)), P(low + new Planar(side, 0))]);
            Drawing.Line("d-outline", [P(high - new Planar(side, 0)), P(high + new Planar(side, 0))]);
        }
    }

    private void DrawSweep(int i)
    {
        var sweep = _right.SweepOf(i);
        var arm = _right.Rockers[i];
        var steps = Math.Max(2, (int)(sweep.Angle / 3));
        Drawing.Line("d-hair", Enumerable.Range(0, steps + 1).Select(k => P(arm.Pivot + Planar.At(arm.Arm.Tip, sweep.Low + k * sweep.Angle / steps))));
        Drawing.Line("d-hair", Enumerable.Range(0, steps + 1).Select(k => P(arm.Pivot + Planar.At(Math.Max(arm.Arm.Heel, 1), sweep.Low + k * sweep.Angle / steps))));
    }

    private void DrawMoving(WiperLinkage? linkage, double crank, string name, bool thick)
    {
        if (linkage is null)
        {
            return;
        }

        var at = Stand(linkage, Clamp(linkage, crank + Shift(linkage)));
        var lines = Lines(linkage, at);
        for (var k = 0; k < lines.Count; k++)
        {
            var css = lines[k].Blade ? (thick ? "d-travelled" : "d-outline d-either") : thick ? "d-edge" : "d-outline d-either";
            Drawing.Line(css, lines[k].Points.Select(P), $"{name}{k}");
        }

        if (thick)
        {
            foreach (var r in linkage.Rockers)
            {
                Drawing.Circle("d-outline d-sheet", P(r.Pivot).X, P(r.Pivot).Y, 5);
            }
        }
    }

    private static LinkagePosition Stand(WiperLinkage linkage, double crank) => linkage.At(crank) ?? throw new MotionException($"At {crank:0}° of the crank a link does not reach.");

    // The found one is shown at the same angle of the motor's shaft: its crank sits elsewhere on it.
    private double Shift(WiperLinkage linkage) => linkage.Park[0] - _right.Park[0];

    private static double Clamp(WiperLinkage linkage, double crank) => linkage.Drive == WiperDrive.Reversing ? Math.Clamp(crank, linkage.Range.From, linkage.Range.To) : crank;

    // What moves: crank, then for each rocker its link, its lever (with the one the next hangs on), its arm and its blade.
    private static List<(IReadOnlyList<Planar> Points, bool Blade)> Lines(WiperLinkage l, LinkagePosition at)
    {
        var lines = new List<(IReadOnlyList<Planar>, bool)>();
        if (l.Crank > 0)
        {
            lines.Add(([l.Motor, at.CrankEnd], false));
        }

        foreach (var (r, p) in l.Rockers.Zip(at.Rockers))
        {
            if (!r.IsDirect)
            {
                lines.Add(([p.LinkFrom, p.LinkTo], false));
                lines.Add(([p.LinkTo, r.Pivot], false));
            }

            lines.Add(([r.Pivot, p.Heel], false));
            lines.Add(([p.Heel, p.Tip], true));
        }

        return lines;
    }

    /// <summary>
    /// Positions in steps of the crank from the start of its range, for scripts: {"from":…,"to":…,"park":…,"turns":true,"r":[[x,y,…],…],"f":…}, each row the
    /// points of the moving lines in the order of their parts.
    /// </summary>
    public string Frames()
    {
        var (from, to) = _right.Range;
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"{{\"from\":{SvgDrawing.N(from)},\"to\":{SvgDrawing.N(to)},\"park\":{SvgDrawing.N(_right.Park[0])},\"turns\":{(_right.Drive == WiperDrive.Reversing ? "false" : "true")}");
        foreach (var (name, linkage) in new[] { ("r", _right), ("f", _found) })
        {
            if (linkage is null)
            {
                continue;
            }

            var count = (int)Math.Ceiling((to - from) / FrameStep);
            text.Append(",\"").Append(name).Append("\":[");
            text.AppendJoin(',', Enumerable.Range(0, count + 1).Select(i => Stand(linkage, Clamp(linkage, from + i * (to - from) / count + Shift(linkage))))
                .Select(at => "[" + string.Join(',', Lines(linkage, at).SelectMany(l => l.Points).Select(P).SelectMany(p => new[] { SvgDrawing.N(p.X), SvgDrawing.N(p.Y) })) + "]"));
            text.Append(']');
        }

        return text.Append('}').ToString();
    }

    private void Contact(Planar tip)
    {
        var (x, y) = P(tip);
        Drawing.Path("d-danger d-travelled", string.Create(CultureInfo.InvariantCulture, $"M{x - 14:0.#} {y + 8:0.#}L{x - 3:0.#} {y + 2:0.#}M{x + 3:0.#} {y - 2:0.#}L{x + 14:0.#} {y - 8:0.#}"));
    }
}
