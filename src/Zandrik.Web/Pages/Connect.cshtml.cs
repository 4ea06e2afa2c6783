using System.Globalization;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Web.Network;

namespace Zandrik.Web.Pages;

/// <summary>What a new tablet opens: whether it is connected safely, and how it gets there.</summary>
public sealed class ConnectModel(NetworkSettings settings, MachineNames names, ServerCertificates certificates) : PageModel
{
    public bool IsOn => settings.IsOn;

    public ShopAuthority? Authority => certificates.Authority;

    public string Until => Authority!.Until.ToString("MMMM yyyy", CultureInfo.InvariantCulture);

    public bool IsSecure => Request.IsHttps;

    /// <summary>The secure address of the host this page was asked from.</summary>
    public string Secure => Request.IsHttps ? $"https://{Request.Host}" : !settings.IsOn ? $"http://{Request.Host}" : names.Secure.FirstOrDefault(a => new Uri(a).Host == Request.Host.Host) ?? $"https://{Request.Host.Host}:{settings.TlsPort}";

    public void OnGet() =>
        // The page in the clear asks the secure address whether this device trusts it. A policy has no way to write an IPv6 address.
        Response.Headers.ContentSecurityPolicy = $"{Response.Headers.ContentSecurityPolicy}; connect-src 'self' {(Secure.Contains('[', StringComparison.Ordinal) ? "https:" : Secure)}";
}
