using System.Diagnostics;
using System.Text.Json.Nodes;

namespace Zandrik.Web.Tests.Trust;

/// <summary>Sends entries as the tablet's outbox does: again and again with their key, until they are answered.</summary>
public sealed record Outbox(HttpClient Client, int Job, string Token) : IDisposable
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    /// <summary>How often the last entry was sent until it was answered.</summary>
    public int Tries { get; private set; }

    /// <summary>Signs in and opens a job of its own.</summary>
    public static async Task<Outbox> OpenAsync(string address, HttpClient api)
    {
        var client = await SignedIn.ClientAsync(address);
        var job = await StartedApp.JobAsync(api, cylinders: 4);
        var page = await client.GetStringAsync(new Uri("/account", UriKind.Relative), Cancel);
        return new(client, job, new AngleSharp.Html.Parser.HtmlParser().ParseDocument(page).QuerySelector("meta[name=zandrik-form]")!.GetAttribute("content")!);
    }

    /// <summary>Another job of the same person.</summary>
    public async Task<Outbox> OnAnotherJobAsync(HttpClient api)
    {
        var job = 0;
        await UntilAsync(async () => (job = await StartedApp.JobAsync(api, cylinders: 4)) > 0, "a job is made");
        return this with { Job = job };
    }

    public void Dispose() => Client.Dispose();

    /// <summary>Enters the n-th reading. Whatever stands in between may answer for a server that died; Zandrik itself says 503 and nothing else.</summary>
    /// <param name="n">From 0.</param>
    /// <param name="proxied">True where a proxy answers too.</param>
    public async Task EnterAsync(int n, bool proxied = false)
    {
        Tries = 0;
        await UntilAsync(async () =>
        {
            Tries++;
            using var form = new FormUrlEncodedContent(new Dictionary<string, string> { ["value"] = $"{100 + n}", ["kind"] = "Repeat", ["unit"] = "psi", ["entry"] = $"entry-{Job}-{n}", ["__RequestVerificationToken"] = Token });
            using var request = new HttpRequestMessage(HttpMethod.Post, $"/jobs/{Job}/dry?handler=Enter&cylinder=1") { Content = form, Headers = { { "HX-Request", "true" }, { "Zandrik-Keyed", "entry" } } };
            using var answer = await Client.SendAsync(request, Cancel).WaitAsync(TimeSpan.FromSeconds(5), Cancel);
            ((int)answer.StatusCode).ShouldBeOneOf(proxied ? [200, 502, 503, 504] : [200, 503], "the database is away, and that is what is said");
            return answer.IsSuccessStatusCode;
        }, "it comes back");
    }

    /// <summary>What stands on record of a job: the number of each entry, in the order they were kept.</summary>
    public static async Task<IReadOnlyList<int>> EntriesAsync(HttpClient api, int job)
    {
        var record = "";
        // The last entry may have been answered just before the kill: whatever was hit is waited for.
        await UntilAsync(async () =>
        {
            using var answer = await api.GetAsync(new Uri($"/api/v1/jobs/{job}/record?all=true", UriKind.Relative), Cancel).WaitAsync(TimeSpan.FromSeconds(5), Cancel);
            record = await answer.Content.ReadAsStringAsync(Cancel);
            return answer.IsSuccessStatusCode;
        }, "it comes back");
        return [.. JsonNode.Parse(record)!["tests"]![0]!["readings"]!.AsArray().Select(r => (int)(double)r!["value"]! - 100)];
    }

    /// <summary>Asks again and again, whatever breaks on the way.</summary>
    public static async Task UntilAsync(Func<Task<bool>> isSo, string what)
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
            catch (Exception broken) when (broken is HttpRequestException or TimeoutException or System.Text.Json.JsonException)
            {
                // It is being started again.
            }
            Patience.IsOver(waited.Elapsed, TimeSpan.FromMinutes(2)).ShouldBeFalse(what);
            await Task.Delay(50, Cancel);
        }
    }
}
