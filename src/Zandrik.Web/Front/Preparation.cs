using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Serialization;
using Npgsql;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Testers;
using Zandrik.Core.Verdicts;
using Zandrik.Storage;
using Zandrik.Web.Captures;

namespace Zandrik.Web.Front;

/// <summary>
/// What happens before the server starts: migrations, the first shop, and the demo data, which is read
/// through the same checks and the same store as anybody's records.
/// </summary>
public static class Preparation
{
    /// <summary>The folder of the demo data, beside the application.</summary>
    public static string DemoFolder => Path.Combine(AppContext.BaseDirectory, "demo");

    /// <summary>The password of every made-up account; absent in a build without the demo data.</summary>
    public static string DemoPassword => Demo.Value.Password;

    private static readonly Lazy<DemoShop> Demo = new(() =>
        JsonSerializer.Deserialize<DemoShop>(File.ReadAllText(Path.Combine(DemoFolder, "shop.json")), Reading)!);

    private static readonly JsonSerializerOptions Reading = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.KebabCaseLower) },
    };

    /// <summary>Runs it, and prints the first foreman's link while nobody can sign in.</summary>
    /// <param name="arguments"><c>demo</c> to fill a new database with the demo data, else <c>plain</c>; then the address of the server.</param>
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
            var link = await PrepareAsync(owner, connection, arguments is ["demo", ..], TimeProvider.System);
            if (link is not null)
            {
                Console.WriteLine($"Nobody can sign in yet. The first foreman opens, once: {(arguments is [_, var address, ..] ? address : "")}/welcome/{link}");
            }
            return 0;
        }
        catch (Exception broken) when (broken is InvalidOperationException or NpgsqlException or IOException)
        {
            await Console.Error.WriteLineAsync(broken.Message);
            return 1;
        }
    }

    /// <summary>Migrates, makes the first shop, and loads the demo data into a database that was begun with them.</summary>
    /// <returns>The secret part of the first foreman's link, while nobody can sign in.</returns>
    public static async Task<string?> PrepareAsync(string owner, string connection, bool demo, TimeProvider clock)
    {
        var role = new NpgsqlConnectionStringBuilder(connection).Username!;
        Migrator.Migrate(owner, role);
        await Migrator.CheckRoleAsync(connection);
        var shop = demo
            ? Demo.Value.ToFirstShop()
            : new FirstShop("Our workshop", "Etc/UTC", "psi", [new FirstPerson("First foreman", ShopRole.Foreman)]);
        await Migrator.EnsureShopAsync(owner, shop);
        await using var database = new ShopDatabase(connection);
        var who = (await new SignInStore(database).FirstAsync())!;
        if (demo && who.Shop == shop.Name)
        {
            var testers = new TesterStore(database);
            if ((await testers.ListAsync(who)).Count == 0)
            {
                foreach (var tester in Demo.Value.Testers)
                {
                    await testers.SaveAsync(who, null, tester);
                }
            }
            if (who.Settings.LabourRate is null && Demo.Value.LabourRate is { } rate)
            {
                await new PeopleStore(database).SetSettingsAsync(who, who.Shop, who.TimeZone, RecordWords.Parse(who.Unit, Core.Units.PressureUnit.Psi), who.Settings with { LabourRate = rate, Currency = Demo.Value.Currency });
            }
            var sheets = new SheetStore(database);
            if ((await sheets.AllAsync(who)).Count == 0)
            {
                var (rows, problem) = SheetFile.Read(await File.ReadAllTextAsync(Path.Combine(DemoFolder, "engines.json")));
                await sheets.ImportAsync(who, [.. rows?.Select(r => r.Sheet ?? throw new InvalidOperationException($"engines.json, row {r.Row}: {string.Join(" ", r.Problems)}"))
                    ?? throw new InvalidOperationException($"engines.json: {problem}")], clock.GetUtcNow());
            }
            var jobs = new JobStore(database);
            var numbers = new Dictionary<string, int>();
            foreach (var file in Directory.GetFiles(Path.Combine(DemoFolder, "records"), "*.json").Order(StringComparer.Ordinal))
            {
                // Each record has a key: a load that was cut short goes on at the next start, and none comes twice.
                var body = await File.ReadAllBytesAsync(file);
                var reading = TestRecordJson.Read(body);
                if (reading.Record is not { } record)
                {
                    throw new InvalidOperationException($"{Path.GetFileName(file)}: {string.Join(" ", reading.Problems.Select(p => $"{p.Pointer} {p.Says}"))}");
                }
                var number = numbers[Path.GetFileName(file)] = (await jobs.CreateOnceAsync(who, $"demo {Path.GetFileName(file)}", SHA256.HashData(body), record, clock.GetUtcNow())).Number;
                if (record.Found?.Min(f => f.At) is { } opened)
                {
                    await SignAsync(new VerdictStore(database), new StepStore(database), who, number, opened);
                }
            }
            await new DemoCaptures(database, clock).LoadAsync(who, DemoFolder, numbers);
            await new DemoLives(database).LoadAsync(who, DemoFolder);
            using var practice = new Practice.DemoPractice(database, clock);
            await practice.LoadAsync(who);
        }
        return await Migrator.FirstLinkAsync(owner, clock.GetUtcNow());
    }

    /// <summary>The sample job of a new shop: one of the demo data, named as a sample.</summary>
    public static async Task<TestRecord> SampleRecordAsync(CancellationToken cancel)
    {
        var record = TestRecordJson.Read(await File.ReadAllBytesAsync(Path.Combine(DemoFolder, "records", SampleFile), cancel)).Record ?? throw new InvalidOperationException($"{SampleFile} is no record.");
        return record with { Vehicle = record.Vehicle! with { Label = $"Sample: {record.Vehicle.Label}" } };
    }

    // Two neighbours low, measured dry and with leak-down, nothing decided yet: every screen has something to say of it.
    internal const string SampleFile = "08-shore-van-9-neighbours-low.json";

    // Where the demo data say what was found in an engine, its verdict had been signed before it was opened.
    private static async Task SignAsync(VerdictStore verdicts, StepStore steps, ShopPerson who, int number, DateTimeOffset opened)
    {
        if ((await verdicts.ListAsync(who, number)).Count == 0)
        {
            var state = (await steps.StateAsync(who, number))!;
            await verdicts.SignAsync(who, number, new SignOff(true, null, [], VerdictStore.Fingerprint(VerdictSnapshot.Of(state.Assessment))), EntryKey.Of($"demo verdict {number}"), opened.AddHours(-2));
        }
    }

    private sealed record DemoShop(string Name, string TimeZone, string Unit, string Token, string Password, IReadOnlyList<FirstPerson> People, IReadOnlyList<ShopTester> Testers, double? LabourRate = null, string? Currency = null)
    {
        internal FirstShop ToFirstShop() => new(Name, TimeZone, Unit,
            [.. People.Select(p => p with { PasswordHash = Authentication.HashPassword(Password) })], Token, Demo: true);
    }
}
