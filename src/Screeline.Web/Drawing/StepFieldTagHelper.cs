using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Razor.TagHelpers;
using Screeline.Web.Setting;

namespace Screeline.Web.Drawing;

/// <summary>
/// A figure that is typed or, with a gloved finger, stepped: &lt;step-field for-view="Model" name="park0" title="At park" unit="mm" by="1" /&gt;. Without scripts
/// it is a field; its fault stands below it.
/// </summary>
[HtmlTargetElement("step-field", TagStructure = TagStructure.WithoutEndTag)]
public sealed class StepFieldTagHelper : TagHelper
{
    /// <summary>The setting it belongs to.</summary>
    public required SettingView ForView { get; set; }

    /// <summary>Field.</summary>
    public required string Name { get; set; }

    /// <summary>What is typed here.</summary>
    public required string Title { get; set; }

    /// <summary>Its unit; empty for none.</summary>
    public string Unit { get; set; } = "";

    /// <summary>What one press adds; 0 for no buttons.</summary>
    public double By { get; set; } = 1;

    /// <summary>What it would be on a right vehicle, or what the library says; a press starts from it.</summary>
    public double? Usual { get; set; }

    /// <summary>Whether the hand goes here next.</summary>
    public bool Next { get; set; }

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "div";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", "field");
        string E(string text) => HtmlEncoder.Default.Encode(text);
        var usual = Usual is { } u ? SettingWork.Text(u, By == 0 ? 2 : 1) : "";
        var by = SettingWork.Text(By);
        string Button(string sign, string word, double step) => By == 0 ? "" : $"<button type=\"button\" class=\"btn step-by\" x-on:click=\"press\" data-step=\"{SettingWork.Text(step)}\" aria-label=\"{E($"{word} {by} {Unit}: {Title}")}\">{sign}</button>";
        output.Content.SetHtmlContent(
            $"<label for=\"{E(Name)}\">{E(Title)}{(Unit.Length > 0 ? $",&nbsp;{E(Unit)}" : "")}</label><div class=\"stepper\" x-data=\"stepper\">{Button("−", "Less", -By)}"
            + $"<input class=\"form-control\" id=\"{E(Name)}\" name=\"{E(Name)}\" inputmode=\"decimal\" autocomplete=\"off\" value=\"{E(ForView.Work.Asked(Name))}\" placeholder=\"{E(usual)}\" aria-describedby=\"{E(Name)}-fault\"{(Next ? " data-next" : "")}>"
            + $"{Button("+", "More", By)}</div><p class=\"fault\" id=\"{E(Name)}-fault\">{E(ForView.Fault(Name) ?? "")}</p>");
    }
}
