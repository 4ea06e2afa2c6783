using System.Net;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using OtpNet;
using Zandrik.Storage.Tests;

namespace Zandrik.Web.Tests.Pages;

/// <summary>The second half of the way in: a code of the phone, and the paper for the day it is lost.</summary>
public sealed class SecondFactorTests(Site site) : IClassFixture<Site>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private HttpClient Stranger() => new(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(site.Address) };

    private static Uri At(string address) => new(address, UriKind.Relative);

    private async Task ForemanAsync(string login) =>
        await TestDatabase.ExecuteAsync(site.Owner, $"insert into person (shop_id, name, login, role, password_hash) select 1, '{login}', '{login}', 'foreman', password_hash from person where login = 'ostrel'");

    private static async Task<IHtmlDocument> ReadAsync(HttpResponseMessage answer) => new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync(Cancel));

    // What a phone shows so many half minutes from now.
    private static string Shown(string secret, int later) => new Totp(Base32Encoding.ToBytes(secret.Replace(" ", "", StringComparison.Ordinal))).ComputeTotp(DateTime.UtcNow.AddSeconds(30 * later));

    // Sets it up as a person does, and returns the secret and the paper's codes.
    private static async Task<(string Secret, IReadOnlyList<string> Paper)> SetUpAsync(HttpClient client)
    {
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(At("/account/code"), Cancel));
        var (secret, offer) = (page.QuerySelector("[data-secret]")!.TextContent, ((IHtmlInputElement)page.QuerySelector("[name=offer]")!).Value);
        using var wrong = await client.PostFormAsync("/account/code?handler=On", ("offer", offer), ("code", "12345"), ("password", SignedIn.DemoPassword));
        wrong.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        var again = await ReadAsync(wrong);
        again.QuerySelector("[data-secret]")!.TextContent.ShouldBe(secret, "the phone has learnt this one");
        again.QuerySelector("#code-problem")!.TextContent.ShouldContain("code is not right");
        using var nobody = await client.PostFormAsync("/account/code?handler=On", ("offer", offer), ("code", Shown(secret, 0)), ("password", "somebody at the tablet"));
        (await ReadAsync(nobody)).QuerySelector("#password-problem")!.TextContent.ShouldBe("That is not your password.");
        using var on = await client.PostFormAsync("/account/code?handler=On", ("offer", offer), ("code", Shown(secret, 0)), ("password", SignedIn.DemoPassword));
        on.StatusCode.ShouldBe(HttpStatusCode.OK);
        return (secret, [.. (await ReadAsync(on)).QuerySelectorAll("[data-recovery] code").Select(c => c.TextContent)]);
    }

    private static async Task<HttpResponseMessage> CodeAsync(HttpClient client, string code, string back = "/")
    {
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(At($"/sign-in/code?back={Uri.EscapeDataString(back)}"), Cancel));
        using var form = new FormUrlEncodedContent(page.QuerySelectorAll("form.stack input[type=hidden]").Cast<IHtmlInputElement>().ToDictionary(i => i.Name!, i => i.Value).Append(new("code", code)));
        return await client.PostAsync(At("/sign-in/code"), form, Cancel);
    }

    [Fact]
    public async Task With_a_code_the_password_alone_opens_nothing_and_no_code_is_good_twice()
    {
        await ForemanAsync("with-code");
        using var own = await SignedIn.ClientAsync(site.Address, "with-code");
        var (secret, paper) = await SetUpAsync(own);
        paper.Count.ShouldBe(8);
        (await own.GetStringAsync(At("/account/code"), Cancel)).ShouldContain("8 recovery codes are left");

        using var tablet = Stranger();
        (await tablet.GetAsync(At("/sign-in/code"), Cancel)).Headers.Location!.OriginalString.ShouldBe("/sign-in", "nobody's password was right here");
        (await SignedIn.TryAsync(tablet, "with-code", SignedIn.DemoPassword, "/jobs/8/dry")).Headers.Location!.OriginalString.ShouldBe("/sign-in/code?back=%2Fjobs%2F8%2Fdry");
        (await tablet.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Redirect);
        (await CodeAsync(tablet, "000000")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        // The half minute that proved the phone is over and done with; the next one lets in.
        var code = Shown(secret, 1);
        (await CodeAsync(tablet, $"{code[..3]} {code[3..]}", "/jobs/8/dry")).Headers.Location!.OriginalString.ShouldBe("/jobs/8/dry");
        (await tablet.GetAsync(At("/"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);

        using var behind = Stranger();
        await SignedIn.TryAsync(behind, "with-code", SignedIn.DemoPassword);
        (await ReadAsync(await CodeAsync(behind, code))).QuerySelector("#code-problem")!.TextContent.ShouldContain("used already");
        (await CodeAsync(behind, paper[2].ToUpperInvariant(), "//elsewhere.example")).Headers.Location!.OriginalString.ShouldBe("/");
        using var later = Stranger();
        await SignedIn.TryAsync(later, "with-code", SignedIn.DemoPassword);
        (await CodeAsync(later, paper[2])).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, "it was on the paper once");

        // Off again only with a code.
        (await own.PostFormAsync("/account/code?handler=Off", ("code", "123456"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await (await own.PostFormAsync("/account/code?handler=Off", ("code", paper[5]))).Content.ReadAsStringAsync(Cancel)).ShouldContain("you sign in with your password alone");
        using var plain = Stranger();
        (await SignedIn.TryAsync(plain, "with-code", SignedIn.DemoPassword)).Headers.Location!.OriginalString.ShouldBe("/");
    }

    [Fact]
    public async Task Codes_are_guessed_five_times_and_the_right_one_waits_then()
    {
        await ForemanAsync("guessed");
        using var own = await SignedIn.ClientAsync(site.Address, "guessed");
        var (secret, _) = await SetUpAsync(own);
        using var guessing = Stranger();
        await SignedIn.TryAsync(guessing, "guessed", SignedIn.DemoPassword);
        for (var i = 0; i < 5; i++)
        {
            (await ReadAsync(await CodeAsync(guessing, $"00000{i}"))).QuerySelector("#code-problem")!.TextContent.ShouldContain("code is not right");
        }
        (await own.GetStringAsync(At("/shop/audit?what=sign-in-failed"), Cancel)).ShouldContain("as guessed, with the right password and a wrong code");
        (await ReadAsync(await CodeAsync(guessing, Shown(secret, 1)))).QuerySelector("#code-problem")!.TextContent.ShouldMatch(SignedIn.Waits);
    }

    [Fact]
    public async Task Where_foremen_need_a_code_the_shops_pages_wait_for_it_and_another_foreman_takes_it_off()
    {
        await ForemanAsync("rule-a");
        await ForemanAsync("rule-b");
        using var first = await SignedIn.ClientAsync(site.Address, "rule-a");
        (await (await first.PostFormAsync("/shop/people?handler=Rule", ("need", "true"))).Content.ReadAsStringAsync(Cancel)).ShouldContain("Set up your own phone code first");
        var (_, paper) = await SetUpAsync(first);
        try
        {
            (await (await first.PostFormAsync("/shop/people?handler=Rule", ("need", "true"))).Content.ReadAsStringAsync(Cancel)).ShouldContain("Every foreman needs a phone code");
            using var second = await SignedIn.ClientAsync(site.Address, "rule-b");
            (await second.GetAsync(At("/shop/people"), Cancel)).RequestMessage!.RequestUri!.AbsolutePath.ShouldBe("/account/code");
            (await second.GetAsync(At("/jobs/8/dry"), Cancel)).RequestMessage!.RequestUri!.AbsolutePath.ShouldBe("/jobs/8/dry", "at the engine nothing waits");
            await SetUpAsync(second);
            var people = new HtmlParser().ParseDocument(await second.GetStringAsync(At("/shop/people"), Cancel));
            IHtmlInputElement? TakeOff(string name) => people.QuerySelectorAll("tbody tr").Single(r => r.QuerySelector("th")!.TextContent == name).QuerySelector("form[action='/shop/people?handler=Code'] input[name=person]") as IHtmlInputElement;
            TakeOff("rule-b").ShouldBeNull("one's own goes with a code only");
            var lost = TakeOff("rule-a")!.Value;
            (await (await second.PostFormAsync("/shop/people?handler=Code", ("person", lost))).Content.ReadAsStringAsync(Cancel)).ShouldContain("rule-a signs in with the password alone");
            using var again = Stranger();
            (await SignedIn.TryAsync(again, "rule-a", SignedIn.DemoPassword)).Headers.Location!.OriginalString.ShouldBe("/");
        }
        finally
        {
            await TestDatabase.ExecuteAsync(site.Owner, "update shop set foremen_need_code = false");
        }
    }
}
