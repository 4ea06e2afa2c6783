using System.Net;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace Zandrik.Web.Tests.Front;

/// <summary>The stream of a job's changes, and a person's own sign-in, as plain HTTP.</summary>
public sealed class LiveTests(Site site) : IClassFixture<Site>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static Uri At(string address) => new(address, UriKind.Relative);

    [Fact]
    public async Task The_stream_tells_of_a_reading_and_of_nothing_on_another_job()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        using var answer = await client.GetAsync(At("/jobs/10/live"), HttpCompletionOption.ResponseHeadersRead, Cancel);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("text/event-stream");
        using var reader = new StreamReader(await answer.Content.ReadAsStreamAsync(Cancel));
        async Task<string> EventAsync()
        {
            string? line;
            do
            {
                line = await reader.ReadLineAsync(Cancel);
            }
            while (line?.StartsWith("event:", StringComparison.Ordinal) == false);
            return $"{line!["event:".Length..].Trim()} {(await reader.ReadLineAsync(Cancel))!["data:".Length..].Trim()}".TrimEnd();
        }
        (await EventAsync()).ShouldBe("ready");
        foreach (var job in new[] { 9, 10 })
        {
            var page = new HtmlParser().ParseDocument(await client.GetStringAsync(At($"/jobs/{job}/dry?cylinder=1"), Cancel));
            var fields = page.QuerySelectorAll("#pad input[type=hidden]").Cast<IHtmlInputElement>().Select(i => KeyValuePair.Create(i.Name!, i.Value))
                .Append(KeyValuePair.Create("value", "12")).Append(KeyValuePair.Create("kind", "Repeat"));
            using var form = new FormUrlEncodedContent(fields);
            (await client.PostAsync(At($"/jobs/{job}/dry?handler=Enter"), form, Cancel)).EnsureSuccessStatusCode();
        }
        // Job 9 was written to first and is not heard of here: what comes is of job 10 (its test is begun, then the reading).
        var row = new HtmlParser().ParseDocument(await client.GetStringAsync(At("/jobs/10/dry"), Cancel)).QuerySelector("#bench")!.GetAttribute("data-row");
        var heard = new List<string>();
        do
        {
            heard.Add(await EventAsync());
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
