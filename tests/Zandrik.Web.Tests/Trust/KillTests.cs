using System.Diagnostics;
using System.Globalization;
using System.Text.Json.Nodes;

namespace Zandrik.Web.Tests.Trust;

/// <summary>
/// The server or its database is killed, without warning, while keyed entries come in; ./start brings it back, and every
/// entry stands once. ZANDRIK_KILLS sets how many of each.
/// </summary>
public sealed class KillTests(StartedApp app) : IClassFixture<StartedApp>
{
    private static readonly int Kills = int.TryParse(Environment.GetEnvironmentVariable("ZANDRIK_KILLS"), CultureInfo.InvariantCulture, out var n) ? n : 20;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Killed_between_entries_nothing_is_lost_and_nothing_stands_twice()
    {
        using var client = await SignedIn.ClientAsync(app.Address);
        using var api = app.Api();
        var job = await StartedApp.JobAsync(api, cylinders: 4);
        var page = await client.GetStringAsync(new Uri("/account", UriKind.Relative), Cancel);
        var token = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(page).QuerySelector("meta[name=zandrik-form]")!.GetAttribute("content")!;
        var random = new Random(7);
        // One entry, as the outbox sends it: again and again with its key, until it is answered.
        async Task EnterAsync(int n)
        {
            var waited = Stopwatch.StartNew();
            while (true)
            {
                try
                {
                    using var form = new FormUrlEncodedContent(new Dictionary<string, string> { ["value"] = $"{100 + n}", ["kind"] = "Repeat", ["unit"] = "psi", ["entry"] = $"entry-{n}", ["__RequestVerificationToken"] = token });
                    using var request = new HttpRequestMessage(HttpMethod.Post, $"/jobs/{job}/dry?handler=Enter&cylinder=1") { Content = form, Headers = { { "HX-Request", "true" } } };
                    using var answer = await client.SendAsync(request, Cancel).WaitAsync(TimeSpan.FromSeconds(5), Cancel);
                    if (answer.IsSuccessStatusCode)
                    {
                        return;
                    }
                    ((int)answer.StatusCode).ShouldBe(503, "the database is away, and that is what is said");
                }
                catch (Exception broken) when (broken is HttpRequestException or TimeoutException)
                {
                    // The server is being started again.
                }
                waited.Elapsed.ShouldBeLessThan(TimeSpan.FromMinutes(2), "it comes back");
                await Task.Delay(50, Cancel);
            }
        }
        var entries = 0;
        for (var kill = 0; kill < 2 * Kills; kill++)
        {
            await EnterAsync(entries++);
            var entering = EnterAsync(entries++);
            await Task.Delay(random.Next(25), Cancel);
            if (kill % 2 == 0)
            {
                StartedApp.Kill(app.WebPid);
            }
            else if (app.DatabasePid is { } pid)
            {
                StartedApp.Kill(pid);
            }
            await entering;
        }
        var record = JsonNode.Parse(await RecordAsync(api, job))!;
        var values = record["tests"]![0]!["readings"]!.AsArray().Select(r => (int)(double)r!["value"]! - 100).ToList();
        values.Order().ShouldBe(Enumerable.Range(0, entries), "each once");
        values.Chunk(2).ShouldAllBe(pair => pair.Max() - pair.Min() <= 1, "in the order they were typed");
    }

    // The last entry may have been answered just before the kill: whatever was hit is waited for.
    private static async Task<string> RecordAsync(HttpClient api, int job)
    {
        var waited = Stopwatch.StartNew();
        while (true)
        {
            try
            {
                using var answer = await api.GetAsync(new Uri($"/api/v1/jobs/{job}/record?all=true", UriKind.Relative), Cancel).WaitAsync(TimeSpan.FromSeconds(5), Cancel);
                if (answer.IsSuccessStatusCode)
                {
                    return await answer.Content.ReadAsStringAsync(Cancel);
                }
            }
            catch (Exception broken) when (broken is HttpRequestException or TimeoutException)
            {
                // It is being started again.
            }
            waited.Elapsed.ShouldBeLessThan(TimeSpan.FromMinutes(2), "it comes back");
            await Task.Delay(50, Cancel);
        }
    }
}
