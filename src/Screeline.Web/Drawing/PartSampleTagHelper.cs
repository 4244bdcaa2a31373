using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Screeline.Web.Drawing;

/// <summary>Shows a part of the interface and, folded away, the markup to copy: &lt;part-sample copy="true"&gt; … &lt;/part-sample&gt;. What is shown is what is copied.</summary>
[HtmlTargetElement("part-sample")]
public sealed class PartSampleTagHelper : TagHelper
{
    /// <summary>Whether the markup is shown too.</summary>
    public bool Copy { get; set; }

    /// <inheritdoc/>
    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        var html = (await output.GetChildContentAsync()).GetContent();
        output.TagName = null;
        output.Content.SetHtmlContent(Copy ? $"{html}<details class=\"parts-markup\"><summary>Markup</summary><pre>{HtmlEncoder.Default.Encode(Unindented(html))}</pre></details>" : html);
    }

    // Without the lines' common indent and empty lines.
    private static string Unindented(string html)
    {
        var lines = html.Split('\n').Where(l => !string.IsNullOrWhiteSpace(l)).ToList();
        var indent = lines.Count == 0 ? 0 : lines.Min(l => l.Length - l.TrimStart().Length);
        return string.Join('\n', lines.Select(l => l[indent..].TrimEnd()));
    }
}
