using Microsoft.AspNetCore.Html;

namespace Screeline.Web.Drawing;

/// <summary>The pictures of Insight: bars of two lengths, points against a line, a field of counts. Told by length, place and figure, never by colour.</summary>
public static class InsightPicture
{
    private const double Width = 640;
    private const double Row = 66;

    /// <summary>For each line an outlined bar (the first figure) with a solid one inside (the second).</summary>
    /// <param name="title">What it is.</param>
    /// <param name="says">What it shows, in one line.</param>
    /// <param name="rows">Name, first and second figure, and how they are told.</param>
    public static IHtmlContent Bars(string title, string says, IReadOnlyList<(string Name, double First, double Second, string Told)> rows)
    {
        var drawing = new SvgDrawing(Width, rows.Count * Row, title, says);
        var most = Math.Max(1e-9, rows.Max(r => Math.Max(r.First, r.Second)));
        for (var i = 0; i < rows.Count; i++)
        {
            var (y, r) = (i * Row, rows[i]);
            double Length(double value) => value / most * (Width - 2);
            // The figure stands with the name, so that it is read also where the longest bar runs past the edge.
            drawing.Words("d-text-strong", 0, y + 20, $"{Short(r.Name)}: {r.Told}");
            drawing.Box("d-inset", 1, y + 28, Length(r.First), 28);
            drawing.Line("d-outline", [(1, y + 28), (1 + Length(r.First), y + 28), (1 + Length(r.First), y + 56), (1, y + 56)], closed: true);
            drawing.Box("d-solid", 1, y + 36, Length(r.Second), 12);
        }

        return drawing.Inline;
    }

    /// <summary>Each job as a point, its estimate to the right, what it took upwards; on the line both are the same.</summary>
    public static IHtmlContent Scatter(string title, string says, IReadOnlyList<(double Estimate, double Took)> points)
    {
        const double size = 420;
        const double left = 70;
        var most = Math.Ceiling(Math.Max(30, points.Max(p => Math.Max(p.Estimate, p.Took))) / 30) * 30;
        double X(double v) => left + v / most * size;
        double Y(double v) => 10 + size - v / most * size;
        var drawing = new SvgDrawing(left + size + 130, size + 60, title, says);
        for (var tick = 0.0; tick <= most + 1; tick += most / 3)
        {
            drawing.Line("d-hair", [(X(0), Y(tick)), (X(most), Y(tick))]);
            drawing.Line("d-hair", [(X(tick), Y(0)), (X(tick), Y(most))]);
            drawing.Words("d-text-aside d-end", left - 8, Y(tick) + 6, $"{tick:0}");
            drawing.Words("d-text-aside d-middle", X(tick), size + 34, $"{tick:0}");
        }

        drawing.Line("d-outline d-either", [(X(0), Y(0)), (X(most), Y(most))]);
        drawing.Words("d-text", X(most) + 8, Y(most) + 14, "took as long");
        drawing.Words("d-text-aside d-middle", X(most / 2), size + 56, "Estimate, minutes");
        drawing.Words("d-text-aside", 0, 10, "Took");
        foreach (var (estimate, took) in points)
        {
            drawing.Circle("d-solid", X(estimate), Y(took), 5);
        }

        return drawing.Inline;
    }

    /// <summary>A field of counts: lines against columns, each count as a square of its size with its figure beside.</summary>
    public static IHtmlContent Field(string title, string says, IReadOnlyList<string> lines, IReadOnlyList<string> columns, Func<int, int, int> count)
    {
        const double left = 8;
        var cell = Math.Min(96, (Width - left) / columns.Count);
        var drawing = new SvgDrawing(Width, 64 + lines.Count * 68, title, says);
        var most = Math.Max(1, lines.SelectMany((_, i) => columns.Select((_, j) => count(i, j))).Max());
        for (var j = 0; j < columns.Count; j++)
        {
            var words = columns[j].Split(' ');
            drawing.Words("d-text-aside d-middle", left + j * cell + cell / 2, 22, words[0]);
            drawing.Words("d-text-aside d-middle", left + j * cell + cell / 2, 44, words.Length > 1 ? words[1] : "");
        }

        for (var i = 0; i < lines.Count; i++)
        {
            var y = 82 + i * 68;
            drawing.Line("d-hair", [(0, y - 24), (Width, y - 24)]);
            drawing.Words("d-text-strong", 0, y - 2, Short(lines[i]));
            for (var j = 0; j < columns.Count; j++)
            {
                if (count(i, j) is > 0 and var n)
                {
                    var side = 8 + 22 * Math.Sqrt((double)n / most);
                    drawing.Box("d-solid", left + j * cell + 20 - side / 2, y + 22 - side / 2, side, side);
                    drawing.Words("d-text-strong", left + j * cell + 38, y + 28, $"{n}");
                }
            }
        }

        return drawing.Inline;
    }

    private static string Short(string name) => name.Length > 64 ? name[..63] + "…" : name;
}
