using System.Globalization;
using System.Net;
using System.Text.Json.Nodes;
using AngleSharp.Html.Parser;
using OpenQA.Selenium;
using Zandrik.Storage.Tests;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Who gets in, as whom, and what each may do.</summary>
public sealed class SignInTests(Site site) : IClassFixture<Site>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private HttpClient Stranger(bool cookies = true) =>
        new(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = cookies }) { BaseAddress = new Uri(site.Address) };

    private static Uri At(string address) => new(address, UriKind.Relative);

    private static string Cookie(HttpResponseMessage answer) =>
        answer.Headers.GetValues("Set-Cookie").First(c => c.StartsWith("zandrik.person=", StringComparison.Ordinal)).Split(';')[0];

    // A person of this shop of its own for the test, with the demo's password.
    private async Task PersonAsync(string login, string role = "technician") =>
        await TestDatabase.ExecuteAsync(site.Owner, $"insert into person (shop_id, name, login, role, password_hash) select 1, '{login}', '{login}', '{role}', password_hash from person where login = 'ostrel'");

    [Theory]
    [InlineData("/")]
    [InlineData("/jobs/8/dry")]
    [InlineData("/jobs/8/dry?handler=Record")]
    [InlineData("/shop")]
    public async Task Every_page_asks_for_a_sign_in_and_leads_back_to_where_one_was_going(string address)
    {
        using var client = Stranger();
        var answer = await client.GetAsync(At(address), Cancel);
        answer.StatusCode.ShouldBe(HttpStatusCode.Redirect);
        answer.Headers.Location!.PathAndQuery.ShouldBe($"/sign-in?back={Uri.EscapeDataString(address)}");
        (await SignedIn.TryAsync(client, "ostrel", SignedIn.DemoPassword, address)).Headers.Location!.OriginalString.ShouldBe(address);
        // Never to another site.
        (await SignedIn.TryAsync(client, "ostrel", SignedIn.DemoPassword, "//elsewhere.example/")).Headers.Location!.OriginalString.ShouldBe("/");
    }

    [Fact]
    public async Task A_part_of_a_page_is_answered_with_401_not_with_the_sign_in_page()
    {
        using var client = Stranger();
        using var request = new HttpRequestMessage(HttpMethod.Get, "/jobs/8/dry") { Headers = { { "HX-Request", "true" } } };
        (await client.SendAsync(request, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        using var post = new HttpRequestMessage(HttpMethod.Post, "/jobs/8/dry?handler=Enter") { Headers = { { "HX-Request", "true" } } };
        (await client.SendAsync(post, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized, "not 400: what waits on a tablet has to know the one from the other");
    }

    [Fact]
    public async Task After_five_wrong_passwords_even_the_right_one_waits()
    {
        await PersonAsync("locked");
        using var client = Stranger();
        for (var i = 0; i < 5; i++)
        {
            (await SignedIn.TryAsync(client, "locked", "not this one")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        }
        var answer = await SignedIn.TryAsync(client, "locked", SignedIn.DemoPassword);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await answer.Content.ReadAsStringAsync(Cancel)).ShouldMatch(SignedIn.Waits);
        // Whether a name exists is not told, neither at first nor later.
        for (var i = 0; i < 5; i++)
        {
            (await (await SignedIn.TryAsync(client, "nobody-at-all", "x")).Content.ReadAsStringAsync(Cancel)).ShouldContain("do not go together");
        }
        (await (await SignedIn.TryAsync(client, "nobody-at-all", "x")).Content.ReadAsStringAsync(Cancel)).ShouldMatch(SignedIn.Waits);
    }

    [Fact]
    public async Task Somebody_elsewhere_who_guesses_keeps_nobody_out_of_his_own_tablet()
    {
        await PersonAsync("kept-in");
        using var own = Stranger();
        (await SignedIn.TryAsync(own, "kept-in", SignedIn.DemoPassword)).StatusCode.ShouldBe(HttpStatusCode.Redirect);
        using var guessing = Stranger();
        for (var i = 0; i < 6; i++)
        {
            await SignedIn.TryAsync(guessing, "kept-in", "a guess");
        }
        (await SignedIn.TryAsync(own, "kept-in", SignedIn.DemoPassword)).StatusCode.ShouldBe(HttpStatusCode.Redirect);
    }

    [Theory]
    [InlineData("/jobs/8/sheet?handler=Pdf")]
    [InlineData("/jobs/8/owner?handler=Pdf")]
    [InlineData("/jobs?handler=Export")]
    [InlineData("/jobs/8/dry?handler=Record")]
    [InlineData("/shop/people")]
    public async Task What_is_somebodys_is_kept_by_no_cache(string address)
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        using var answer = await client.GetAsync(At(address), Cancel);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        answer.Headers.CacheControl!.NoStore.ShouldBeTrue(address);
    }

    [Fact]
    public async Task Signing_out_ends_the_session_and_a_copy_of_its_cookie()
    {
        await PersonAsync("signs-out");
        using var here = Stranger();
        var cookie = Cookie(await SignedIn.TryAsync(here, "signs-out", SignedIn.DemoPassword));
        using var there = Stranger();
        await SignedIn.TryAsync(there, "signs-out", SignedIn.DemoPassword);
        using var copy = Stranger(cookies: false);
        copy.DefaultRequestHeaders.Add("Cookie", cookie);
        (await copy.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);
        new HtmlParser().ParseDocument(await here.GetStringAsync(At("/account"), Cancel)).QuerySelectorAll("[data-sessions] li").Length.ShouldBe(2);
        (await here.PostFormAsync("/account?handler=Out")).StatusCode.ShouldBe(HttpStatusCode.Redirect);
        (await copy.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Redirect);
        (await there.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK, "the other device stays signed in");
    }

    [Fact]
    public async Task A_cookie_planted_before_is_not_the_one_that_is_let_in_and_sign_out_everywhere_ends_it()
    {
        await PersonAsync("everywhere");
        using var planted = Stranger(cookies: false);
        planted.DefaultRequestHeaders.Add("Cookie", "zandrik.person=planted-by-somebody-else");
        (await planted.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Redirect);

        using var one = Stranger();
        using var two = Stranger();
        var cookie = Cookie(await SignedIn.TryAsync(one, "everywhere", SignedIn.DemoPassword));
        Cookie(await SignedIn.TryAsync(two, "everywhere", SignedIn.DemoPassword)).ShouldNotBe(cookie);
        (await planted.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Redirect, "the planted text opens nothing after somebody signed in");

        var account = new HtmlParser().ParseDocument(await one.GetStringAsync(At("/account"), Cancel));
        var token = account.QuerySelector("form[action*=Everywhere] input[name=__RequestVerificationToken]")!.GetAttribute("value")!;
        (await two.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);
        using var form = new FormUrlEncodedContent([KeyValuePair.Create("__RequestVerificationToken", token)]);
        await one.PostAsync(At("/account?handler=Everywhere"), form, Cancel);
        (await two.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Redirect);
        // A copy of the old cookie is no good either.
        using var copy = Stranger(cookies: false);
        copy.DefaultRequestHeaders.Add("Cookie", cookie);
        (await copy.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Redirect);
    }

    [Theory]
    [InlineData("innvik", "/shop", 403)]
    [InlineData("hallan", "/shop", 403)]
    [InlineData("hallan", "/shop/people", 403)]
    [InlineData("hallan", "/shop/tokens", 403)]
    [InlineData("ostrel", "/shop/tokens", 200)]
    [InlineData("innvik", "/jobs/8/dry", 200)]
    public async Task Some_pages_are_the_foremans(string login, string address, int status)
    {
        using var client = await SignedIn.ClientAsync(site.Address, login);
        ((int)(await client.GetAsync(At(address), Cancel)).StatusCode).ShouldBe(status);
    }

    [Fact]
    public async Task A_viewer_sees_a_job_without_a_pad_and_a_forged_entry_is_refused()
    {
        using var client = await SignedIn.ClientAsync(site.Address, "innvik");
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(At("/jobs/8/dry"), Cancel));
        page.QuerySelector("#pad").ShouldBeNull();
        page.QuerySelector(".conditions fieldset")!.HasAttribute("disabled").ShouldBeTrue();
        var account = new HtmlParser().ParseDocument(await client.GetStringAsync(At("/account"), Cancel));
        using var form = new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["value"] = "100", ["kind"] = "Reading", ["unit"] = "psi", ["cylinder"] = "1",
            ["__RequestVerificationToken"] = account.QuerySelector("input[name=__RequestVerificationToken]")!.GetAttribute("value")!,
        });
        (await client.PostAsync(At("/jobs/8/dry?handler=Enter"), form, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task Another_shops_job_cannot_be_guessed_through_a_page_or_the_api()
    {
        await TestDatabase.ExecuteAsync(site.Owner, """
            with s as (insert into shop (name, time_zone, unit, next_job) values ('Over the sound', 'Etc/UTC', 'bar', 5001) returning id),
                 p as (insert into person (shop_id, name) select id, 'A. Stranger' from s returning shop_id, id),
                 e as (insert into engine (shop_id) select id from s returning shop_id, id)
            insert into job (shop_id, number, record, unit, opened_at, opened_by, engine_id)
            select p.shop_id, 5000, '{"format":"zandrik-test-record","version":1,"vehicle":{"label":"Secret van"},"engine":{"cylinders":4}}', 'bar', now(), p.id, e.id from p, e
            """);
        using var client = await SignedIn.ClientAsync(site.Address);
        foreach (var address in new[] { "/jobs/5000/dry", "/jobs/5000/intake", "/jobs/5000/dry?handler=Record" })
        {
            (await client.GetAsync(At(address), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound, address);
        }
        (await site.Api.GetAsync(At("/api/v1/jobs/5000/record"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await client.GetStringAsync(At("/jobs"), Cancel)).ShouldNotContain("Secret van");
    }

    [Fact]
    public async Task A_token_of_a_viewer_reads_and_adds_nothing()
    {
        await TestDatabase.ExecuteAsync(site.Owner, "insert into api_token (shop_id, person_id, label, hash) select 1, id, 'look', sha256('viewers-token') from person where login = 'innvik'");
        using var api = new HttpClient { BaseAddress = new Uri(site.Address), DefaultRequestHeaders = { Authorization = new("Bearer", "viewers-token") } };
        (await api.GetAsync(At("/api/v1/jobs/8/record"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);
        using var record = new StringContent("""{"format":"zandrik-test-record","version":1,"engine":{"cylinders":4}}""", null, "application/json");
        (await api.PostAsync(At("/api/v1/jobs"), record, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task From_the_link_in_the_terminal_to_a_second_person_at_work()
    {
        await using var empty = new Site { Demo = false };
        await empty.InitializeAsync();
        using var browser = new Browser { As = null };
        browser.Open(empty.Address + "/");
        browser.UntilText("main", "one-time link for the first foreman");

        browser.Open($"{empty.Address}/welcome/{empty.FirstLink}");
        browser.Type("#name", "A. Fenn");
        browser.Type("#login", "fenn");
        browser.Type("#password", "short");
        browser.Type("#again", "short");
        browser.Click("form .btn-primary");
        browser.UntilText("#password-problem", "at least 12 characters");
        browser.Value("#name").ShouldBe("A. Fenn");
        // Both are seen, and hidden again before they go.
        browser.Click("#password-shown");
        browser.Find("#again").GetAttribute("type").ShouldBe("text");
        browser.Violations().ShouldBeEmpty();
        browser.Type("#password", "three wet plugs");
        browser.Type("#again", "three wet plugs");
        browser.Click("form .btn-primary");
        // The set-up begins; whoever would rather see all settings at once opens them.
        browser.UntilText("h1", "Set up Our workshop");
        browser.Open(empty.Address + "/shop");

        // Settings, with one slip on the way; nothing typed is lost.
        browser.Type("#name", "Fenn & daughters <b>");
        browser.Type("#time-zone", "Nowhere/Land");
        browser.Type("#altitude", "420");
        browser.Send("#numbers", "14,1");
        browser.Type("#house-rules", "Two-litre: no head-only repair");
        browser.Click(".form-end button");
        browser.UntilText("#time-zone-problem", "Choose one of the list");
        browser.Value("#altitude").ShouldBe("420");
        browser.Type("#time-zone", "Atlantic/Faroe");
        browser.Click(".form-end button");
        browser.UntilText(".done-note", "Saved.");
        browser.Text(".who-text").ShouldContain("Fenn & daughters <b> · A. Fenn");

        browser.Click("nav.switch a[href='/shop/people']");
        browser.Type("#name", "C. Holm");
        browser.Click(".add-person .btn");
        var link = browser.Text("#link");
        browser.Violations().ShouldBeEmpty();

        using var second = new Browser { As = null };
        second.Open(link);
        second.Type("#login", "holm");
        second.Type("#password", "four dry plugs");
        second.Type("#again", "four dry plugs");
        second.Click("form .btn-primary");
        second.Click("main a.btn-primary");
        second.Type("#vehicle", "Mail boat 2");
        second.Unfold();
        second.Type("#engine-name", "Two-litre four");
        second.Type("#cylinders", "4");
        second.Click(".form-end button");
        second.UntilText(".house-rule", "no head-only repair");
        second.FromPlanToDry();
        second.Click(".units button[value=bar]");
        second.UntilText(".pad-unit", "bar");
        second.Press("14.1" + Keys.Enter);
        second.UntilText("#pad-message", "14,1 bar saved");
        second.Script("document.querySelector('.numbers').open = true");
        second.UntilText(".numbers tbody tr", "C. Holm");
        second.Find("svg.columns").GetAttribute("outerHTML")!.ShouldNotMatch("[ dxy]=\"[^\"]*[0-9],[0-9]");
    }

    [Fact]
    public async Task A_change_of_settings_leaves_the_verdict_of_an_older_job_alone()
    {
        await using var own = new Site();
        await own.InitializeAsync();
        using var browser = new Browser();
        void Job(string vehicle)
        {
            browser.Open(own.Address + "/jobs/new");
            browser.Type("#vehicle", vehicle);
            browser.Type("#cylinders", "2");
            browser.Click(".form-end button");
            browser.FromPlanToDry();
            foreach (var (figure, then) in new[] { ("200", "cylinder 2"), ("176", "cylinder 2") })
            {
                browser.UntilText("#pad-title", "cylinder");
                browser.Press(figure + Keys.Enter);
                browser.UntilText("#pad-message", $"{figure} psi saved");
            }
        }
        Job("Before");
        var before = browser.Url;
        browser.Open(own.Address + "/shop");
        browser.Type("#good-percent-of-highest", "5");
        browser.Type("[name='Form.Methods[percent-of-highest].Marginal']", "10");
        browser.Click(".form-end button");
        browser.UntilText(".done-note", "Saved.");
        Job("After");
        browser.Text("[data-method=percent-of-highest]").ShouldContain("fail");
        var record = JsonNode.Parse(await own.Api.GetStringAsync(At($"/api/v1/jobs/{int.Parse(new Uri(browser.Url).Segments[2].TrimEnd('/'), CultureInfo.InvariantCulture)}/record"), Cancel))!;
        ((double)record["judgeBy"]!["limits"]!["percent-of-highest"]![1]!).ShouldBe(10);
        browser.Open(before);
        browser.Text("[data-method=percent-of-highest]").ShouldContain("marginal");
    }
}
