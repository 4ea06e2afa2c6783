using System.Net;
using System.Text;

namespace Zandrik.Web.Tests.Front;

/// <summary>Nobody takes the server from the others.</summary>
public sealed class RateLimitsTests : IAsyncLifetime
{
    private readonly string name = $"rates_{Guid.NewGuid():N}";
    private readonly int port = ProcessTests.FreePort();
    private System.Diagnostics.Process server = null!;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() =>
        server = await ProcessTests.StartAsync(await Site.MakeDatabaseAsync(name), new() { ["ZANDRIK_API_RATE"] = "2" }, "--urls", $"http://127.0.0.1:{port}");

    public async ValueTask DisposeAsync()
    {
        server.Kill(entireProcessTree: true);
        await server.WaitForExitAsync(CancellationToken.None);
        server.Dispose();
        await Zandrik.Storage.Tests.TestDatabase.ExecuteAsync(Zandrik.Storage.Tests.TestDatabase.OwnerOf("postgres"), $"drop database {name} with (force)");
    }

    [Fact]
    public async Task A_token_that_calls_too_often_waits_and_another_does_not()
    {
        using var busy = JobsOverTheApi.Of($"http://127.0.0.1:{port}");
        var answers = new List<HttpResponseMessage>();
        for (var i = 0; i < 60; i++)
        {
            answers.Add(await busy.GetAsync(new Uri("/api/v1/jobs", UriKind.Relative), Cancel));
        }
        answers.Count(a => a.StatusCode == HttpStatusCode.OK).ShouldBeGreaterThanOrEqualTo(20);
        var refused = answers.First(a => a.StatusCode == HttpStatusCode.TooManyRequests);
        refused.Headers.RetryAfter!.Delta!.Value.TotalSeconds.ShouldBeInRange(1, 30);
        (await refused.Content.ReadAsStringAsync(Cancel)).ShouldContain("Send it again in");
        using var other = new HttpClient { BaseAddress = busy.BaseAddress, DefaultRequestHeaders = { Authorization = new("Bearer", "somebody-else") } };
        (await other.GetAsync(new Uri("/api/v1/jobs", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized, "asked, and answered");
        // Pages are not held up by it.
        using var person = await SignedIn.ClientAsync($"http://127.0.0.1:{port}");
        (await person.GetAsync(new Uri("/jobs/10/dry", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task One_person_sends_so_many_files_at_once_and_the_rest_is_told_to_wait()
    {
        using var person = await SignedIn.ClientAsync($"http://127.0.0.1:{port}");
        // Slow ones, as over a bad network: they hold their places until their last byte.
        var gate = new TaskCompletionSource();
        var sent = Enumerable.Range(0, 14).Select(_ =>
        {
            // Asks before it sends, so that a refusal is heard at once.
            return person.SendAsync(new HttpRequestMessage(HttpMethod.Post, "/jobs/10/plugs?handler=Photo&cylinder=1")
            {
                Content = new MultipartFormDataContent { { new SlowContent(gate.Task), "photo", "plug.jpg" } }, Headers = { ExpectContinue = true },
            }, Cancel);
        }).ToList();
        var first = await await Task.WhenAny(sent);
        first.StatusCode.ShouldBe(HttpStatusCode.TooManyRequests);
        gate.SetResult();
        var codes = (await Task.WhenAll(sent)).Select(a => a.StatusCode).ToList();
        codes.Count(c => c == HttpStatusCode.TooManyRequests).ShouldBe(14 - 3 - 6);
    }

    private sealed class SlowContent(Task end) : HttpContent
    {
        protected override async Task SerializeToStreamAsync(Stream stream, TransportContext? context)
        {
            await stream.WriteAsync(Encoding.ASCII.GetBytes("begun"));
            await stream.FlushAsync();
            await end;
            await stream.WriteAsync(Encoding.ASCII.GetBytes("ended"));
        }

        protected override bool TryComputeLength(out long length)
        {
            length = 0;
            return false;
        }
    }
}
