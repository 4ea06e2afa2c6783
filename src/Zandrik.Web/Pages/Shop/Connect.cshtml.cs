using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Network;

namespace Zandrik.Web.Pages.Shop;

/// <summary>How a tablet gets to Zandrik: a code for its camera, and the fingerprint it has to show.</summary>
[ForemanOnly]
public sealed class ConnectModel(Visitor visitor, NetworkSettings settings, MachineNames names, ServerCertificates certificates) : PageModel
{
    public ShopPerson Who => visitor.Person;

    public bool IsOn => settings.IsOn;

    public IReadOnlyList<string> Connecting => names.Connecting;

    public IReadOnlyList<string> Secure => names.Secure;

    public ShopAuthority? Authority => certificates.Authority;

    public DateTimeOffset Until => certificates.Current().NotAfter.ToUniversalTime();
}
