using System.Net;
using System.Net.NetworkInformation;
using System.Net.Sockets;

namespace Zandrik.Web.Network;

/// <summary>
/// What this machine is called and reached by: the only hosts a request may name, and what the certificate is made for.
/// Looked up anew after a minute, because a router hands out another address when it likes. Safe for many threads.
/// </summary>
public sealed class MachineNames(NetworkSettings settings, TimeProvider clock)
{
    private static readonly TimeSpan Fresh = TimeSpan.FromMinutes(1);
    private static readonly string[] Loopback = ["localhost", "127.0.0.1", "::1"];

    private (DateTimeOffset At, IReadOnlyList<IPAddress> Addresses, HashSet<string> All)? known;

    /// <summary>The addresses others reach this machine by, IPv4 first; empty where it is on no network, or not served there.</summary>
    public IReadOnlyList<IPAddress> Addresses => Known().Addresses;

    /// <summary>The names others may reach this machine by: its own, the same as the local network's name service has it, and those that were said.</summary>
    public IReadOnlyList<string> Names { get; } = !settings.IsOn ? []
        : [.. OwnNames(Dns.GetHostName().ToLowerInvariant()).Concat(settings.Names).Distinct()];

    private static IEnumerable<string> OwnNames(string host) => Uri.CheckHostName(host) != UriHostNameType.Dns ? [] : host.Contains('.', StringComparison.Ordinal) ? [host] : [host, $"{host}.local"];

    /// <summary>Whether a request may name this host.</summary>
    /// <param name="host">The host of a request, without port; IPv6 with or without brackets.</param>
    /// <returns>False for a name or address that is not this machine's.</returns>
    public bool Knows(string host) => Known().All.Contains(host.Trim('[', ']'));

    /// <summary>The address that a tablet opens: of the network where there is one, else that of the request.</summary>
    /// <param name="request">The request.</param>
    /// <returns>Scheme, host and port, without a slash at the end.</returns>
    public string AddressFor(HttpRequest request) =>
        Loopback.Contains(request.Host.Host.Trim('[', ']')) && Secure is [var first, ..] ? first : $"{request.Scheme}://{request.Host}";

    /// <summary>The secure addresses of this machine, the likeliest first; empty where it is on no network.</summary>
    public IReadOnlyList<string> Secure => [.. Hosts.Select(h => $"https://{h}:{settings.TlsPort}")];

    /// <summary>The addresses at which a new tablet begins, one for each of <see cref="Secure"/>.</summary>
    public IReadOnlyList<string> Connecting => [.. Hosts.Select(h => $"http://{h}:{settings.HttpPort}/connect")];

    // An address works on every network; a name only where something answers for it.
    private IEnumerable<string> Hosts => !settings.IsOn ? [] : settings.CertificateFile is not null && settings.Names.Count > 0 ? settings.Names
        : Addresses.Select(a => a.AddressFamily == AddressFamily.InterNetworkV6 ? $"[{a}]" : a.ToString()).Concat(settings.Names);

    private (DateTimeOffset At, IReadOnlyList<IPAddress> Addresses, HashSet<string> All) Known()
    {
        var now = clock.GetUtcNow();
        if (known is { } k && now - k.At < Fresh)
        {
            return k;
        }
        IReadOnlyList<IPAddress> addresses = !settings.IsOn ? [] : settings.IsLan ? [.. OfMachine().Where(IsPrivate)] : settings.Addresses;
        var all = Loopback.Concat(Names).Concat(settings.Names).Concat(addresses.Select(a => a.ToString())).ToHashSet(StringComparer.OrdinalIgnoreCase);
        known = (now, addresses, all);
        return known.Value;
    }

    // Without those of the link alone, which need a zone that no address bar takes.
    private static IEnumerable<IPAddress> OfMachine() => NetworkInterface.GetAllNetworkInterfaces()
        .Where(n => n.OperationalStatus == OperationalStatus.Up && n.NetworkInterfaceType != NetworkInterfaceType.Loopback)
        .SelectMany(n => n.GetIPProperties().UnicastAddresses).Select(a => a.Address)
        .Where(a => !IPAddress.IsLoopback(a) && !a.IsIPv6LinkLocal).OrderBy(a => a.AddressFamily == AddressFamily.InterNetwork ? 0 : 1);

    /// <summary>Whether an address belongs to a network of one's own (RFC 1918, RFC 3927, RFC 4193, RFC 4291) and not to the internet.</summary>
    /// <param name="address">The address; an IPv4 one may come as IPv6.</param>
    /// <returns>True for private, link-local and loopback addresses.</returns>
    public static bool IsPrivate(IPAddress address)
    {
        if (address.IsIPv4MappedToIPv6)
        {
            address = address.MapToIPv4();
        }
        return IPAddress.IsLoopback(address) || address.IsIPv6LinkLocal || PrivateNetworks.Any(n => n.Contains(address));
    }

    /// <summary>The networks of one's own: what the shop's authority may vouch for.</summary>
    internal static readonly IReadOnlyList<IPNetwork> PrivateNetworks =
        [.. new[] { "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8", "fc00::/7", "::1/128" }.Select(n => IPNetwork.Parse(n))];
}
