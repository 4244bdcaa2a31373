using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Screeline.Web.Drawing;

/// <summary>
/// A field that says what is wrong with what was typed: &lt;input id="days" name="days" fault="@Model.Faults.GetValueOrDefault("days")"&gt;. The words stand
/// in a line of their own after it (id "days-fault"), which the field names as its description; the field carries Bootstrap's mark for what is not right.
/// The line is there without a fault too, so that it can be exchanged while one types.
/// </summary>
[HtmlTargetElement("input", Attributes = "fault", TagStructure = TagStructure.WithoutEndTag)]
[HtmlTargetElement("select", Attributes = "fault")]
[HtmlTargetElement("textarea", Attributes = "fault")]
public sealed class FaultTagHelper : TagHelper
{
    /// <summary>What is wrong; null or empty for nothing.</summary>
    public string? Fault { get; set; }

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var id = $"{(output.Attributes["id"] ?? output.Attributes["name"] ?? throw new InvalidOperationException("A field with a fault has an id or a name.")).Value}-fault";
        output.Attributes.SetAttribute("aria-describedby", id);
        AtFaultTagHelper.Mark(output, Fault);
        output.PostElement.SetHtmlContent($"<p class=\"fault\" id=\"{HtmlEncoder.Default.Encode(id)}\">{HtmlEncoder.Default.Encode(Fault ?? "")}</p>");
    }
}

/// <summary>A field whose fault stands elsewhere, at the id that its aria-describedby names: &lt;input aria-describedby="found-fault" at-fault="@fault"&gt;.</summary>
[HtmlTargetElement("input", Attributes = "at-fault", TagStructure = TagStructure.WithoutEndTag)]
[HtmlTargetElement("select", Attributes = "at-fault")]
[HtmlTargetElement("textarea", Attributes = "at-fault")]
[HtmlTargetElement("fieldset", Attributes = "at-fault")]
[HtmlTargetElement("div", Attributes = "at-fault")]
public sealed class AtFaultTagHelper : TagHelper
{
    /// <summary>What is wrong; null or empty for nothing.</summary>
    public string? AtFault { get; set; }

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output) => Mark(output, AtFault);

    internal static void Mark(TagHelperOutput output, string? fault)
    {
        if (string.IsNullOrEmpty(fault))
        {
            return;
        }

        output.Attributes.SetAttribute("aria-invalid", "true");
        output.Attributes.SetAttribute("class", $"{output.Attributes["class"]?.Value} is-invalid".TrimStart());
    }
}
