using System.Globalization;
using System.Net;
using Zandrik.Core.Imports;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Lists in and out: matched, looked at, imported, undone; and every list as CSV.</summary>
public sealed class ImportFlowTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public ImportFlowTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private void Paste(string what, string table)
    {
        browser.Open($"{site.Address}/import/{what}");
        browser.Script($"document.getElementById('text').value = {System.Text.Json.JsonSerializer.Serialize(table)}");
        browser.Click("form.stack .btn-primary");
        browser.UntilText("#preview-title", "Preview");
    }

    [Fact]
    public void Old_jobs_from_a_spreadsheet_are_matched_looked_at_imported_and_undone()
    {
        Paste("jobs", "When\tMachine\tC1\tC2\tC3\tC4\tMileage\tColour\n2024-05-13\tImport pickup\t182\t179\t121\t184\t84200\tred\n2024-06-13\tImport pickup\t182\t\tbad\t184\t85000\tred\n");
        browser.Text("[data-taken]").ShouldBe("0 of 2 rows", "nobody knows yet which column is the date");
        browser.Send("#match-date", "When");
        browser.Send("#match-dry", "C1");
        browser.Click("form.intake .btn-outline-primary");
        browser.UntilText("[data-taken]", "1 of 2 rows");
        browser.Text("[data-left-out]").ShouldContain("“bad” is not a reading");
        browser.Text("[data-to-import]").ShouldContain("dry 182/179/121/184 psi");
        browser.Text("[data-unused]").ShouldBe("Not imported: Colour.");
        browser.Violations().ShouldBeEmpty();
        browser.Click(".form-end .btn-primary");
        browser.UntilText(".done-note", "1 of 2 rows imported, 1 left out.");
        browser.Open(site.Address + "/jobs?q=Import+pickup");
        browser.Click(".found a, .job-lines a, main li a");
        browser.UntilText("h1", "Import pickup");
        browser.Text("[data-closed-banner]").ShouldContain("Closed 2024-05-13");

        // The same list again is known, and comes in only where that is wanted.
        Paste("jobs", "Date\tVehicle\tDry\n2024-05-13\tImport pickup\t182/179/121/184\n");
        browser.Text("[data-left-out]").ShouldContain("is of this vehicle and day already");
        browser.Click("#again");
        browser.Click("form.intake .btn-outline-primary");
        browser.UntilText("[data-taken]", "1 of 1 row");

        browser.Open(site.Address + "/import");
        browser.Click("[data-import] summary");
        browser.Click("[data-import] .btn-primary");
        browser.UntilText(".done-note", "Import undone.");
        browser.Text("tbody").ShouldContain("undone");
        browser.Open(site.Address + "/jobs?q=Import+pickup");
        browser.UntilText("main", "No job like that");
    }

    [Fact]
    public async Task Engine_sheets_that_were_exported_come_back_with_a_preview_and_row_by_row_errors()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        var csv = await client.GetStringAsync(new Uri("/engines?handler=Export&format=csv", UriKind.Relative), Cancel);
        browser.Open(site.Address + "/import/sheets");
        browser.Click("form .btn-primary");
        browser.UntilText("#file-problem", "Choose a file, or paste a table.");
        var file = Path.Combine(Path.GetTempPath(), $"engines-{Guid.NewGuid():N}.csv");
        await File.WriteAllTextAsync(file, csv.TrimEnd() + "\nImported three,petrol,3,inline,1 2 3,1-3-2\nBroken,petrol,3,inline,1 2 3,1-3-3\n", Cancel);
        browser.Send("#file", file);
        browser.Click("form .btn-primary");
        browser.UntilText("#preview-title", "Preview");
        browser.Text("[data-left-out]").ShouldContain("here already, nothing to change");
        browser.Text("[data-left-out]").ShouldContain("firingOrder: Name each of the 3 cylinders once: 2 is missing");
        browser.Click(".form-end .btn-primary");
        browser.UntilText(".done-note", "1 of ");
        File.Delete(file);
        browser.Open(site.Address + "/engines?q=Imported");
        browser.UntilText("main", "Imported three");
        // The JSON of the same comes back whole too.
        var json = await client.GetStringAsync(new Uri("/engines?handler=Export&format=json", UriKind.Relative), Cancel);
        Paste("sheets", json);
        browser.Text("[data-taken]").ShouldStartWith("0 of ");
        using var technician = await SignedIn.ClientAsync(site.Address, "hallan");
        (await technician.GetAsync(new Uri("/import/sheets", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public void A_vehicle_that_came_with_an_engine_begins_its_first_job_with_it()
    {
        Paste("vehicles", "Vehicle,Plate,Engine\nImport tender,QF 9-900,Marrow 2.0 inline four\n,QF 1,\n");
        browser.Text("[data-left-out]").ShouldContain("does not say which vehicle");
        browser.Click(".form-end .btn-primary");
        browser.UntilText(".done-note", "1 of 2 rows imported");
        browser.Open(site.Address + "/vehicles?q=QF+9-900");
        browser.UntilText("main", "Import tender");
        browser.Click(".found a");
        browser.Click(".page-head .btn-primary");
        browser.Until("its engine is there", () => browser.Value("#cylinders") == "4");
        browser.Value("#vehicle").ShouldBe("Import tender");
    }

    [Theory]
    [InlineData("/jobs?handler=Export", "Job,Vehicle,Engine,", "0008,Shore van 9,")]
    [InlineData("/jobs?state=closed&handler=Export", "Job,Vehicle,Engine,", "Shore van 9")]
    [InlineData("/vehicles?handler=Export", "Vehicle,Registration,Engine,Engine serial,Notes", "Tug launch Skarn")]
    [InlineData("/testers?handler=Export", "Tester,Kind,Full scale,", ",gauge,")]
    [InlineData("/shop/outcomes?handler=Export", "Found,Whole engine,Times,", "")]
    public async Task Every_list_goes_out_as_csv_that_a_spreadsheet_reads(string address, string head, string row)
    {
        using var client = await SignedIn.ClientAsync(site.Address, "hallan");
        var answer = await client.GetAsync(new Uri(address, UriKind.Relative), Cancel);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("text/csv");
        var bytes = await answer.Content.ReadAsByteArrayAsync(Cancel);
        bytes[..3].ShouldBe([0xEF, 0xBB, 0xBF], "or a spreadsheet takes it for another alphabet");
        var text = System.Text.Encoding.UTF8.GetString(bytes);
        text.TrimStart('\uFEFF').ShouldStartWith(head);
        text.ShouldContain(row);
        if (row.Length > 0)
        {
            ImportTable.Read(text).Problem.ShouldBeNull();
        }
    }

    [Fact]
    public async Task The_whole_list_of_vehicles_goes_out_and_comes_back_as_it_is()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        var csv = await client.GetStringAsync(new Uri("/vehicles?handler=Export", UriKind.Relative), Cancel);
        Paste("vehicles", csv);
        browser.Text("[data-taken]").ShouldEndWith($"of {(csv.TrimEnd().Split('\n').Length - 1).ToString(CultureInfo.InvariantCulture)} rows");
        browser.Text("main").ShouldNotContain("new");
    }
}
