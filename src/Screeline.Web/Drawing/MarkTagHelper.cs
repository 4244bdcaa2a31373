using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Screeline.Web.Drawing;

/// <summary>
/// A witness mark across the seam: &lt;mark-sign state="done" /&gt;. The mark is for the eye only; the words beside it say the same.
/// </summary>
[HtmlTargetElement("mark-sign", TagStructure = TagStructure.NormalOrSelfClosing)]
public sealed class MarkTagHelper : TagHelper
{
    /// <summary>todo, done, now, waiting, danger, blocked or not-needed.</summary>
    public string State { get; set; } = "todo";

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "svg";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", $"mark mark-{State}");
        output.Attributes.SetAttribute("viewBox", "0 0 32 32");
        output.Attributes.SetAttribute("aria-hidden", "true");
        output.Attributes.SetAttribute("focusable", "false");
        output.Content.SetHtmlContent($"<use href=\"#mark-{State}\"></use>");
    }
}
