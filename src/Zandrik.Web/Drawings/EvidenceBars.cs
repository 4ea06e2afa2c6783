using System.Globalization;
using Microsoft.AspNetCore.Html;

namespace Zandrik.Web.Drawings;

/// <summary>The bars beside what is likely, and beside what speaks for and against it.</summary>
public static class EvidenceBars
{
    // Decibans at which a bar is full.
    private const double Full = 30;

    /// <summary>A probability, 0 to 1, as a bar.</summary>
    public static IHtmlContent Share(double probability) => new HtmlString(string.Create(CultureInfo.InvariantCulture,
        $"<svg class=\"p-bar\" viewBox=\"0 0 100 10\" preserveAspectRatio=\"none\" aria-hidden=\"true\"><rect width=\"{100 * Math.Clamp(probability, 0, 1):0.#}\" height=\"10\"/></svg>"));

    /// <summary>A weight in decibans as a bar, to the right for and to the left against; longer than 30 is drawn as 30.</summary>
    public static IHtmlContent Weight(double db)
    {
        var length = Math.Min(Math.Abs(db), Full);
        return new HtmlString(string.Create(CultureInfo.InvariantCulture,
            $"<svg class=\"db-bar {(db >= 0 ? "for" : "against")}\" viewBox=\"-30 0 60 8\" aria-hidden=\"true\"><path d=\"M0 0V8\"/><rect x=\"{(db >= 0 ? 0 : -length):0.#}\" y=\"1\" width=\"{length:0.#}\" height=\"6\"/></svg>"));
    }
}
