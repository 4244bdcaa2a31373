using Microsoft.AspNetCore.Razor.TagHelpers;
using Screeline.Web.Pages;

namespace Screeline.Web.Drawing;

/// <summary>
/// A form that, with scripts, exchanges the frame instead of the page: &lt;form live method="post"&gt;. Without them it is a form.
/// On a page that is used without a network it says that what it tells can wait on the device (data-keep); where that may not be, or also
/// on another page: can-wait="false", can-wait="true".
/// </summary>
[HtmlTargetElement("form", Attributes = "live")]
public sealed class LiveFormTagHelper : TagHelper
{
    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.Attributes.RemoveAll("live");
        output.Attributes.SetAttribute("hx-boost", "true");
        output.Attributes.SetAttribute("hx-target", "#frame");
        output.Attributes.SetAttribute("hx-select", "#frame");
        output.Attributes.SetAttribute("hx-swap", "outerHTML");
        output.Attributes.SetAttribute("hx-sync", "this:drop");
        output.Attributes.SetAttribute("hx-status:5xx", "swap:none");
        if (CanWait ?? ViewContext?.ViewData[JobFrame.Key] is JobFrame { WithoutNetwork: not WithoutNetwork.Nothing })
        {
            output.Attributes.SetAttribute("data-keep", "");
        }
    }

    /// <summary>Whether what it tells can wait on the device; null for what the page says.</summary>
    public bool? CanWait { get; set; }

    /// <summary>The page.</summary>
    [Microsoft.AspNetCore.Mvc.ViewFeatures.ViewContext]
    [HtmlAttributeNotBound]
    public Microsoft.AspNetCore.Mvc.Rendering.ViewContext? ViewContext { get; set; }
}

/// <summary>
/// A form of a calculator: with scripts the answer changes while one types, and the address with it; the ids of the fields' faults are
/// exchanged too: &lt;form live-get="value-fault" method="get"&gt;.
/// </summary>
[HtmlTargetElement("form", Attributes = "live-get")]
public sealed class LiveGetFormTagHelper : TagHelper
{
    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.Attributes.RemoveAll("live-get");
        if (LiveGet.Length > 0)
        {
            output.Attributes.SetAttribute("hx-select-oob", string.Join(",", LiveGet.Split(' ').Select(id => $"#{id}")));
        }

        var path = (ViewContext?.HttpContext.Request.Path.Value) ?? "";
        output.Attributes.SetAttribute("action", path);
        output.Attributes.SetAttribute("hx-get", path);
        output.Attributes.SetAttribute("hx-trigger", "input delay:350ms, submit");
        output.Attributes.SetAttribute("hx-target", "#answer");
        output.Attributes.SetAttribute("hx-select", "#answer");
        output.Attributes.SetAttribute("hx-swap", "outerHTML");
        output.Attributes.SetAttribute("hx-replace-url", "true");
        output.Attributes.SetAttribute("hx-sync", "this:replace");
    }

    /// <summary>Ids of the faults beside the fields.</summary>
    public string LiveGet { get; set; } = "";

    /// <summary>The page.</summary>
    [Microsoft.AspNetCore.Mvc.ViewFeatures.ViewContext]
    [HtmlAttributeNotBound]
    public Microsoft.AspNetCore.Mvc.Rendering.ViewContext? ViewContext { get; set; }
}
