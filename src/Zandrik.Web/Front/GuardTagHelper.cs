using System.Text.Json;
using Microsoft.AspNetCore.Razor.TagHelpers;
using Zandrik.Core.Records;

namespace Zandrik.Web.Front;

/// <summary>
/// Writes a guard's rule into the page: <c>guard="@rule"</c> on a form, a button or a fieldset. While no server answers,
/// guards.js goes by it; with a server the server decides.
/// </summary>
[HtmlTargetElement("form", Attributes = "guard")]
[HtmlTargetElement("button", Attributes = "guard")]
[HtmlTargetElement("fieldset", Attributes = "guard")]
public sealed class GuardTagHelper : TagHelper
{
    /// <summary>The rule; absent writes nothing.</summary>
    [HtmlAttributeName("guard")]
    public GuardRule? Guard { get; set; }

    /// <summary>True where this is what is done next: the focus goes there.</summary>
    [HtmlAttributeName("guard-here")]
    public bool Here { get; set; }

    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        ArgumentNullException.ThrowIfNull(output);
        if (Here)
        {
            output.Attributes.SetAttribute(new TagHelperAttribute("data-here", null, HtmlAttributeValueStyle.Minimized));
        }
        if (Guard is null)
        {
            return;
        }
        if (Guard.Needs.Count > 0)
        {
            output.Attributes.SetAttribute("data-needs", JsonSerializer.Serialize(Guard.Needs.Select(n => new[] { n.Fact, n.Says })));
        }
        if (Guard.Makes.Count > 0)
        {
            output.Attributes.SetAttribute("data-makes", string.Join(' ', Guard.Makes));
        }
    }
}
