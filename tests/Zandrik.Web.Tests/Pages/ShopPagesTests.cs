using System.Net;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Zandrik.Storage.Tests;

namespace Zandrik.Web.Tests.Pages;

/// <summary>What a foreman does with people, tokens, testers and sheets, as plain HTTP.</summary>
public sealed class ShopPagesTests(Site site) : IClassFixture<Site>, IAsyncLifetime
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private HttpClient foreman = null!;

    public async ValueTask InitializeAsync() => foreman = await SignedIn.ClientAsync(site.Address);

    public ValueTask DisposeAsync()
    {
        foreman.Dispose();
        return ValueTask.CompletedTask;
    }

    private static Uri At(string address) => new(address, UriKind.Relative);

    private async Task<IHtmlDocument> PageAsync(string address) => new HtmlParser().ParseDocument(await foreman.GetStringAsync(At(address), Cancel));

    private async Task<IHtmlDocument> PostAsync(string page, string address, Dictionary<string, string> fields, HttpStatusCode status = HttpStatusCode.OK)
    {
        fields["__RequestVerificationToken"] = (await PageAsync(page)).QuerySelector("input[name=__RequestVerificationToken]")!.GetAttribute("value")!;
        using var form = new FormUrlEncodedContent(fields);
        var answer = await foreman.PostAsync(At(address), form, Cancel);
        answer.StatusCode.ShouldBe(status, address);
        return new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync(Cancel));
    }

    private async Task<string> AddAsync(string name, string role = "technician") =>
        (await PostAsync("/shop/people", "/shop/people?handler=Add", new() { ["name"] = name, ["role"] = role })).QuerySelector("#link")!.TextContent;

    private async Task<string> IdAsync(string name) => (await TestDatabase.ExecuteAsync(site.Owner, $"select id from person where name = '{name}'"))!.ToString()!;

    private static async Task<HttpResponseMessage> WelcomeAsync(HttpClient client, string link, string login, string password = "four dry plugs")
    {
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri(link), Cancel));
        using var form = new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["Form.Name"] = page.QuerySelector("#name")!.GetAttribute("value")!, ["Form.Login"] = login, ["Form.Password"] = password, ["Form.Again"] = password,
            ["__RequestVerificationToken"] = ((IHtmlInputElement)page.QuerySelector("input[name=__RequestVerificationToken]")!).Value,
        });
        return await client.PostAsync(new Uri(link), form, Cancel);
    }

    [Theory]
    [InlineData("Ostrel", "small letters")]
    [InlineData("ab", "small letters")]
    [InlineData("ostrel", "is taken")]
    public async Task A_sign_in_name_is_plain_and_one_of_a_kind(string login, string says)
    {
        var link = await AddAsync($"Named {login}");
        using var client = new HttpClient();
        var answer = await WelcomeAsync(client, link, login);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await answer.Content.ReadAsStringAsync(Cancel)).ShouldContain(says);
    }

    [Fact]
    public async Task A_link_is_good_once_and_says_so_afterwards()
    {
        var link = await AddAsync("Once only");
        using var client = new HttpClient();
        (await WelcomeAsync(client, link, "once.only")).RequestMessage!.RequestUri!.AbsolutePath.ShouldBe("/");
        using var second = new HttpClient();
        (await second.GetStringAsync(new Uri(link), Cancel)).ShouldContain("This link is no longer good");
        (await second.GetStringAsync(new Uri(site.Address + "/welcome/nothing-like-it"), Cancel)).ShouldContain("This link is no longer good");
    }

    [Fact]
    public async Task Somebody_who_left_is_out_at_once_and_what_was_read_stays()
    {
        await WelcomeAsync(new HttpClient(), await AddAsync("Leaver"), "leaver-here");
        using var leaver = await SignedIn.ClientAsync(site.Address, "leaver-here", "four dry plugs");
        (await PostAsync("/shop/people", "/shop/people?handler=Leave", new() { ["person"] = await IdAsync("Leaver") })).QuerySelector(".done-note")!.TextContent.ShouldContain("stays on record");
        (await leaver.GetAsync(At("/"), Cancel)).RequestMessage!.RequestUri!.AbsolutePath.ShouldBe("/sign-in");
        using var again = new HttpClient { BaseAddress = new Uri(site.Address) };
        (await SignedIn.TryAsync(again, "leaver-here", "four dry plugs")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        await PostAsync("/shop/people", "/shop/people?handler=Return", new() { ["person"] = await IdAsync("Leaver") });
        (await SignedIn.TryAsync(again, "leaver-here", "four dry plugs")).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Another_role_holds_from_the_next_page_on()
    {
        await WelcomeAsync(new HttpClient(), await AddAsync("Climber", "viewer"), "climber");
        using var climber = await SignedIn.ClientAsync(site.Address, "climber", "four dry plugs");
        (await climber.GetAsync(At("/shop"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        await PostAsync("/shop/people", "/shop/people?handler=Role", new() { ["person"] = await IdAsync("Climber"), ["role"] = "foreman" });
        (await climber.GetAsync(At("/shop"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);
        await PostAsync("/shop/people", "/shop/people?handler=Role", new() { ["person"] = await IdAsync("Climber"), ["role"] = "technician" });
        (await climber.GetAsync(At("/shop"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        await PostAsync("/shop/people", "/shop/people?handler=Role", new() { ["person"] = await IdAsync("Climber"), ["role"] = "owner" }, HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task A_token_is_shown_once_works_and_is_revoked_for_good()
    {
        var made = await PostAsync("/shop/tokens", "/shop/tokens?handler=Make", new() { ["label"] = "The yard", ["may"] = "read", ["days"] = "30" });
        var word = made.QuerySelector("#token")!.TextContent;
        (await PageAsync("/shop/tokens")).QuerySelector("main")!.TextContent.ShouldNotContain(word);
        using var api = new HttpClient { BaseAddress = new Uri(site.Address), DefaultRequestHeaders = { Authorization = new("Bearer", word) } };
        (await api.GetAsync(At("/api/v1/jobs"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);
        // It only reads, and it ends.
        using var record = new StringContent("""{ "format": "zandrik-test-record", "version": 1, "engine": { "cylinders": 4 } }""", System.Text.Encoding.UTF8, "application/json");
        (await api.PostAsync(At("/api/v1/jobs"), record, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        await TestDatabase.ExecuteAsync(site.Owner, "update api_token set ends_at = now() - interval '1 second' where label = 'The yard'");
        (await api.GetAsync(At("/api/v1/jobs"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        await TestDatabase.ExecuteAsync(site.Owner, "update api_token set ends_at = now() + interval '1 day' where label = 'The yard'");
        var id = (await PageAsync("/shop/tokens")).QuerySelectorAll("tr").First(r => r.TextContent.Contains("The yard", StringComparison.Ordinal)).QuerySelector("input[name=token]")!.GetAttribute("value")!;
        await PostAsync("/shop/tokens", "/shop/tokens?handler=Revoke", new() { ["token"] = id });
        (await api.GetAsync(At("/api/v1/jobs"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await PostAsync("/shop/tokens", "/shop/tokens?handler=Make", new() { ["label"] = " " }, HttpStatusCode.UnprocessableEntity)).QuerySelector("#label-problem").ShouldNotBeNull();
    }

    [Fact]
    public async Task What_is_put_away_is_offered_no_more_and_comes_back()
    {
        async Task<string[]> OfferedAsync(string page, string css) => [.. (await PageAsync(page)).QuerySelectorAll(css).Select(o => o.TextContent.Trim())];
        await PostAsync("/engines/new", "/engines/new", new() { ["Cells[name]"] = "Put away four", ["Cells[cylinders]"] = "4", ["Cells[unit]"] = "psi" });
        var sheet = (await TestDatabase.ExecuteAsync(site.Owner, "select id from engine_sheet where name = 'Put away four'"))!;
        (await OfferedAsync("/jobs/new", "#sheet option")).ShouldContain("Put away four");
        await PostAsync($"/engines/{sheet}", $"/engines/{sheet}?handler=Retire", new() { ["back"] = "false" });
        (await OfferedAsync("/jobs/new", "#sheet option")).ShouldNotContain("Put away four");
        await PostAsync($"/engines/{sheet}", $"/engines/{sheet}?handler=Retire", new() { ["back"] = "true" });
        (await OfferedAsync("/jobs/new", "#sheet option")).ShouldContain("Put away four");

        await PostAsync("/testers/new", "/testers/new", new() { ["Form.Label"] = "Put away gauge", ["Form.Kind"] = "gauge", ["Form.Unit"] = "psi" });
        var tester = (await TestDatabase.ExecuteAsync(site.Owner, "select id from tester where label = 'Put away gauge'"))!;
        await PostAsync($"/testers/{tester}", $"/testers/{tester}?handler=Retire", new() { ["back"] = "false" });
        (await OfferedAsync("/jobs/5/dry", "select[name=tester] option")).ShouldNotContain("Put away gauge");
    }
}
