using System.Diagnostics;
using System.Globalization;
using System.Text.Json.Nodes;

namespace Zandrik.Web.Tests.Trust;

/// <summary>
/// The server or its database is killed, without warning, while keyed entries come in, or its disk is full; ./start brings it
/// back, and every entry stands once. ZANDRIK_KILLS sets how many of each.
/// </summary>
public sealed class KillTests(StartedApp app) : IClassFixture<StartedApp>
{
    private static readonly int Kills = int.TryParse(Environment.GetEnvironmentVariable("ZANDRIK_KILLS"), CultureInfo.InvariantCulture, out var n) ? n : 20;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Killed_between_entries_nothing_is_lost_and_nothing_stands_twice()
    {
        using var api = app.Api();
        using var outbox = await Outbox.OpenAsync(app, api);
        var random = new Random(7);
        var entries = 0;
        for (var kill = 0; kill < 2 * Kills; kill++)
        {
            await outbox.EnterAsync(entries++);
            var entering = outbox.EnterAsync(entries++);
            await Task.Delay(random.Next(25), Cancel);
            if (kill % 2 == 0)
            {
                StartedApp.Kill(app.WebPid);
            }
            else
            {
                StartedApp.Kill(app.DatabasePid ?? throw new InvalidOperationException("The last entry was answered, so the database runs."));
            }
            await entering;
        }
        var values = await EntriesAsync(api, outbox.Job);
        values.Order().ShouldBe(Enumerable.Range(0, entries), "each once");
        values.Chunk(2).ShouldAllBe(pair => pair.Max() - pair.Min() <= 1, "in the order they were typed");
    }

    [Fact]
    public async Task A_full_disk_takes_nothing_says_so_and_works_on_once_there_is_room()
    {
        using var api = app.Api();
        using var outbox = await Outbox.OpenAsync(app, api);
        await outbox.EnterAsync(0);
        app.Disk(full: true);
        var entering = outbox.EnterAsync(1);
        // Not ready is what a supervisor hears, and a page says where entries are meanwhile.
        await UntilAsync(async () => (int)(await api.GetAsync(new Uri("/health/ready", UriKind.Relative), Cancel)).StatusCode == 503, "it is not ready");
        using (var page = await outbox.Client.GetAsync(new Uri($"/jobs/{outbox.Job}/dry", UriKind.Relative), Cancel))
        {
            ((int)page.StatusCode).ShouldBe(503);
            (await page.Content.ReadAsStringAsync(Cancel)).ShouldContain("kept on this tablet");
        }
        entering.IsCompleted.ShouldBeFalse("nothing was taken that cannot be written");
        app.Disk(full: false);
        await entering;
        await outbox.EnterAsync(2);
        (await EntriesAsync(api, outbox.Job)).ShouldBe([0, 1, 2], "each once, in the order they were typed");
    }

    // What stands on record: the number of each entry, in the order they were kept.
    private static async Task<IReadOnlyList<int>> EntriesAsync(HttpClient api, int job) =>
        [.. JsonNode.Parse(await RecordAsync(api, job))!["tests"]![0]!["readings"]!.AsArray().Select(r => (int)(double)r!["value"]! - 100)];

    // The last entry may have been answered just before the kill: whatever was hit is waited for.
    private static async Task<string> RecordAsync(HttpClient api, int job)
    {
        var record = "";
        await UntilAsync(async () =>
        {
            using var answer = await api.GetAsync(new Uri($"/api/v1/jobs/{job}/record?all=true", UriKind.Relative), Cancel).WaitAsync(TimeSpan.FromSeconds(5), Cancel);
            record = await answer.Content.ReadAsStringAsync(Cancel);
            return answer.IsSuccessStatusCode;
        }, "it comes back");
        return record;
    }

    // Asks again and again, whatever breaks on the way.
    private static async Task UntilAsync(Func<Task<bool>> isSo, string what)
    {
        var waited = Stopwatch.StartNew();
        while (true)
        {
            try
            {
                if (await isSo())
                {
                    return;
                }
            }
            catch (Exception broken) when (broken is HttpRequestException or TimeoutException)
            {
                // It is being started again.
            }
            Patience.IsOver(waited.Elapsed, TimeSpan.FromMinutes(2)).ShouldBeFalse(what);
            await Task.Delay(50, Cancel);
        }
    }

    /// <summary>Sends entries as the tablet's outbox does: again and again with their key, until they are answered.</summary>
    private sealed record Outbox(HttpClient Client, int Job, string Token) : IDisposable
    {
        public static async Task<Outbox> OpenAsync(StartedApp app, HttpClient api)
        {
            var client = await SignedIn.ClientAsync(app.Address);
            var job = await StartedApp.JobAsync(api, cylinders: 4);
            var page = await client.GetStringAsync(new Uri("/account", UriKind.Relative), Cancel);
            return new(client, job, new AngleSharp.Html.Parser.HtmlParser().ParseDocument(page).QuerySelector("meta[name=zandrik-form]")!.GetAttribute("content")!);
        }

        public void Dispose() => Client.Dispose();

        public Task EnterAsync(int n) => UntilAsync(async () =>
        {
            using var form = new FormUrlEncodedContent(new Dictionary<string, string> { ["value"] = $"{100 + n}", ["kind"] = "Repeat", ["unit"] = "psi", ["entry"] = $"entry-{Job}-{n}", ["__RequestVerificationToken"] = Token });
            using var request = new HttpRequestMessage(HttpMethod.Post, $"/jobs/{Job}/dry?handler=Enter&cylinder=1") { Content = form, Headers = { { "HX-Request", "true" } } };
            using var answer = await Client.SendAsync(request, Cancel).WaitAsync(TimeSpan.FromSeconds(5), Cancel);
            ((int)answer.StatusCode).ShouldBeOneOf([200, 503], "the database is away, and that is what is said");
            return answer.IsSuccessStatusCode;
        }, "it comes back");
    }
}
