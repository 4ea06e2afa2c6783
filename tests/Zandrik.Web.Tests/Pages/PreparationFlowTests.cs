using System.Net;
using System.Text;
using OpenQA.Selenium;
using SkiaSharp;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Pages;

/// <summary>From the plan over preparation and plugs to the refit, in a real browser.</summary>
public sealed class PreparationFlowTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public PreparationFlowTests(Site site) => this.site = site;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    // A job on the demo's first sheet; its address without the last part.
    private string OpenJob(string vehicle)
    {
        browser.Open(site.Address + "/jobs/new");
        browser.Type("#vehicle", vehicle);
        browser.Send("#sheet", "Marrow");
        browser.Until("the sheet fills the engine in", () => browser.Value("#cylinders") == "4");
        browser.Unfold();
        browser.Type("#ruled-out", "coils: swapped 2 and 4");
        browser.Click("input[value=coolant-loss]");
        browser.Click(".form-end button");
        browser.FromPlanToDry();
        return site.Address + new Uri(browser.Url).AbsolutePath.Replace("/dry", "", StringComparison.Ordinal);
    }

    [Fact]
    public void Unticked_preparation_shows_on_the_reading_and_in_the_notes_until_it_is_read_again()
    {
        var job = OpenJob("Half prepared");
        browser.UntilText(".notes", "Nothing of the preparation is ticked");
        browser.Open(job + "/plan");
        browser.UntilText(".plan", "Already ruled out: coils");
        browser.Text(".plan").ShouldContain("adapter M14 × 1.25, reach 26.5 mm");
        browser.Text(".plan [data-kind=combustion-gas]").ShouldContain("Coolant loss");
        browser.Violations().ShouldBeEmpty();
        browser.Click("#rail-steps a[href$='/prepare']");
        browser.Click("[data-item=fuel] button[value=pump-relay]");
        browser.UntilText("[data-item=fuel]", "pump relay or fuse out · M. Ostrel");
        browser.Click("[data-item=ignition] button[value=coils-unplugged]");
        browser.UntilText("[data-item=ignition]", "Undo");
        browser.Violations().ShouldBeEmpty();

        browser.Open(job + "/dry");
        browser.Value(".condition.noted select[name=Fuel]").ShouldBe("off", "what is ticked is noted on the test");
        browser.Click("#pad-value");
        browser.Press("205" + Keys.Enter);
        browser.UntilText("#pad-message", "205 psi saved");
        browser.All("[data-code=throttle-unverified]").ShouldBeEmpty("a half-ticked list is judged no worse than an unticked one");
        browser.UntilText("[data-code=not-prepared]", "Not ticked when read: engine temperature, battery, plug wells blown out");
        browser.Press(Keys.ArrowLeft);
        browser.UntilText(".unticked", "unticked");

        // Put right afterwards, everything follows.
        browser.Open(job + "/prepare");
        browser.Click("[data-item=throttle] button[value=seen-wedged]");
        browser.UntilText("[data-item=throttle]", "Undo");
        browser.Open(job + "/dry?cylinder=1");
        browser.Until("the throttle is off the list", () => !browser.Text("[data-code=not-prepared]").Contains("throttle open", StringComparison.Ordinal));
        browser.All("[data-code=throttle-unverified]").ShouldBeEmpty();
    }

    [Fact]
    public void The_code_on_a_label_opens_the_job_at_that_cylinder()
    {
        var job = OpenJob("Labelled");
        browser.Open(job + "/labels");
        browser.All(".label").Count.ShouldBe(12, "plugs, coils and leads of four cylinders");
        var address = browser.Find(".label[data-cylinder='3']").GetAttribute("data-address")!;
        // The drawn code says exactly that address.
        browser.Find(".label[data-cylinder='3'] .qr").GetAttribute("aria-label").ShouldBe($"Code that opens {address}");
        browser.Violations().ShouldBeEmpty();
        browser.Open(address);
        browser.UntilText("#pad-title", "cylinder 3");
    }

    [Fact]
    public void A_paper_form_is_typed_in_at_one_go()
    {
        var job = OpenJob("On paper");
        browser.Open(job + "/paper");
        browser.All(".paper-cylinder").Count.ShouldBe(4);
        browser.Violations().ShouldBeEmpty();
        browser.Open(job + "/type-in");
        foreach (var (row, dry) in new[] { (0, "205"), (1, "16o"), (2, "160"), (3, "208") })
        {
            browser.Type($"[name='Rows[{row}].Dry']", dry);
        }
        browser.Type("[name='Rows[2].Again']", "158");
        browser.Click(".btn-lg");
        browser.UntilText("#row-2-problem", "not a number");
        browser.Violations().ShouldBeEmpty();
        browser.Type("[name='Rows[1].Dry']", "163");
        browser.Click(".btn-lg");
        browser.UntilText("#pad-title", "Dry");
        browser.Texts(".columns .reading").ShouldBe(["205", "163", "158", "208"]);
    }

    [Fact]
    public void A_job_with_the_refit_open_is_closed_with_a_reason_or_not_at_all()
    {
        var job = OpenJob("To be refitted");
        browser.Open(job + "/prepare");
        browser.Click("[data-item=throttle] button[value=seen-wedged]");
        browser.UntilText("[data-item=throttle]", "Undo");
        browser.Open(job + "/dry");
        browser.Click(".job-tools form button");
        browser.UntilText("#reason-problem", "Not closed yet");
        browser.Text(".ticks").ShouldContain("Wedge out of the throttle");
        browser.Violations().ShouldBeEmpty();
        browser.Click("form[data-closing] button");
        browser.UntilText("#reason-problem", "Say why");
        browser.Click("[data-item=throttle] button");
        browser.UntilText("[data-item=throttle]", "Undo");
        browser.Type("#reason", "towed away");
        browser.Click("form[data-closing] button");
        browser.UntilText("[data-sure]", "Close this job?");
        browser.Value("#reason").ShouldBe("towed away");
        browser.Violations().ShouldBeEmpty();
        browser.Click("[data-sure] button");
        browser.UntilText("h1", "Bays");
        browser.Open(job + "/dry");
        browser.UntilText(".closed-note", "With the reassembly open: towed away");
        // It takes no corrections and says so on every step.
        foreach (var step in new[] { "dry", "prepare", "plugs", "leak-down", "wet", "running", "checks/fluids", "refit", "relative-compression", "intake", "liquid" })
        {
            browser.Open($"{job}/{step}");
            browser.UntilText("[data-closed-banner]", "Job closed");
        }
    }

    [Fact]
    public async Task Plugs_are_read_with_a_photo_and_a_photo_with_a_script_inside_is_refused()
    {
        var job = OpenJob("Plugs out");
        browser.Open(job + "/plugs");
        browser.Violations().ShouldBeEmpty();
        browser.Click("form.stack .btn-lg");
        browser.UntilText("#plug-problem", "Tap what you see on the plug.");
        browser.Click("[name=signs][value=oil-wet]");
        // Somebody else reads another plug meanwhile: the step is shown anew, and what is tapped here stays tapped.
        using (var other = await SignedIn.ClientAsync(site.Address))
        {
            (await other.PostFormAsync($"{new Uri(job).AbsolutePath}/plugs?cylinder=3", ("signs", "dry-soot"))).EnsureSuccessStatusCode();
        }
        browser.UntilText(".plugs li:nth-child(3)", "dry soot");
        browser.Find("[name=signs][value=oil-wet]").Selected.ShouldBeTrue("tapped before the step was shown anew");
        browser.Type("#smell", "oil");
        var script = Path.Combine(Path.GetTempPath(), $"plug-{Guid.NewGuid():N}.jpg");
        await File.WriteAllBytesAsync(script, Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>"), Cancel);
        browser.Click("form.stack .btn-lg");
        browser.UntilText("#plug-problem", "Plug 1 saved");
        browser.UntilText("#plug-title", "Plug 2");
        // One more sign, tapped while the answer is on its way, is not ticked on the next plug by itself.
        browser.Script("const real = window.fetch; let go; const held = new Promise(r => { go = r; }); window.letGo = go; window.fetch = (...a) => held.then(() => real(...a))");
        browser.Click("[name=signs][value=dry-soot]");
        browser.Click("form.stack .btn-lg");
        browser.Click("[name=signs][value=flashover]");
        browser.Script("window.letGo()");
        browser.UntilText("#plug-title", "Plug 4");
        browser.All("[name=signs]:checked").ShouldBeEmpty();
        browser.Click(".plugs li:first-child a");
        browser.UntilText("#plug-title", "Plug 1");
        browser.Send("#photo", script);
        browser.Click(".photo-form button");
        browser.UntilText("#plug-problem", "no JPEG, PNG or WebP");
        browser.Find("[name=signs][value=oil-wet]").Selected.ShouldBeTrue("what was tapped stays tapped");
        await File.WriteAllBytesAsync(script, PlugPictureTests.WithPlace(PlugPictureTests.Photo(SKEncodedImageFormat.Jpeg, 400, 300)), Cancel);
        browser.Send("#photo", script);
        browser.Click(".photo-form button");
        browser.UntilText("#plug-problem", "Photo of plug 1 saved");
        browser.Text(".plugs li:first-child").ShouldContain("oil-wet");
        var photo = browser.Find(".plugs li:first-child img").GetAttribute("src")!.Replace("&small=true", "", StringComparison.Ordinal);
        browser.Until("the thumbnail is there", () => (bool)browser.Script("const i = document.querySelector('.plugs img'); return i.complete && i.naturalWidth > 0")!);
        using var client = await SignedIn.ClientAsync(site.Address);
        var answer = await client.GetAsync(new Uri(photo), Cancel);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("image/jpeg");
        answer.Headers.GetValues("X-Content-Type-Options").ShouldBe(["nosniff"]);
        Encoding.Latin1.GetString(await answer.Content.ReadAsByteArrayAsync(Cancel)).ShouldNotContain("GPS");
        // Through another job's address it is not there.
        (await client.GetAsync(new Uri(System.Text.RegularExpressions.Regex.Replace(photo, "/jobs/[0-9]+/", "/jobs/8/")), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        browser.Click(".plugs li:first-child a");
        browser.Click(".photos form button");
        browser.Until("it is taken away", () => browser.All(".photos img").Count == 0);
        File.Delete(script);
    }

    public void Dispose() => browser.Dispose();
}
