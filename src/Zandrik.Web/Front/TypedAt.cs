using System.Globalization;

namespace Zandrik.Web.Front;

/// <summary>When something was typed: an entry that waited on a tablet keeps its own time.</summary>
public static class TypedAt
{
    private static readonly TimeSpan LongestWait = TimeSpan.FromDays(60);

    /// <summary>The time an entry says it was typed at; now, where it says none or the tablet's clock is plainly wrong.</summary>
    public static DateTimeOffset Of(string? at, TimeProvider clock)
    {
        var now = clock.GetUtcNow();
        return DateTimeOffset.TryParse(at, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var typed)
            && typed <= now && typed > now - LongestWait ? typed.ToUniversalTime() : now;
    }
}
