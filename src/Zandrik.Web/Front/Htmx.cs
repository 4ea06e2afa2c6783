namespace Zandrik.Web.Front;

/// <summary>Whether a page is asked for whole, or only the part that changes.</summary>
public static class Htmx
{
    /// <summary>True when htmx asks, and only for a part.</summary>
    public static bool IsHtmx(this HttpRequest request) => request.Headers.ContainsKey("HX-Request");
}
