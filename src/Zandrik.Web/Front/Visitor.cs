using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>
/// Who is looking at a page. Until people sign in this is the first person of the first shop, looked up
/// at most every half minute: it is asked for with every request and hardly ever changes.
/// </summary>
public sealed class Visitor(ShopDoor door, TimeProvider clock)
{
    private static readonly TimeSpan Fresh = TimeSpan.FromSeconds(30);
    private (ShopPerson Who, DateTimeOffset Until)? known;

    /// <summary>The person.</summary>
    /// <exception cref="InvalidOperationException">The database has no shop: it was not prepared.</exception>
    public async Task<ShopPerson> WhoAsync(CancellationToken cancel)
    {
        if (known is { } k && clock.GetUtcNow() < k.Until)
        {
            return k.Who;
        }
        var who = await door.FirstAsync(cancel)
            ?? throw new InvalidOperationException("There is no shop in the database. ./start makes one.");
        known = (who, clock.GetUtcNow() + Fresh);
        return who;
    }
}
