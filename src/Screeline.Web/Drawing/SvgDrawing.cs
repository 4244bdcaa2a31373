using System.Globalization;
using System.Xml.Linq;
using Microsoft.AspNetCore.Html;

namespace Screeline.Web.Drawing;

/// <summary>A drawing put together in code, shown on a page or given out as a file. Its classes are those of drawings.css.</summary>
public sealed class SvgDrawing
{
    private static readonly XNamespace Svg = "http://www.w3.org/2000/svg";

    // In a file there is no style sheet: black on white, the same weights.
    private const string FileStyle = "svg{fill:none;stroke:#000;font:16px sans-serif}.d-hair{stroke:#666;stroke-width:1}.d-faint{stroke:#666;stroke-width:2}.d-outline{stroke-width:2}.d-edge{stroke-width:4}.d-travelled{stroke-width:6}.d-either{stroke-dasharray:8 6}.d-inset,.d-sheet{fill:#fff}.d-band{fill:#ddd;stroke:none}.d-danger{stroke:#900}.d-now{fill:#ddd;stroke-width:4}.d-solid,.d-text,.d-text-aside,.d-text-strong,.d-number{fill:#000;stroke:none}.d-number{text-anchor:middle}.d-text-strong,.d-number{font-weight:700}.d-end{text-anchor:end}.d-middle{text-anchor:middle}";

    private readonly XElement _root;

    /// <summary>Makes an empty drawing.</summary>
    /// <param name="width">Width of its own coordinates.</param>
    /// <param name="height">Height.</param>
    /// <param name="title">What it is.</param>
    /// <param name="description">What it shows, for those who do not see it.</param>
    public SvgDrawing(double width, double height, string title, string description) => _root = new XElement(Svg + "svg",
        new XAttribute("class", "drawn"), new XAttribute("viewBox", $"0 0 {N(width)} {N(height)}"), new XAttribute("role", "img"), new XAttribute("aria-label", $"{title}. {description}"),
        new XElement(Svg + "title", title), new XElement(Svg + "desc", description));

    /// <summary>A coordinate as text.</summary>
    public static string N(double value) => value.ToString("0.#", CultureInfo.InvariantCulture);

    /// <summary>Adds a line of points.</summary>
    /// <param name="css">Its classes.</param>
    /// <param name="points">The corners.</param>
    /// <param name="part">The name scripts move it by, or null.</param>
    /// <param name="closed">Whether it ends where it began.</param>
    public void Line(string css, IEnumerable<(double X, double Y)> points, string? part = null, bool closed = false) =>
        Path(css, Corners(points) + (closed ? "Z" : ""), part);

    /// <summary>The path of a line of points.</summary>
    public static string Corners(IEnumerable<(double X, double Y)> points) => "M" + string.Join("L", points.Select(p => $"{N(p.X)} {N(p.Y)}"));

    /// <summary>Adds a path.</summary>
    public void Path(string css, string d, string? part = null) => Add("path", css, part, ("d", d));

    /// <summary>Adds a circle.</summary>
    public void Circle(string css, double x, double y, double r, string? part = null) => Add("circle", css, part, ("cx", N(x)), ("cy", N(y)), ("r", N(r)));

    /// <summary>Adds a rectangle.</summary>
    public void Box(string css, double x, double y, double width, double height) => Add("rect", css, null, ("x", N(x)), ("y", N(y)), ("width", N(Math.Max(0, width))), ("height", N(Math.Max(0, height))));

    /// <summary>Adds words.</summary>
    public void Words(string css, double x, double y, string text, string? part = null) => Add("text", css, part, ("x", N(x)), ("y", N(y))).Value = text;

    private XElement Add(string name, string css, string? part, params (string Name, string Value)[] attributes)
    {
        var element = new XElement(Svg + name, new XAttribute("class", css), attributes.Select(a => new XAttribute(a.Name, a.Value)));
        if (part is not null)
        {
            element.Add(new XAttribute("data-part", part));
        }

        _root.Add(element);
        return element;
    }

    /// <summary>For a page.</summary>
    public IHtmlContent Inline => new HtmlString(_root.ToString(SaveOptions.DisableFormatting));

    /// <summary>As a file that looks right on its own.</summary>
    public string File
    {
        get
        {
            var copy = new XElement(_root);
            copy.AddFirst(new XElement(Svg + "style", FileStyle));
            return copy.ToString();
        }
    }
}
