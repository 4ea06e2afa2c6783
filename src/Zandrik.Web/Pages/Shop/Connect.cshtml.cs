using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Network;

namespace Zandrik.Web.Pages.Shop;

/// <summary>How a tablet gets to Zandrik: a code for its camera, and the fingerprint it has to show.</summary>
[ForemanOnly]
public sealed class ConnectModel(Visitor visitor, NetworkSettings settings, MachineNames names, ServerCertificates certificates, IConfiguration configuration) : PageModel
{
    public ShopPerson Who => visitor.Person;

    /// <summary>True where the package is installed, false where it is started out of its folder.</summary>
    public bool IsInstalled => configuration["ZANDRIK_INSTALLED"] is { Length: > 0 };

    public bool IsOn => settings.IsOn;

    public IReadOnlyList<string> Connecting => names.Connecting;

    public IReadOnlyList<string> Secure => names.Secure;

    public ShopAuthority? Authority => certificates.Authority;

    public DateTimeOffset Until => certificates.Current().NotAfter.ToUniversalTime();
}
