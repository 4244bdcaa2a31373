using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Screeline.Web.Drawing;

/// <summary>
/// A caution: hatched edge, triangle and words, never colour alone. &lt;caution-line&gt;Negative lead off.&lt;/caution-line&gt;. With
/// "doubt" it is a question about what was typed and does not say "Danger".
/// </summary>
[HtmlTargetElement("caution-line")]
public sealed class CautionTagHelper : TagHelper
{
    /// <summary>Whether it asks rather than warns.</summary>
    public bool Doubt { get; set; }

    /// <summary>Whether it stands in a block, set smaller.</summary>
    public bool Small { get; set; }

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "p";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", Small ? "caution test-caution" : "caution");
        output.PreContent.SetHtmlContent("<svg class=\"sign\" viewBox=\"0 0 32 32\" aria-hidden=\"true\" focusable=\"false\"><use href=\"#sign-danger\"></use></svg><span>" + (Doubt ? "" : "<strong>Danger:</strong> "));
        output.PostContent.SetHtmlContent("</span>");
    }
}
