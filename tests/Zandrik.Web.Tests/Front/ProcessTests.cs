using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Zandrik.Storage.Tests;

namespace Zandrik.Web.Tests.Front;

/// <summary>The server as a process of its own: killed in the middle, started again.</summary>
public sealed class ProcessTests
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public async Task A_server_killed_between_two_readings_loses_nothing_and_takes_the_open_form_afterwards()
    {
        var name = $"killed_{Guid.NewGuid():N}";
        var connection = await Site.MakeDatabaseAsync(name);
        var port = FreePort();
        using var asking = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{port}") };

        var first = await StartAsync(connection, port, asking);
        using var client = await SignedIn.ClientAsync($"http://127.0.0.1:{port}");
        var page = await PageAsync(client);
        (await EnterAsync(client, page, "201")).ShouldBe(HttpStatusCode.OK);
        page = await PageAsync(client);
        first.Kill(entireProcessTree: true);
        await first.WaitForExitAsync(Cancel);

        var second = await StartAsync(connection, port, client);
        // The form that was open when the server died: sign-in and token are still good, its reading is kept.
        (await EnterAsync(client, page, "199")).ShouldBe(HttpStatusCode.OK);
        var figures = (await PageAsync(client)).QuerySelectorAll(".columns .reading").Select(r => r.TextContent).Where(t => t.Length > 0);
        figures.ShouldBe(["201", "199"], ignoreOrder: true);
        second.Kill(entireProcessTree: true);
        await second.WaitForExitAsync(Cancel);
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"drop database {name} with (force)");
    }

    // Below the ports that the system hands out itself: those go to outgoing connections of the other
    // tests, and one of them would take the port between this look and the server's start.
    [Fact]
    public async Task With_another_key_file_than_the_databases_it_says_so_and_does_not_start()
    {
        var name = $"sealed_{Guid.NewGuid():N}";
        var folder = Directory.CreateTempSubdirectory("zandrik-keys-").FullName;
        var connection = await Site.MakeDatabaseAsync(name);
        try
        {
            var address = $"http://127.0.0.1:{FreePort()}";
            using (var right = await StartAsync(connection, new() { ["ZANDRIK_KEY_FILE"] = Path.Combine(folder, "ring.key") }, "--urls", address))
            {
                using var client = await SignedIn.ClientAsync(address);
                right.Kill();
                await right.WaitForExitAsync(Cancel);
            }
            foreach (var (file, says) in new[] { (Path.Combine(folder, "another.key"), "sealed with another key file"), ("", "Set ZANDRIK_KEY_FILE") })
            {
                var start = new ProcessStartInfo("dotnet", [Path.Combine(Repository.Root, ".local", "app", "Zandrik.Web.dll"), "--urls", address])
                {
                    RedirectStandardError = true,
                    RedirectStandardOutput = true,
                    Environment = { ["ZANDRIK_DB"] = connection, ["ZANDRIK_KEY_FILE"] = file },
                };
                using var wrong = Process.Start(start)!;
                _ = wrong.StandardOutput.ReadToEndAsync(Cancel);
                (await wrong.StandardError.ReadToEndAsync(Cancel)).ShouldContain(says);
                await wrong.WaitForExitAsync(Cancel);
                wrong.ExitCode.ShouldBe(2);
            }
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
            await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"drop database {name} with (force)");
        }
    }

    internal static int FreePort()
    {
        while (true)
        {
            var port = Random.Shared.Next(10_000, 19_000);
            try
            {
                using var listener = new TcpListener(IPAddress.Loopback, port);
                listener.Start();
                return port;
            }
            catch (SocketException)
            {
                // Taken: another.
            }
        }
    }

    private static async Task<Process> StartAsync(string connection, int port, HttpClient client)
    {
        var process = await StartAsync(connection, [], "--urls", $"http://127.0.0.1:{port}");
        (await client.GetAsync(new Uri("/health/live", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);
        return process;
    }

    // The server as a process, listening.
    internal static Task<Process> StartAsync(string connection, Dictionary<string, string> settings, params string[] arguments) => StartAsync(connection, settings, null, arguments);

    // The same, with every line it says handed on.
    internal static async Task<Process> StartAsync(string connection, Dictionary<string, string> settings, Action<string>? hears, params string[] arguments)
    {
        // Out of what ./start runs, with its style sheets and scripts.
        var app = Path.Combine(Repository.Root, ".local", "app");
        var start = new ProcessStartInfo("dotnet", [Path.Combine(app, "Zandrik.Web.dll"), .. arguments])
        {
            WorkingDirectory = app,
            RedirectStandardOutput = true,
            Environment = { ["ZANDRIK_DB"] = connection, ["Logging__LogLevel__Microsoft.Hosting.Lifetime"] = "Information" },
        };
        foreach (var (name, value) in settings)
        {
            start.Environment[name] = value;
        }
        var process = Process.Start(start)!;
        // The server says when it listens; waiting for that line is waiting for the server.
        while (await process.StandardOutput.ReadLineAsync(Cancel) is { } line)
        {
            hears?.Invoke(line);
            if (line.Contains("Now listening", StringComparison.Ordinal))
            {
                break;
            }
        }
        process.HasExited.ShouldBeFalse();
        _ = hears is null ? process.StandardOutput.ReadToEndAsync(Cancel) : HearAsync(process.StandardOutput, hears);
        return process;
    }

    private static async Task HearAsync(StreamReader from, Action<string> hears)
    {
        while (await from.ReadLineAsync(Cancel) is { } line)
        {
            hears(line);
        }
    }

    private static async Task<IHtmlDocument> PageAsync(HttpClient client) =>
        new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri("/jobs/10/dry", UriKind.Relative), Cancel));

    private static async Task<HttpStatusCode> EnterAsync(HttpClient client, IHtmlDocument page, string value)
    {
        var fields = page.QuerySelectorAll("#pad input[type=hidden]").Cast<IHtmlInputElement>().Select(i => KeyValuePair.Create(i.Name!, i.Value))
            .Append(KeyValuePair.Create("value", value)).Append(KeyValuePair.Create("kind", "Reading"));
        using var content = new FormUrlEncodedContent(fields);
        return (await client.PostAsync(new Uri("/jobs/10/dry?handler=Enter", UriKind.Relative), content, Cancel)).StatusCode;
    }
}
