namespace Zandrik.Web.Tests;

/// <summary>Jobs opened by hand, for tests of what comes after.</summary>
internal static class JobsInTheBrowser
{
    /// <summary>Opens a job on a four of fixed limits and goes to its dry test; the address of that.</summary>
    public static string OpenJob(this Browser browser, Site site, string vehicle)
    {
        browser.Open(site.Address + "/jobs/new");
        browser.Type("#vehicle", vehicle);
        browser.Type("#cylinders", "4");
        browser.Type("#nominal", "205");
        browser.Type("#minimum", "150");
        browser.Click(".form-end button");
        return browser.FromPlanToDry();
    }

    /// <summary>Opens what a new job folds away.</summary>
    public static void Unfold(this Browser browser) => browser.Script("document.querySelectorAll('.more-fields-fold').forEach(d => d.open = true)");

    /// <summary>A new job opens on its plan: from there to the dry test; the address of that.</summary>
    public static string FromPlanToDry(this Browser browser)
    {
        browser.UntilText("#plan-title", "In this order");
        browser.Open(browser.Url.Replace("/plan", "/dry", StringComparison.Ordinal));
        browser.UntilText("#pad-title", "cylinder 1");
        return new Uri(browser.Url).AbsolutePath;
    }
}
