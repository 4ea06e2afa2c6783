using System.Net;

namespace Zandrik.Web.Network;

/// <summary>Where the server is reached beside loopback, from its configuration. Without any it is loopback only.</summary>
public sealed record NetworkSettings
{
    /// <summary>The port of https where none is said.</summary>
    public const int UsualTlsPort = 5443;

    /// <summary>The port of http where none is said.</summary>
    public const int UsualHttpPort = 5080;

    /// <summary>True for every private address this machine has or gets: <c>lan</c>.</summary>
    public bool IsLan { get; private init; }

    /// <summary>The addresses that are served by https; empty for none, and for all private ones.</summary>
    public IReadOnlyList<IPAddress> Addresses { get; private init; } = [];

    /// <summary>True where the server is reached from other machines.</summary>
    public bool IsOn => IsLan || Addresses.Count > 0;

    /// <summary>The port of https.</summary>
    public int TlsPort { get; private init; } = UsualTlsPort;

    /// <summary>The port of http: loopback, and beyond it only what connects a tablet.</summary>
    public int HttpPort { get; private init; } = UsualHttpPort;

    /// <summary>Where the shop's authority and the server's certificate are kept; absent for a certificate of one's own.</summary>
    public string? Folder { get; private init; }

    /// <summary>A certificate of one's own, PEM with its chain or PKCS 12; absent for one of the shop's authority.</summary>
    public string? CertificateFile { get; private init; }

    /// <summary>The key of <see cref="CertificateFile"/>, PEM; absent where it is in the same file.</summary>
    public string? KeyFile { get; private init; }

    /// <summary>Names the machine is also called by.</summary>
    public IReadOnlyList<string> Names { get; private init; } = [];

    /// <summary>Proxies whose word is taken for who asks and how.</summary>
    public IReadOnlyList<IPAddress> Proxies { get; private init; } = [];

    /// <summary>Reads the settings.</summary>
    /// <param name="from">ZANDRIK_LISTEN (<c>lan</c>, or addresses), ZANDRIK_TLS_PORT, ZANDRIK_HTTP_PORT, ZANDRIK_TLS_DIR, ZANDRIK_CERTIFICATE, ZANDRIK_CERTIFICATE_KEY, ZANDRIK_NAMES, ZANDRIK_PROXIES.</param>
    /// <exception cref="InvalidOperationException">Something cannot be: the message says what, and what to write.</exception>
    public static NetworkSettings Read(IConfiguration from)
    {
        var listen = List(from["ZANDRIK_LISTEN"]);
        var lan = listen is ["lan"];
        var settings = new NetworkSettings
        {
            IsLan = lan,
            Addresses = lan ? [] : [.. listen.Select(a => Address(a, "ZANDRIK_LISTEN takes lan, or addresses of this machine"))],
            TlsPort = Port(from["ZANDRIK_TLS_PORT"], "ZANDRIK_TLS_PORT", UsualTlsPort),
            HttpPort = Port(from["ZANDRIK_HTTP_PORT"], "ZANDRIK_HTTP_PORT", UsualHttpPort),
            Folder = from["ZANDRIK_TLS_DIR"] is { Length: > 0 } folder ? folder : null,
            CertificateFile = Existing(from["ZANDRIK_CERTIFICATE"], "certificate"),
            KeyFile = Existing(from["ZANDRIK_CERTIFICATE_KEY"], "key"),
            Names = [.. List(from["ZANDRIK_NAMES"]).Select(Name)],
            Proxies = [.. List(from["ZANDRIK_PROXIES"]).Select(a => Address(a, "ZANDRIK_PROXIES takes addresses"))],
        };
        if (settings.CertificateFile is null && settings.Addresses.FirstOrDefault(a => !MachineNames.IsPrivate(a)) is { } open)
        {
            throw new InvalidOperationException($"{open} is an address of the internet, which the shop's authority does not vouch for. Give a certificate of your own for it (--certificate FILE), or listen on the shop's own network (--listen lan).");
        }
        return settings is { IsOn: true, Folder: null, CertificateFile: null }
            ? throw new InvalidOperationException("To be reached on the network the server needs ZANDRIK_TLS_DIR, a folder for its certificates, or ZANDRIK_CERTIFICATE, one of your own. ./start sets it.")
            : settings;
    }

    private static string[] List(string? text) => (text ?? "").Split([',', ';', ' '], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);

    private static IPAddress Address(string text, string takes) =>
        IPAddress.TryParse(text, out var address) ? address : throw new InvalidOperationException($"{takes}, not '{text}'.");

    private static string Name(string text) => Uri.CheckHostName(text) == UriHostNameType.Dns ? text.ToLowerInvariant() : throw new InvalidOperationException($"ZANDRIK_NAMES takes names of this machine, not '{text}'.");

    private static int Port(string? text, string name, int usual) => string.IsNullOrWhiteSpace(text) ? usual
        : int.TryParse(text, out var port) && port is > 0 and < 65536 ? port : throw new InvalidOperationException($"{name} takes a number from 1 to 65535, not '{text}'.");

    private static string? Existing(string? file, string what) => string.IsNullOrWhiteSpace(file) ? null
        : File.Exists(file) ? file : throw new InvalidOperationException($"The {what} {file} is not there.");
}
