using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Web.Help;

namespace Zandrik.Web.Pages.Help;

/// <summary>One page of help, with the way back to the job it was opened from.</summary>
public sealed class TopicModel : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string Word { get; set; } = "";

    [BindProperty(SupportsGet = true)]
    public int? Job { get; set; }

    /// <summary>The step of the job it was opened from, as the last part of its address.</summary>
    [BindProperty(SupportsGet = true)]
    public string? At { get; set; }

    public HelpTopic Topic { get; private set; } = null!;

    /// <summary>Where the job was left; absent for a page opened from elsewhere.</summary>
    public string? Back => Job is { } job ? $"/jobs/{job.ToString(CultureInfo.InvariantCulture)}/{(At is { Length: > 0 and < 40 } at && at.All(c => char.IsAsciiLetterLower(c) || c is '-' or '/') ? at : "plan")}" : null;

    public string Query => Job is { } job ? string.Create(CultureInfo.InvariantCulture, $"?job={job}&at={Uri.EscapeDataString(At ?? "")}") : "";

    public IActionResult OnGet()
    {
        if (HelpTopic.All.FirstOrDefault(t => t.Word == Word) is not { } topic)
        {
            return NotFound();
        }
        Topic = topic;
        return Page();
    }
}
