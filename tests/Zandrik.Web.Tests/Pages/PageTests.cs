using System.Net;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Pages as plain HTTP: forms, messages, and what is sent.</summary>
public sealed class PageTests(Site site) : IClassFixture<Site>, IAsyncLifetime
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private HttpClient client = null!;

    public async ValueTask InitializeAsync() => client = await SignedIn.ClientAsync(site.Address);

    public ValueTask DisposeAsync()
    {
        client.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<IHtmlDocument> PageAsync(string address) =>
        new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri(address, UriKind.Relative), Cancel));

    // Sends a form as a browser without scripts does: its fields, some of them filled in.
    private async Task<HttpResponseMessage> SendAsync(IHtmlDocument page, string form, Dictionary<string, string> fill, string? action = null)
    {
        var element = (IHtmlFormElement)page.QuerySelector(form)!;
        var fields = element.QuerySelectorAll("input[type=hidden]").Cast<IHtmlInputElement>()
            .Where(i => !fill.ContainsKey(i.Name!)).Select(i => KeyValuePair.Create(i.Name!, i.Value))
            .Concat(fill);
        using var content = new FormUrlEncodedContent(fields);
        return await client.PostAsync(new Uri(action ?? element.GetAttribute("action")!, UriKind.Relative), content, Cancel);
    }

    private static async Task<IHtmlDocument> DocumentAsync(HttpResponseMessage answer) =>
        new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync(Cancel));

    private static Dictionary<string, string> Engine(string vehicle, string cylinders = "4", string banks = "1 2 3 4", string order = "1-3-4-2") => new()
    {
        ["Form.Vehicle"] = vehicle, ["Form.Cylinders"] = cylinders, ["Form.Layout"] = "inline", ["Form.Banks"] = banks,
        ["Form.FiringOrder"] = order, ["Form.SpecUnit"] = "psi", ["Form.Nominal"] = "205", ["Form.Minimum"] = "150",
    };

    [Fact]
    public async Task The_rail_has_the_steps_in_the_order_of_the_plan_with_what_was_done_and_the_minutes()
    {
        var page = await PageAsync("/jobs/8/dry");
        var steps = page.QuerySelectorAll(".rail ol:first-of-type li a").Select(a => a.GetAttribute("href")!["/jobs/8/".Length..]).Distinct().ToList();
        steps[0].ShouldBe("intake");
        steps[1].ShouldBe("plan");
        steps[^1].ShouldBe("refit");
        string[] order = ["prepare", "dry", "leak-down", "wet"];
        order.Select(s => steps.IndexOf(s)).ShouldBeInOrder();
        steps.ShouldContain("dry");
        page.QuerySelector("li.current a")!.GetAttribute("href").ShouldBe("/jobs/8/dry");
        page.QuerySelector("li.current .step-count")!.TextContent.ShouldBe("4/4");
        page.QuerySelector(".rail-time")!.TextContent.ShouldContain("20 min so far");
        // A job that was only opened has spent nothing and has all of it left.
        var fresh = await PageAsync("/jobs/10/dry");
        fresh.QuerySelector(".rail-time")!.TextContent.ShouldContain("0 min so far");
    }

    [Theory]
    [InlineData("Form.FiringOrder", "1-3-4-4", "firing-order", "2 is missing; 4 more than once")]
    [InlineData("Form.FiringOrder", "one-three", "firing-order", "1-3-4-2")]
    [InlineData("Form.Banks", "1 2 3", "banks", "4 is missing")]
    [InlineData("Form.Minimum", "210", "minimum", "above the nominal")]
    [InlineData("Form.Nominal", "lots", "nominal", "as a number")]
    [InlineData("Form.Cylinders", "17", "cylinders", "1 to 16")]
    [InlineData("Form.Vehicle", " ", "vehicle", "Say which vehicle")]
    [InlineData("Form.Odometer", "far", "odometer", "as a number")]
    public async Task A_field_that_needs_another_look_says_so_beside_it_and_nothing_typed_is_lost(string field, string typed, string id, string says)
    {
        var fill = Engine("Kept van");
        fill["Form.Complaint"] = "typed long before";
        fill[field] = typed;
        var answer = await SendAsync(await PageAsync("/jobs/new"), "form.intake", fill);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        var page = await DocumentAsync(answer);
        page.QuerySelector($"#{id}-problem")!.TextContent.ShouldContain(says);
        page.QuerySelector($"#{id}")!.GetAttribute("aria-describedby").ShouldBe($"{id}-problem");
        (page.QuerySelector($"#{id}")!.GetAttribute("value") ?? "").ShouldBe(typed.Trim());
        page.QuerySelectorAll("[aria-invalid]").Length.ShouldBe(1, "only that field is marked");
        page.QuerySelector("#complaint")!.TextContent.Trim().ShouldBe("typed long before");
    }

    [Theory]
    [InlineData("", "Type the reading first")]
    [InlineData("-3", "below zero")]
    [InlineData("2000", "no cylinder reads")]
    [InlineData("abc", "not a number")]
    public async Task An_impossible_reading_is_shown_again_with_what_to_do(string typed, string says)
    {
        var answer = await SendAsync(await PageAsync("/jobs/10/dry"), "#pad", new() { ["value"] = typed, ["kind"] = "Reading", ["unit"] = "psi" });
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        var page = await DocumentAsync(answer);
        page.QuerySelector("#pad-message")!.TextContent.ShouldContain(says);
        (page.QuerySelector("#pad-value")!.GetAttribute("value") ?? "").ShouldBe(typed);
    }

    [Fact]
    public async Task An_engine_cannot_lose_a_cylinder_that_has_a_reading()
    {
        var answer = await SendAsync(await PageAsync("/jobs/8/intake"), "form.intake", Engine("Shore van 9", "3", "1 2 3", "1-3-2"));
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await DocumentAsync(answer)).QuerySelector("#cylinders-problem")!.TextContent.ShouldContain("Cylinder 4 has readings");
    }

    [Fact]
    public async Task Text_that_people_type_is_never_markup()
    {
        const string nasty = "<script>alert(1)</script>\"'><img src=x onerror=alert(2)>";
        var fill = Engine(nasty);
        fill["Form.Complaint"] = nasty;
        fill["Form.EngineName"] = nasty;
        var answer = await SendAsync(await PageAsync("/jobs/new"), "form.intake", fill);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        foreach (var address in new[] { answer.RequestMessage!.RequestUri!.PathAndQuery, "/", "/jobs", "/vehicles", "/search?q=alert" })
        {
            var page = await PageAsync(address);
            page.QuerySelectorAll("main script, main img").ShouldBeEmpty();
            page.QuerySelector("main")!.TextContent.ShouldContain(nasty);
        }
    }

    [Fact]
    public async Task Nor_is_it_in_any_other_field_of_the_shop()
    {
        const string nasty = "<script>alert(1)</script>\"'><img src=x onerror=alert(2)>";
        async Task SavedAsync(string page, string form, Dictionary<string, string> fill)
        {
            var answer = await SendAsync(await PageAsync(page), form, fill, page);
            ((int)answer.StatusCode).ShouldBe(200, page);
        }
        await SavedAsync("/testers/new", "form.intake", new() { ["Form.Label"] = nasty[..40], ["Form.Kind"] = "gauge", ["Form.Unit"] = "psi", ["Form.Notes"] = nasty, ["Form.CheckedBy"] = nasty });
        await SavedAsync("/engines/new", "form.intake", new() { ["Cells[name]"] = nasty, ["Cells[cylinders]"] = "4", ["Cells[weaknesses]"] = nasty, ["Cells[access]"] = "<script>alert(1)</script> = 3", ["Cells[plugThread]"] = nasty, ["Cells[unit]"] = "psi", ["Sources[0].Figure"] = "nominal", ["Sources[0].Source"] = nasty });
        await SavedAsync("/vehicles/1", "main form", new() { ["label"] = nasty + " 2", ["identity"] = nasty, ["notes"] = nasty });
        await SendAsync(await PageAsync("/shop/people"), "form[action*=Add]", new() { ["name"] = nasty, ["role"] = "viewer" });
        await SendAsync(await PageAsync("/shop/tokens"), "form[action*=Make]", new() { ["label"] = nasty });
        await SavedAsync("/jobs/7/plugs?cylinder=2", "form.stack", new() { ["signs"] = "oil-wet", ["smell"] = nasty });
        await SendAsync(await PageAsync("/import/sheets"), "form.stack", new() { ["text"] = $"name,cylinders\n{nasty},4" });
        foreach (var address in new[] { "/testers", "/engines", "/engines?q=script", "/vehicles", "/vehicles/1", "/shop/people", "/shop/tokens", "/jobs/7/plugs?cylinder=2", "/search?q=script", "/jobs/new", "/jobs?q=%3Cscript%3E", "/sign-in?back=%22%3E%3Cscript%3E" })
        {
            var page = await PageAsync(address);
            page.QuerySelectorAll("main script, main img[onerror], [onerror], main img[src=x]").ShouldBeEmpty(address);
        }
        (await PageAsync("/engines")).QuerySelector("main")!.TextContent.ShouldContain(nasty);
    }

    [Fact]
    public async Task A_form_without_its_token_is_refused()
    {
        using var content = new FormUrlEncodedContent(new Dictionary<string, string> { ["value"] = "200" });
        (await client.PostAsync(new Uri("/jobs/8/dry?handler=Enter", UriKind.Relative), content, Cancel)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task The_same_form_sent_twice_is_kept_once_and_a_changed_figure_is_another_entry()
    {
        var made = await SendAsync(await PageAsync("/jobs/new"), "form.intake", Engine("Twice sent"));
        // A new job opens on its plan.
        var address = made.RequestMessage!.RequestUri!.AbsolutePath.Replace("/plan", "/dry", StringComparison.Ordinal);
        var page = await PageAsync(address);
        var pad = new Dictionary<string, string> { ["value"] = "200", ["kind"] = "Reading", ["unit"] = "psi" };
        await SendAsync(page, "#pad", pad);
        await SendAsync(page, "#pad", pad);
        pad["value"] = "201";
        await SendAsync(page, "#pad", pad);
        var record = await site.Api.GetStringAsync(new Uri($"/api/v1{address.Replace("/dry", "/record", StringComparison.Ordinal)}?all=true", UriKind.Relative), Cancel);
        System.Text.Json.Nodes.JsonNode.Parse(record)!["tests"]![0]!["readings"]!.AsArray().Select(r => (double)r!["value"]!).ShouldBe([200, 201]);
    }

    [Fact]
    public async Task A_new_job_tapped_twice_is_opened_once_and_a_kept_form_filled_in_anew_is_another()
    {
        var page = await PageAsync("/jobs/new");
        var first = (await SendAsync(page, "form.intake", Engine("Tapped twice"))).RequestMessage!.RequestUri!.AbsolutePath;
        (await SendAsync(page, "form.intake", Engine("Tapped twice"))).RequestMessage!.RequestUri!.AbsolutePath.ShouldBe(first);
        (await SendAsync(page, "form.intake", Engine("The next van"))).RequestMessage!.RequestUri!.AbsolutePath.ShouldNotBe(first);
    }

    [Fact]
    public async Task A_doubtful_figure_is_asked_about_and_counts_once_its_unit_is_said()
    {
        var made = await SendAsync(await PageAsync("/jobs/new"), "form.intake", Engine("Doubtful unit"));
        // A new job opens on its plan.
        var address = made.RequestMessage!.RequestUri!.AbsolutePath.Replace("/plan", "/dry", StringComparison.Ordinal);
        var asked = await DocumentAsync(await SendAsync(await PageAsync(address), "#pad", new() { ["value"] = "14.1", ["kind"] = "Reading", ["unit"] = "psi" }));
        asked.QuerySelector(".headline")!.TextContent.ShouldStartWith("Which unit?");
        var answered = await DocumentAsync(await SendAsync(asked, "form.question", new() { ["unit"] = "bar" }));
        answered.QuerySelector(".headline")!.TextContent.Replace('\u00A0', ' ').ShouldBe("Cylinder 1: 205 psi. One reading: nothing to compare it with yet.");
    }

    [Fact]
    public async Task The_record_button_gives_the_open_record_as_a_file()
    {
        var answer = await client.GetAsync(new Uri("/jobs/8/dry?handler=Record", UriKind.Relative), Cancel);
        answer.Content.Headers.ContentDisposition!.FileName.ShouldBe("zandrik-job-0008.json");
        Zandrik.Core.Records.TestRecordJson.Read(await answer.Content.ReadAsByteArrayAsync(Cancel)).Problems.ShouldBeEmpty();
    }

    [Theory]
    [InlineData("/jobs/9999/dry")]
    [InlineData("/jobs/9999/intake")]
    [InlineData("/jobs/8/dry?test=999999")]
    [InlineData("/nowhere")]
    public async Task What_is_not_there_says_so_and_leads_back(string address)
    {
        var answer = await client.GetAsync(new Uri(address, UriKind.Relative), Cancel);
        answer.StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await DocumentAsync(answer)).QuerySelector("main a")!.GetAttribute("href").ShouldBe("/");
    }

    [Fact]
    public void The_vendored_style_is_built_from_the_theme_in_the_checkout()
    {
        var sources = new[] { "theme.scss", "package-lock.json" }.SelectMany(f => File.ReadAllBytes(Path.Combine(Repository.Root, "frontend", f))).ToArray();
        File.ReadAllText(Path.Combine(Repository.Root, "src", "Zandrik.Web", "wwwroot", "lib", "built-from.sha256")).Trim()
            .ShouldBe(Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(sources)), "run frontend/build.sh");
    }

    [Fact]
    public async Task With_every_reading_held_back_each_page_of_the_job_still_opens()
    {
        // 12 psi on each cylinder is a gauge in bar, until somebody says.
        var job = await site.JobAsync("""{ "engine": { "cylinders": 4, "spec": { "unit": "psi", "minimum": 150 } }, "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 12.1 }, { "cylinder": 2, "value": 12.4 }, { "cylinder": 3, "value": 11.8 }, { "cylinder": 4, "value": 12 } ] } ] }""");
        foreach (var step in new[] { "dry", "wet", "running", "leak-down", "judgement", "verdict", "sheet", "sheet?handler=Pdf", "refit" })
        {
            ((int)(await client.GetAsync(new Uri($"/jobs/{job}/{step}", UriKind.Relative), Cancel)).StatusCode).ShouldBe(200, step);
        }
    }
}
