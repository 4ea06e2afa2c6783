using System.Net;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Zandrik.Web.Front;

/// <summary>
/// Frame of one form field: label above, hint and message below, tied together for people who cannot see
/// them. The input itself is written inside and carries the attributes of <see cref="FieldLook"/>.
/// </summary>
[HtmlTargetElement("field")]
public sealed class FieldTagHelper : TagHelper
{
    /// <summary>The id of the input inside.</summary>
    public string For { get; set; } = "";

    /// <summary>The label.</summary>
    public string Label { get; set; } = "";

    /// <summary>A short hint; absent for none.</summary>
    public string? Hint { get; set; }

    /// <summary>What is wrong and what to do; absent when nothing is.</summary>
    public string? Problem { get; set; }

    /// <inheritdoc/>
    public override async Task ProcessAsync(TagHelperContext context, TagHelperOutput output)
    {
        var inside = await output.GetChildContentAsync();
        var classes = context.AllAttributes["class"]?.Value?.ToString();
        output.TagName = "div";
        output.Attributes.SetAttribute("class", $"field {classes}".TrimEnd());
        output.Content.AppendHtml($"<label class=\"form-label\" for=\"{For}\">{WebUtility.HtmlEncode(Label)}</label>");
        output.Content.AppendHtml(inside);
        if (!string.IsNullOrEmpty(Hint))
        {
            output.Content.AppendHtml($"<div class=\"form-text\" id=\"{For}-hint\">{WebUtility.HtmlEncode(Hint)}</div>");
        }
        if (!string.IsNullOrEmpty(Problem))
        {
            output.Content.AppendHtml($"<div class=\"field-problem\" id=\"{For}-problem\">{WebUtility.HtmlEncode(Problem)}</div>");
        }
    }
}

/// <summary>Ties an input to the hint and message of its <see cref="FieldTagHelper"/>.</summary>
[HtmlTargetElement("input", Attributes = ProblemAttribute)]
[HtmlTargetElement("select", Attributes = ProblemAttribute)]
[HtmlTargetElement("textarea", Attributes = ProblemAttribute)]
public sealed class FieldLook : TagHelper
{
    private const string ProblemAttribute = "problem";

    /// <summary>The message of the field; absent when nothing is wrong.</summary>
    public string? Problem { get; set; }

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var select = output.TagName == "select";
        var own = context.AllAttributes["class"]?.Value?.ToString();
        output.Attributes.SetAttribute("class", $"{(select ? "form-select" : "form-control")}{(string.IsNullOrEmpty(Problem) ? "" : " is-invalid")} {own}".TrimEnd());
        if (!string.IsNullOrEmpty(Problem))
        {
            output.Attributes.SetAttribute("aria-invalid", "true");
            output.Attributes.SetAttribute("aria-describedby", $"{context.AllAttributes["id"]?.Value}-problem");
        }
    }
}
