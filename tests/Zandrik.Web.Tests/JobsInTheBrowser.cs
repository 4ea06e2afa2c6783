namespace Zandrik.Web.Tests;

/// <summary>What most browser tests begin with.</summary>
public static class JobsInTheBrowser
{
    /// <summary>Opens a four-cylinder job with the maker's figures, and answers the address of its dry test.</summary>
    public static string OpenJob(this Browser browser, Site site, string vehicle)
    {
        browser.Open(site.Address + "/jobs/new");
        browser.Type("#vehicle", vehicle);
        browser.Type("#cylinders", "4");
        browser.Type("#nominal", "205");
        browser.Type("#minimum", "150");
        browser.Click(".form-end button");
        browser.UntilText("#pad-title", "cylinder 1");
        return new Uri(browser.Url).AbsolutePath;
    }
}
