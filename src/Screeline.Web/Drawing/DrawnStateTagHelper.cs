using System.Globalization;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Screeline.Web.Drawing;

/// <summary>
/// How something drawn stands, as a stripe across its outline: the witness mark of the rows, in a drawing.
/// &lt;drawn-state state="done" x="40" y="24" /&gt;. One geometry for circuit, map, tray and outline.
/// </summary>
[HtmlTargetElement("drawn-state", TagStructure = TagStructure.NormalOrSelfClosing)]
public sealed class DrawnStateTagHelper : TagHelper
{
    /// <summary>done, danger, blocked, waiting; anything else draws nothing.</summary>
    public string State { get; set; } = "";

    /// <summary>Where the stripe crosses the outline.</summary>
    public double X { get; set; }

    /// <summary>The same, downwards.</summary>
    public double Y { get; set; }

    /// <summary>Size against the mark of a row, which is 20 wide and 16 high.</summary>
    public double Scale { get; set; } = 1;

    /// <summary>The path of a state's stripe, and its class; null when the state has none.</summary>
    public static (string Class, string Path)? Stripe(string state, double x, double y, double scale = 1)
    {
        string At(double dx, double dy) => string.Create(CultureInfo.InvariantCulture, $"{x + dx * scale:0.#} {y + dy * scale:0.#}");
        return state switch
        {
            "done" => ("d-stripe", $"M{At(-10, 8)}L{At(10, -8)}"),
            "danger" => ("d-stripe d-stripe-danger", $"M{At(-12, 2)}L{At(-2, -6)}M{At(2, 10)}L{At(12, 2)}"),
            // The broken stripe, and the line ends in a T.
            "blocked" => ("d-stripe d-stripe-danger", $"M{At(-12, 8)}L{At(-3, 2)}M{At(3, -2)}L{At(12, -8)}M{At(-16, 3)}L{At(-9, 14)}"),
            "waiting" => ("d-stripe-hollow", $"M{At(-12, 6)}L{At(8, -10)}L{At(12, -6)}L{At(-8, 10)}Z"),
            _ => null,
        };
    }

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (Stripe(State, X, Y, Scale) is not var (name, path))
        {
            output.SuppressOutput();
            return;
        }

        output.TagName = "path";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", name);
        output.Attributes.SetAttribute("d", path);
    }
}
