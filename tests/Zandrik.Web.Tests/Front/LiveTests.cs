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

    private static async Task<StreamReader> StreamAsync(HttpClient client, string mark) => new(await client.GetStreamAsync(At($"/live?since={mark}"), Cancel));

    private static async Task<string> MarkAsync(HttpClient client, int job) => (await PageAsync(client, job)).QuerySelector("#bench")!.GetAttribute("data-live")!;

    private Task<int> MadeAsync() => site.JobAsync("""{ "engine": { "cylinders": 4 }, "tests": [ { "kind": "compression-dry", "unit": "bar", "readings": [ { "cylinder": 1, "value": 12 } ] } ] }""");

    [Fact]
    public async Task A_page_is_told_of_what_changed_while_it_was_loading_and_of_nothing_before()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        var (one, two) = (await MadeAsync(), await MadeAsync());
        using var hears = await StreamAsync(client, "");
        (await EventAsync(hears)).ShouldBe("ready");
        // A reading of the second, heard by the server, and with it all that was done before.
        async Task ReadTwoAsync()
        {
            await RepeatAsync(client, two);
            while (!System.Text.RegularExpressions.Regex.IsMatch(await EventAsync(hears), $"^change {two} [1-9]"))
            {
                // That was its making, or another test's job.
            }
        }
        // Its making is behind the mark once a reading after it was heard.
        await ReadTwoAsync();
        var before = await MarkAsync(client, two);
        await ReadTwoAsync();
        using var late = await StreamAsync(client, before);
        (await EventAsync(late)).ShouldBe("ready");
        (await EventAsync(late)).ShouldMatch($"^change {two} [1-9]", "it changed between the page and its stream");
        using var restarted = await StreamAsync(client, "other-1");
        (await EventAsync(restarted)).ShouldBe("ready");
        (await EventAsync(restarted)).ShouldBe("change 0 0", "what a server heard before its restart is not known");

        var after = await MarkAsync(client, one);
        using var other = await StreamAsync(client, after);
        (await EventAsync(other)).ShouldBe("ready");
        await RepeatAsync(client, one);
        (await EventAsync(other)).ShouldMatch($"^change {one} [0-9]", "what was before the page is not told again");
    }

    [Fact]
    public async Task The_stream_tells_of_a_reading_with_its_job_and_row_and_goes_on_where_it_broke_off()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        using var answer = await client.GetAsync(At("/live"), HttpCompletionOption.ResponseHeadersRead, Cancel);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("text/event-stream");
        using var reader = new StreamReader(await answer.Content.ReadAsStreamAsync(Cancel));
        (await EventAsync(reader)).ShouldBe("ready");
        var broken = await MarkAsync(client, 9);
        foreach (var job in new[] { 9, 10 })
        {
            await RepeatAsync(client, job);
        }
        var row = (await PageAsync(client, 10)).QuerySelector("#bench")!.GetAttribute("data-row");
        string heard;
        do
        {
            heard = await EventAsync(reader);
        }
        while (heard != $"change 10 {row}");
        using var request = new HttpRequestMessage(HttpMethod.Get, At("/live?since=other-7"));
        request.Headers.Add("Last-Event-ID", broken);
        using var again = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, Cancel);
        using var rest = new StreamReader(await again.Content.ReadAsStreamAsync(Cancel));
        (await EventAsync(rest)).ShouldBe("ready");
        (await EventAsync(rest)).ShouldStartWith("change 9 ");
    }

    [Fact]
    public async Task Nobody_hears_a_shop_who_is_not_signed_in_there()
    {
        using var stranger = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(site.Address) };
        (await stranger.GetAsync(At("/live"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Redirect);
    }

    [Theory]
    [InlineData("wrong one", "three wet plugs", "three wet plugs", "That is not your password")]
    [InlineData(SignedIn.DemoPassword, "short", "short", "at least 12 characters")]
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
