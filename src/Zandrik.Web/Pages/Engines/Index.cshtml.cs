using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Engines;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Engines;

/// <summary>The library of engine sheets.</summary>
public sealed class IndexModel(Visitor visitor, SheetStore sheets, SearchStore finding) : PageModel
{
    private const int SheetsOnAPage = 30;

    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? After { get; set; }

    [TempData]
    public string? Done { get; set; }

    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<SheetLine> Sheets { get; private set; } = [];

    public bool More { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(Q))
        {
            (Sheets, More) = await sheets.ListAsync(Who, After, SheetsOnAPage, cancel);
        }
        else
        {
            Sheets = (await finding.FindAsync(Who, Q, SheetsOnAPage, cancel)).Sheets;
        }
        return Request.IsHtmx() ? Partial("_SheetList", this) : Page();
    }

    /// <summary>All sheets as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync(string? format, CancellationToken cancel)
    {
        var all = await sheets.AllAsync(Who, cancel);
        return format == "csv"
            ? CsvAnswer.Of("engines", SheetFile.WriteCsv(all))
            : File(Encoding.UTF8.GetBytes(SheetFile.WriteJson(all)), "application/json", "zandrik-engines.json");
    }
}
