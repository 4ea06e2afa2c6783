using System.Security.Cryptography;
using System.Text;
using Dapper;

namespace Zandrik.Storage;

/// <summary>Who is asking: a person of a shop. Every store works for one of them, and sees that shop's rows only.</summary>
/// <param name="ShopId">The shop.</param>
/// <param name="PersonId">The person.</param>
/// <param name="Shop">What the shop is called.</param>
/// <param name="Person">What the person is called; stands on every reading.</param>
/// <param name="TimeZone">IANA name of the shop's time zone.</param>
/// <param name="Unit">The word of the pressure unit the shop's gauges read.</param>
public sealed record ShopPerson(int ShopId, int PersonId, string Shop, string Person, string TimeZone, string Unit);

/// <summary>Finds out who is asking, before the shop is known.</summary>
public sealed class ShopDoor(ShopDatabase database)
{
    /// <summary>The person a bearer token speaks for; absent when the token is unknown or revoked.</summary>
    public Task<ShopPerson?> ByTokenAsync(string token, CancellationToken cancel = default) =>
        EnterAsync("select shop_id, person_id from shop_of_token(@hash)", new { hash = Hash(token) }, cancel);

    /// <summary>The first person of the first shop: everybody, until people can sign in. Absent in an empty database.</summary>
    public Task<ShopPerson?> FirstAsync(CancellationToken cancel = default) =>
        EnterAsync("select shop_id, person_id from first_person()", null, cancel);

    internal static byte[] Hash(string token) => SHA256.HashData(Encoding.UTF8.GetBytes(token));

    private async Task<ShopPerson?> EnterAsync(string sql, object? parameters, CancellationToken cancel)
    {
        await using var connection = await database.Source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var found = await connection.QuerySingleOrDefaultAsync<(int Shop, int Person)?>(
            new CommandDefinition(sql, parameters, transaction, cancellationToken: cancel));
        if (found is not { } who)
        {
            return null;
        }
        await ShopDatabase.EnterShopAsync(connection, transaction, who.Shop, cancel);
        return await connection.QuerySingleAsync<ShopPerson>(new CommandDefinition("""
            select s.id as shop_id, p.id as person_id, s.name as shop, p.name as person, s.time_zone, s.unit
            from shop s join person p on p.shop_id = s.id where p.id = @person
            """, new { person = who.Person }, transaction, cancellationToken: cancel));
    }
}
