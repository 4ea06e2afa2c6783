namespace Zandrik.Web.Front;

/// <summary>Whether a page is asked for whole, or only the part that changes.</summary>
public static class Htmx
{
    /// <summary>True when htmx asks, and only for a part.</summary>
    public static bool IsHtmx(this HttpRequest request) => request.Headers.ContainsKey("HX-Request");

    /// <summary>
    /// True when whoever sends an entry shows another page: it wants to know that the entry is kept, not what the step looks like
    /// now. A queue from a tablet that was away is most of the time not judged and drawn for nobody then.
    /// </summary>
    public static bool WantsNoPart(this HttpRequest request) => request.Headers["Zandrik-Part"] == "none";
}
