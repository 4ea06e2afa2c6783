using DbUp;
using Npgsql;

namespace Zandrik.Storage;

/// <summary>Brings a database to the current schema. Runs with the owner's rights; the application itself has fewer.</summary>
public static class Migrator
{
    /// <summary>Applies every migration not yet applied, each in a transaction of its own, and returns their names.</summary>
    /// <param name="ownerConnection">Connection string of a role that may create tables.</param>
    /// <param name="applicationRole">The plain role of the application, which must exist; letters, digits and underscores.</param>
    /// <exception cref="InvalidOperationException">A migration failed: the message says which and why.</exception>
    public static IReadOnlyList<string> Migrate(string ownerConnection, string applicationRole)
    {
        if (applicationRole.Length == 0 || !applicationRole.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '_'))
        {
            throw new ArgumentException("The application's role is lower-case letters, digits and underscores.", nameof(applicationRole));
        }
        var result = DeployChanges.To
            .PostgresqlDatabase(ownerConnection)
            .WithScriptsEmbeddedInAssembly(typeof(Migrator).Assembly)
            .WithVariable("app", applicationRole)
            .WithVariablesEnabled()
            .WithTransactionPerScript()
            .LogToNowhere()
            .Build()
            .PerformUpgrade();
        return result.Successful
            ? [.. result.Scripts.Select(s => s.Name)]
            : throw new InvalidOperationException($"Migration {result.ErrorScript?.Name} failed: {result.Error.Message}", result.Error);
    }

    /// <summary>
    /// Makes the first shop and its person when there is none. Runs with the owner's rights, because the
    /// application may not make shops.
    /// </summary>
    /// <returns>True when it made one.</returns>
    public static async Task<bool> EnsureShopAsync(string ownerConnection, FirstShop shop, CancellationToken cancel = default)
    {
        await using var source = NpgsqlDataSource.Create(ownerConnection);
        await using var command = source.CreateCommand("""
            with made as (
                insert into shop (name, time_zone, unit)
                select $1, $2, $3 where not exists (select 1 from shop) returning id),
            person as (
                insert into person (shop_id, name) select id, $4 from made returning shop_id, id)
            insert into api_token (shop_id, person_id, label, hash)
            select shop_id, id, 'Demo', $5 from person where $5 is not null
            returning id
            """);
        command.Parameters.AddWithValue(shop.Name);
        command.Parameters.AddWithValue(shop.TimeZone);
        command.Parameters.AddWithValue(shop.Unit);
        command.Parameters.AddWithValue(shop.Person);
        command.Parameters.Add(new NpgsqlParameter
        {
            NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Bytea,
            Value = shop.Token is null ? DBNull.Value : ShopDoor.Hash(shop.Token),
        });
        await using (var count = source.CreateCommand("select count(*) from shop"))
        {
            if ((long)(await count.ExecuteScalarAsync(cancel))! > 0)
            {
                return false;
            }
        }
        await command.ExecuteNonQueryAsync(cancel);
        return true;
    }
}

/// <summary>The first shop of a new database.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="TimeZone">IANA name of its time zone.</param>
/// <param name="Unit">The word of the pressure unit its gauges read.</param>
/// <param name="Person">The person whose name stands on the readings until people can sign in.</param>
/// <param name="Token">A bearer token to make for the API; absent for none.</param>
public sealed record FirstShop(string Name, string TimeZone, string Unit, string Person, string? Token);
