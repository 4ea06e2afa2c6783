using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Reports;

namespace Zandrik.Web.Pages;

/// <summary>What an owner's link opens: the options of one decision, without a sign-in. A guessed, a revoked and an old link are all nothing.</summary>
public sealed class OwnersLinkModel(DecisionStore decisions, TimeProvider clock) : PageModel
{
    // Longer than any that was made.
    private const int LongestSecret = 64;

    public OwnersOptions Options { get; private set; } = null!;

    public async Task<IActionResult> OnGetAsync(string secret, CancellationToken cancel) => await FindAsync(secret, cancel) ? Page() : NotFound();

    /// <summary>The same as a PDF.</summary>
    public async Task<IActionResult> OnGetPdfAsync(string secret, CancellationToken cancel) =>
        await FindAsync(secret, cancel) ? File(OwnersOptionsPdf.Make(Options), "application/pdf", $"zandrik-job-{Options.Number}-options.pdf") : NotFound();

    private async Task<bool> FindAsync(string secret, CancellationToken cancel)
    {
        if (secret.Length > LongestSecret || await decisions.OpenAsync(secret, clock.GetUtcNow(), cancel) is not { } found)
        {
            return false;
        }
        // As the shop writes numbers and days, whoever looks.
        var shop = new ShopPerson { Shop = found.Shop, TimeZone = found.TimeZone, Settings = found.Settings };
        System.Globalization.CultureInfo.CurrentCulture = ShopText.Culture(shop);
        Options = OwnersOptions.Of(found.Decided, found.Shop, found.Job, found.Vehicle ?? ShopText.Engine(found.Engine), found.Engine, ShopText.Day(found.At, shop), ShopText.Day(found.Until, shop));
        Response.Headers["X-Robots-Tag"] = "noindex, nofollow";
        Response.Headers["Referrer-Policy"] = "no-referrer";
        return true;
    }
}
