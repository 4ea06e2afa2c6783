using Npgsql;
using Zandrik.Core.Shops;

namespace Zandrik.Storage.Tests;

/// <summary>
/// A database of its own for a class of tests, on the throwaway cluster that ./test starts: migrated
/// once, then copied.
/// </summary>
public sealed class TestDatabase : IAsyncLifetime
{
    private static readonly string Template = $"template_{Environment.ProcessId}";
    private static readonly SemaphoreSlim One = new(1);
    private static bool made;

    private readonly string name = $"test_{Guid.NewGuid():N}";

    public static string OwnerOf(string database) => To("ZANDRIK_TEST_OWNER_DB", database);

    public string Owner => OwnerOf(name);

    public string Connection => To("ZANDRIK_TEST_DB", name);

    public ShopDatabase Database { get; private set; } = null!;

    public JobStore Jobs { get; private set; } = null!;

    public DryTestStore DryTests { get; private set; } = null!;

    /// <summary>A person of the first shop.</summary>
    public ShopPerson Ostrel { get; private set; } = null!;

    /// <summary>A person of another shop, in the same database.</summary>
    public ShopPerson Stranger { get; private set; } = null!;

    public const string Token = "token-of-the-first-shop";

    public const string StrangersToken = "token-of-the-other-shop";

    public async ValueTask InitializeAsync()
    {
        await One.WaitAsync();
        try
        {
            if (!made)
            {
                await ExecuteAsync(OwnerOf("postgres"), $"create database {Template}");
                Migrator.Migrate(OwnerOf(Template), "zandrik");
                await Migrator.EnsureShopAsync(OwnerOf(Template), new FirstShop("Quillmoor Ferry Workshop", "Atlantic/Faroe", "psi", [new FirstPerson("M. Ostrel", ShopRole.Foreman)], Token));
                await ExecuteAsync(OwnerOf(Template), $"""
                    with s as (insert into shop (name, time_zone, unit) values ('Over the sound', 'Etc/UTC', 'bar') returning id),
                         p as (insert into person (shop_id, name, role) select id, 'A. Stranger', 'foreman' from s returning shop_id, id)
                    insert into api_token (shop_id, person_id, label, hash) select shop_id, id, 'x', '\x{Convert.ToHexString(ShopDoorHash(StrangersToken))}' from p
                    """);
                made = true;
            }
            NpgsqlConnection.ClearAllPools();
            await ExecuteAsync(OwnerOf("postgres"), $"create database {name} template {Template}");
        }
        finally
        {
            One.Release();
        }
        Database = new ShopDatabase(Connection);
        Jobs = new JobStore(Database);
        DryTests = new DryTestStore(Database);
        Ostrel = (await new SignInStore(Database).ByTokenAsync(Token, DateTimeOffset.UtcNow))!;
        Stranger = (await new SignInStore(Database).ByTokenAsync(StrangersToken, DateTimeOffset.UtcNow))!;
    }

    public async ValueTask DisposeAsync()
    {
        await Database.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await ExecuteAsync(OwnerOf("postgres"), $"drop database {name} with (force)");
    }

    /// <summary>Runs a statement with the owner's rights.</summary>
    public Task<object?> AsOwnerAsync(string sql) => ExecuteAsync(Owner, sql);

    public static async Task<object?> ExecuteAsync(string connection, string sql)
    {
        await using var source = NpgsqlDataSource.Create(connection);
        await using var command = source.CreateCommand(sql);
        return await command.ExecuteScalarAsync();
    }

    private static byte[] ShopDoorHash(string token) => System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(token));

    private static string To(string variable, string database) =>
        new NpgsqlConnectionStringBuilder(Environment.GetEnvironmentVariable(variable)
            ?? throw new InvalidOperationException($"{variable} is not set: run ./test, which starts a database for the tests."))
        { Database = database }.ConnectionString;
}
