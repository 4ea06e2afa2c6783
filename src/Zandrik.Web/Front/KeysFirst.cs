using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>
/// A server that started while the database was away has no keys yet: whoever brings a cookie is told that the database
/// is away. Without this the cookie would pass for a wrong one, and a tablet with entries that wait would be signed out.
/// </summary>
public sealed class KeysFirst(RequestDelegate next, KeyRing ring)
{
    /// <summary>Reads the keys where they are needed and were never read.</summary>
    /// <exception cref="Npgsql.NpgsqlException">The database is still away.</exception>
    public Task InvokeAsync(HttpContext context)
    {
        if (!ring.IsKnown && context.Request.Cookies.ContainsKey(Authentication.CookieName))
        {
            ring.GetAllElements();
        }
        return next(context);
    }
}
