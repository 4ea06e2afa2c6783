using System.Net;
using PdfSharp.Pdf.IO;

namespace Zandrik.Web.Tests.Pages;

/// <summary>What the owner of the vehicle gets: a page and a PDF in plain words.</summary>
public sealed class OwnerPageTests(Site site) : IClassFixture<Site>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public void The_page_answers_first_shows_the_cylinders_and_is_two_taps_from_the_step()
    {
        using var browser = new Browser();
        browser.Open(site.Address + "/jobs/8/judgement");
        browser.Click(".job-tools a[href$='/owner']");
        browser.UntilText("[data-means]", "the head gasket is burnt through between cylinders 2 and 3.");
        browser.Text("[data-standing]").ShouldBe("This is how things stand today; nobody has signed it yet.");
        browser.Text("[data-keep-off]").ShouldContain("do not run the engine");
        browser.All(".owner svg.columns").Count.ShouldBe(1);
        browser.Texts(".owner tbody td").ShouldBe(["good", "low", "low", "good"]);
        browser.Violations().ShouldBeEmpty();
    }

    [Fact]
    public async Task The_pdf_is_one_page_and_names_who_signed()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        // Signed in the demo data, with what was found.
        (await client.GetStringAsync(new Uri("/jobs/2/owner", UriKind.Relative), Cancel)).ShouldContain("Signed by M. Ostrel");
        var pdf = await client.GetAsync(new Uri("/jobs/2/owner?handler=Pdf", UriKind.Relative), Cancel);
        pdf.Content.Headers.ContentType!.MediaType.ShouldBe("application/pdf");
        pdf.Content.Headers.ContentDisposition!.FileName.ShouldBe("zandrik-job-0002-owner.pdf");
        using var read = PdfReader.Open(new MemoryStream(await pdf.Content.ReadAsByteArrayAsync(Cancel)), PdfDocumentOpenMode.Import);
        (read.PageCount, read.Info.Title).ShouldBe((1, "Crew bus 2, 188\u202F900\u202Fkm: what we found"));
        read.Internals.Catalog.Elements.ContainsKey("/StructTreeRoot").ShouldBeTrue("a screen reader needs its structure");
        (await client.GetAsync(new Uri("/jobs/9999/owner?handler=Pdf", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }
}
