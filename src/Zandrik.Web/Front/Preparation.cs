using System.Security.Cryptography;
using System.Text.Json;
using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>
/// What happens before the server starts: migrations, the first shop, and the demo data, which is read
/// through the same checks and the same store as anybody's records.
/// </summary>
public static class Preparation
{
    /// <summary>The folder of the demo data, beside the application.</summary>
    public static string DemoFolder => Path.Combine(AppContext.BaseDirectory, "demo");

    /// <summary>Runs it.</summary>
    /// <param name="arguments"><c>demo</c> to fill a new database with the demo data, else <c>plain</c>.</param>
    /// <returns>0 when all is in place.</returns>
    public static async Task<int> RunAsync(string[] arguments)
    {
        var owner = Environment.GetEnvironmentVariable("ZANDRIK_OWNER_DB");
        var connection = Environment.GetEnvironmentVariable("ZANDRIK_DB");
        if (owner is null || connection is null)
        {
            await Console.Error.WriteLineAsync("ZANDRIK_OWNER_DB and ZANDRIK_DB must be set. Use ./start, which sets them.");
            return 2;
        }
        try
        {
            await PrepareAsync(owner, connection, arguments is ["demo", ..], TimeProvider.System);
            return 0;
        }
        catch (Exception broken) when (broken is InvalidOperationException or NpgsqlException or IOException)
        {
            await Console.Error.WriteLineAsync(broken.Message);
            return 1;
        }
    }

    /// <summary>Migrates, makes the first shop, and loads the demo data into a database that was begun with them.</summary>
    public static async Task PrepareAsync(string owner, string connection, bool demo, TimeProvider clock)
    {
        var role = new NpgsqlConnectionStringBuilder(connection).Username!;
        Migrator.Migrate(owner, role);
        var shop = demo ? await DemoShopAsync() : new FirstShop("Our workshop", "Etc/UTC", "psi", "Technician", null);
        await Migrator.EnsureShopAsync(owner, shop);
        await using var database = new ShopDatabase(connection);
        var who = (await new ShopDoor(database).FirstAsync())!;
        if (!demo || who.Shop != shop.Name)
        {
            return;
        }
        var jobs = new JobStore(database);
        foreach (var file in Directory.GetFiles(Path.Combine(DemoFolder, "records"), "*.json").Order(StringComparer.Ordinal))
        {
            // Each record has a key: a load that was cut short goes on at the next start, and none comes twice.
            var body = await File.ReadAllBytesAsync(file);
            var reading = TestRecordJson.Read(body);
            if (reading.Record is not { } record)
            {
                throw new InvalidOperationException($"{Path.GetFileName(file)}: {string.Join(" ", reading.Problems.Select(p => $"{p.Pointer} {p.Says}"))}");
            }
            await jobs.CreateOnceAsync(who, $"demo {Path.GetFileName(file)}", SHA256.HashData(body), record, clock.GetUtcNow());
        }
    }

    private static async Task<FirstShop> DemoShopAsync()
    {
        await using var file = File.OpenRead(Path.Combine(DemoFolder, "shop.json"));
        return (await JsonSerializer.DeserializeAsync<FirstShop>(file, JsonSerializerOptions.Web))!;
    }
}
