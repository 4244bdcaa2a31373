using System.Globalization;

namespace Screeline.Web.Drawing;

/// <summary>Paths of the data files: M, L, H, V and Z with whole numbers.</summary>
public static class SvgPath
{
    /// <summary>The corners of a path, in order.</summary>
    public static List<(double X, double Y)> Corners(string path)
    {
        var corners = new List<(double X, double Y)>();
        var (x, y) = (0.0, 0.0);
        var words = path.Replace("M", " M ", StringComparison.Ordinal).Replace("L", " L ", StringComparison.Ordinal).Replace("H", " H ", StringComparison.Ordinal).Replace("V", " V ", StringComparison.Ordinal).Split(' ', StringSplitOptions.RemoveEmptyEntries);
        for (var i = 0; i < words.Length;)
        {
            double Next() => double.Parse(words[i++], CultureInfo.InvariantCulture);
            switch (words[i++])
            {
                case "H": x = Next(); break;
                case "V": y = Next(); break;
                default: (x, y) = (Next(), Next()); break;
            }

            corners.Add((x, y));
        }

        return corners;
    }

    /// <summary>The solid head at the end of an arrow, 12 long and 10 wide, in the direction of its last stretch.</summary>
    public static string ArrowHead(string path)
    {
        var corners = Corners(path);
        var (a, b) = (corners[^2], corners[^1]);
        var length = Math.Sqrt((b.X - a.X) * (b.X - a.X) + (b.Y - a.Y) * (b.Y - a.Y));
        var (dx, dy) = ((b.X - a.X) / length, (b.Y - a.Y) / length);
        return string.Create(CultureInfo.InvariantCulture, $"M{b.X:0.#} {b.Y:0.#}L{b.X - 12 * dx + 5 * dy:0.#} {b.Y - 12 * dy - 5 * dx:0.#}L{b.X - 12 * dx - 5 * dy:0.#} {b.Y - 12 * dy + 5 * dx:0.#}Z");
    }
}
