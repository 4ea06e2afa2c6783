using System.Net;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace Zandrik.Web.Tests.Front;

/// <summary>The stream of a job's changes, and a person's own sign-in, as plain HTTP.</summary>
public sealed class LiveTests(Site site) : IClassFixture<Site>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static Uri At(string address) => new(address, UriKind.Relative);

    // The next event of a stream, and what it tells.
    private static async Task<string> EventAsync(StreamReader reader)
    {
        string? line;
        do
        {
            line = await reader.ReadLineAsync(Cancel);
        }
        while (line?.StartsWith("event:", StringComparison.Ordinal) == false);
        return $"{line!["event:".Length..].Trim()} {(await reader.ReadLineAsync(Cancel))!["data:".Length..].Trim()}".TrimEnd();
    }

    private static async Task<IHtmlDocument> PageAsync(HttpClient client, int job) => new HtmlParser().ParseDocument(await client.GetStringAsync(At($"/jobs/{job}/dry?cylinder=1"), Cancel));

    private static async Task RepeatAsync(HttpClient client, int job)
    {
        var fields = (await PageAsync(client, job)).QuerySelectorAll("#pad input[type=hidden]").Cast<IHtmlInputElement>().Select(i => KeyValuePair.Create(i.Name!, i.Value))
            .Append(KeyValuePair.Create("value", "12")).Append(KeyValuePair.Create("kind", "Repeat"));
        using var form = new FormUrlEncodedContent(fields);
        (await client.PostAsync(At($"/jobs/{job}/dry?handler=Enter"), form, Cancel)).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task A_page_is_told_of_what_changed_while_it_was_loading_and_of_nothing_else()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        Task<int> MadeAsync() => site.JobAsync("""{ "engine": { "cylinders": 4 }, "tests": [ { "kind": "compression-dry", "unit": "bar", "readings": [ { "cylinder": 1, "value": 12 } ] } ] }""");
        async Task<StreamReader> StreamAsync(string address) => new(await client.GetStreamAsync(At(address), Cancel));
        async Task<string> AddressAsync(int job) => (await PageAsync(client, job)).QuerySelector("#bench")!.GetAttribute("data-live")!;
        var (one, two) = (await MadeAsync(), await MadeAsync());
        using var hears = await StreamAsync($"/jobs/{two}/live");
        (await EventAsync(hears)).ShouldBe("ready");
        // A reading of the second, heard by the server, and with it all that was done before.
        async Task ReadTwoAsync()
        {
            await RepeatAsync(client, two);
            while (await EventAsync(hears) == "change 0")
            {
                // That was its making.
            }
        }
        var ofTwo = await AddressAsync(two);
        await ReadTwoAsync();
        using var late = await StreamAsync(ofTwo);
        (await EventAsync(late)).ShouldBe("ready");
        (await EventAsync(late)).ShouldBe("change 0", "it changed between the page and its stream");
        using var restarted = await StreamAsync($"/jobs/{one}/live?since=other-1");
        (await EventAsync(restarted)).ShouldBe("ready");
        (await EventAsync(restarted)).ShouldBe("change 0", "what a server heard before its restart is not known");

        var ofOne = await AddressAsync(one);
        await ReadTwoAsync();
        using var other = await StreamAsync(ofOne);
        (await EventAsync(other)).ShouldBe("ready");
        await RepeatAsync(client, one);
        (await EventAsync(other)).ShouldMatch("^change [1-9]", "the other job's change is not this one's");
    }

    [Fact]
    public async Task The_stream_tells_of_a_reading_and_of_nothing_on_another_job()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        using var answer = await client.GetAsync(At("/jobs/10/live"), HttpCompletionOption.ResponseHeadersRead, Cancel);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("text/event-stream");
        using var reader = new StreamReader(await answer.Content.ReadAsStreamAsync(Cancel));
        (await EventAsync(reader)).ShouldBe("ready");
        foreach (var job in new[] { 9, 10 })
        {
            await RepeatAsync(client, job);
        }
        // Job 9 was written to first and is not heard of here: what comes is of job 10 (its test is begun, then the reading).
        var row = new HtmlParser().ParseDocument(await client.GetStringAsync(At("/jobs/10/dry"), Cancel)).QuerySelector("#bench")!.GetAttribute("data-row");
        var heard = new List<string>();
        do
        {
            heard.Add(await EventAsync(reader));
        }
        while (heard[^1] != $"change {row}");
        heard.ShouldAllBe(h => h == "change 0" || h == $"change {row}");
    }

    [Fact]
    public async Task Nobody_hears_a_job_who_may_not_see_it()
    {
        using var stranger = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(site.Address) };
        (await stranger.GetAsync(At("/jobs/8/live"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Redirect);
        using var client = await SignedIn.ClientAsync(site.Address);
        (await client.GetAsync(At("/jobs/99999/live"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Theory]
    [InlineData("wrong one", "three wet plugs", "three wet plugs", "That is not your password")]
    [InlineData(SignedIn.DemoPassword, "short", "short", "at least 10 characters")]
    [InlineData(SignedIn.DemoPassword, "aaaaaaaaaaaa", "aaaaaaaaaaaa", "too even")]
    [InlineData(SignedIn.DemoPassword, "three wet plugs", "three dry plugs", "not the same")]
    public async Task A_password_is_changed_only_by_who_knows_the_old_one_and_to_one_that_holds(string old, string password, string again, string says)
    {
        using var client = await SignedIn.ClientAsync(site.Address, "skarre");
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(At("/account"), Cancel));
        using var form = new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["old"] = old, ["password"] = password, ["again"] = again,
            ["__RequestVerificationToken"] = page.QuerySelector("form[action*=Password] input[name=__RequestVerificationToken]")!.GetAttribute("value")!,
        });
        var answer = await client.PostAsync(At("/account?handler=Password"), form, Cancel);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await answer.Content.ReadAsStringAsync(Cancel)).ShouldContain(says);
    }
}
