using System.Text;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Npgsql;
using Zandrik.Storage.Tests;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests;

/// <summary>The application on a real Kestrel and a database of its own, with the demo data loaded as ./start loads them.</summary>
public sealed class Site : WebApplicationFactory<Program>, IAsyncLifetime
{
    private readonly string name = $"site_{Guid.NewGuid():N}";

    public Site() => UseKestrel(0);

    /// <summary>False for a database as ./start --empty makes it.</summary>
    public bool Demo { get; init; } = true;

    /// <summary>The secret part of the first foreman's link, while nobody can sign in.</summary>
    public string? FirstLink { get; private set; }

    public string Owner => TestDatabase.OwnerOf(name);

    public string Connection { get; private set; } = "";

    /// <summary>Address of the running server, without a slash at its end.</summary>
    public string Address { get; private set; } = "";

    /// <summary>A client with the demo shop's token.</summary>
    public HttpClient Api { get; private set; } = null!;

    public async ValueTask InitializeAsync()
    {
        (Connection, FirstLink) = await MakeAsync(name, Demo);
        StartServer();
        Address = ClientOptions.BaseAddress.ToString().TrimEnd('/');
        Api = JobsOverTheApi.Of(Address);
        // The first server of the process is ready once it is warm.
        while (!WarmUp.IsDone)
        {
            await Task.Delay(10);
        }
    }

    /// <summary>Makes a database with the demo data; answers the connection string of the application's role.</summary>
    public static async Task<string> MakeDatabaseAsync(string name) => (await MakeAsync(name, demo: true)).Connection;

    // Prepared once as ./start prepares it, then copied.
    private static readonly SemaphoreSlim One = new(1);
    private static readonly string Template = $"site_template_{Environment.ProcessId}";
    private static bool made;

    private static async Task<(string Connection, string? FirstLink)> MakeAsync(string name, bool demo)
    {
        static string To(string database) => new NpgsqlConnectionStringBuilder(Environment.GetEnvironmentVariable("ZANDRIK_TEST_DB")!) { Database = database }.ConnectionString;
        var postgres = TestDatabase.OwnerOf("postgres");
        if (!demo)
        {
            await TestDatabase.ExecuteAsync(postgres, $"create database {name}");
            return (To(name), await Preparation.PrepareAsync(TestDatabase.OwnerOf(name), To(name), demo, TimeProvider.System));
        }
        await One.WaitAsync();
        try
        {
            if (!made)
            {
                await TestDatabase.ExecuteAsync(postgres, $"create database {Template}");
                await Preparation.PrepareAsync(TestDatabase.OwnerOf(Template), To(Template), demo, TimeProvider.System);
                // A database that is copied has nobody connected to it.
                NpgsqlConnection.ClearAllPools();
                await TestDatabase.ExecuteAsync(postgres, $"alter database {Template} allow_connections false");
                await TestDatabase.ExecuteAsync(postgres, $"select pg_terminate_backend(pid, 10000) from pg_stat_activity where datname = '{Template}'");
                made = true;
            }
            await TestDatabase.ExecuteAsync(postgres, $"create database {name} template {Template}");
        }
        finally
        {
            One.Release();
        }
        return (To(name), null);
    }

    /// <summary>Takes the database away from the running server, or gives it back.</summary>
    public async Task DatabaseAsync(bool answers)
    {
        var postgres = TestDatabase.OwnerOf("postgres");
        await TestDatabase.ExecuteAsync(postgres, $"alter database {name} allow_connections {answers}");
        if (!answers)
        {
            // After that is in force, so that none connects in between; and waits for each to be gone, as the signal alone leaves it time for an answer.
            await TestDatabase.ExecuteAsync(postgres, $"select pg_terminate_backend(pid, 10000) from pg_stat_activity where datname = '{name}'");
        }
    }

    protected override void ConfigureWebHost(IWebHostBuilder builder) =>
        // As it runs for people: with its error pages, and files compressed beforehand.
        builder.UseEnvironment("Production").UseStaticWebAssets().UseSetting("ZANDRIK_DB", Connection);

    public override async ValueTask DisposeAsync()
    {
        Api.Dispose();
        await base.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"drop database {name} with (force)");
    }

    /// <summary>Makes a job from the parts of a record; answers its number.</summary>
    public Task<int> JobAsync(string parts) => Api.AddJobAsync(parts);

    /// <summary>The open record of a job.</summary>
    public Task<JsonNode> RecordAsync(int job) => Api.RecordAsync(job);
}

/// <summary>Jobs over the API of any server with the demo data.</summary>
internal static class JobsOverTheApi
{
    /// <summary>A client with the demo shop's token.</summary>
    public static HttpClient Of(string address)
    {
        var client = new HttpClient { BaseAddress = new Uri(address) };
        client.DefaultRequestHeaders.Authorization = new("Bearer", "zandrik-demo-token");
        return client;
    }

    /// <summary>Opens a job from parts of a record; its number.</summary>
    public static async Task<int> AddJobAsync(this HttpClient api, string parts)
    {
        var record = JsonNode.Parse(parts)!.AsObject();
        (record["format"], record["version"]) = ("zandrik-test-record", 1);
        var made = await api.PostAsync(new Uri("/api/v1/jobs", UriKind.Relative), new StringContent(record.ToJsonString(), Encoding.UTF8, "application/json"));
        var answer = JsonNode.Parse(await made.Content.ReadAsStringAsync())!;
        return made.IsSuccessStatusCode ? (int)answer["id"]! : throw new InvalidOperationException(answer.ToJsonString());
    }

    /// <summary>The open record of a job.</summary>
    public static async Task<JsonNode> RecordAsync(this HttpClient api, int job) => JsonNode.Parse(await api.GetStringAsync(new Uri($"/api/v1/jobs/{job}/record", UriKind.Relative)))!;
}
