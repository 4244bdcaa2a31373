using System.Globalization;
using Screeline.Core.Jobs;

namespace Screeline.Web.Drawing;

/// <summary>The section line as SVG path data in a box.</summary>
/// <param name="Line">The line.</param>
/// <param name="Width">Width of the box; seven stages fill it.</param>
/// <param name="Height">Height of the box; the line keeps 6 clear above and below.</param>
public sealed record LinePath(SectionLine Line, int Width, int Height)
{
    private const int Clear = 6;

    /// <summary>Path of one part; empty when the part is.</summary>
    public string Of(IReadOnlyList<LinePoint> part) =>
        part.Count < 2 ? "" : string.Join(' ', part.Select((p, i) => (i == 0 ? "M" : "L") + X(p) + " " + Y(p)));

    /// <summary>In words, for those who do not see it.</summary>
    public string Words
    {
        get
        {
            var depth = Line.Travelled.Count > 0 ? Line.Travelled[^1].Depth : 0;
            return depth == 0 ? "Section line: nothing open" : $"Section line: {depth} open";
        }
    }

    /// <summary>A horizontal place in the box.</summary>
    public string X(LinePoint p) => (p.X / 7m * Width).ToString("0.##", CultureInfo.InvariantCulture);

    /// <summary>A vertical place in the box.</summary>
    public string Y(LinePoint p) => (Clear + (decimal)p.Depth / Line.Deepest * (Height - 2 * Clear)).ToString("0.##", CultureInfo.InvariantCulture);
}
