using System.Formats.Asn1;
using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace Zandrik.Web.Network;

/// <summary>
/// The shop's own certificate authority: made once, kept in a folder, installed on each tablet. It may vouch for private
/// addresses and for the machine's names only, so that whoever gets hold of its key can play no other site to a tablet.
/// </summary>
public sealed class ShopAuthority : IDisposable
{
    /// <summary>How long an authority lasts, years: as long as a tablet.</summary>
    public const int Years = 10;

    /// <summary>How long a server's certificate lasts, days: what browsers take at most.</summary>
    public const int ServerDays = 398;

    // Names that belong to nobody on the internet (RFC 6762, RFC 8375, and what routers use).
    private static readonly string[] LocalNames = ["localhost", "local", "lan", "internal", "home.arpa"];

    private static readonly TimeSpan Skew = TimeSpan.FromHours(1);

    private readonly X509Certificate2 certificate;

    private ShopAuthority(X509Certificate2 certificate) => this.certificate = certificate;

    /// <summary>The certificate that tablets install, DER.</summary>
    public byte[] Der => certificate.RawData;

    /// <summary>Its SHA-256 fingerprint in groups of four, to be compared by eye.</summary>
    public string Fingerprint => string.Join(' ', Convert.ToHexString(certificate.GetCertHash(HashAlgorithmName.SHA256)).Chunk(4).Select(c => new string(c)));

    /// <summary>Until when it is good.</summary>
    public DateTimeOffset Until => certificate.NotAfter.ToUniversalTime();

    /// <summary>The authority of a folder, made where there is none.</summary>
    /// <param name="folder">The folder; made where it is missing, for its user alone.</param>
    /// <param name="names">The names of the machine, which it may vouch for.</param>
    /// <param name="now">The time.</param>
    /// <returns>The authority.</returns>
    /// <exception cref="IOException">The folder cannot be written.</exception>
    public static ShopAuthority Open(string folder, IReadOnlyList<string> names, DateTimeOffset now)
    {
        Directory.CreateDirectory(folder);
        var (file, key) = (Path.Combine(folder, "authority.crt"), Path.Combine(folder, "authority.key"));
        if (!File.Exists(file) || !File.Exists(key))
        {
            using var pair = ECDsa.Create(ECCurve.NamedCurves.nistP256);
            var request = new CertificateRequest($"CN=Zandrik workshop {Convert.ToHexString(RandomNumberGenerator.GetBytes(3))}, O=Zandrik", pair, HashAlgorithmName.SHA256);
            request.CertificateExtensions.Add(new X509BasicConstraintsExtension(certificateAuthority: true, hasPathLengthConstraint: true, pathLengthConstraint: 0, critical: true));
            request.CertificateExtensions.Add(new X509KeyUsageExtension(X509KeyUsageFlags.KeyCertSign | X509KeyUsageFlags.CrlSign, critical: true));
            request.CertificateExtensions.Add(new X509SubjectKeyIdentifierExtension(request.PublicKey, critical: false));
            request.CertificateExtensions.Add(Constraints(names));
            using var made = request.CreateSelfSigned(now - Skew, now.AddYears(Years));
            WriteSecret(key, pair.ExportPkcs8PrivateKeyPem());
            File.WriteAllText(file, made.ExportCertificatePem());
        }
        return new ShopAuthority(X509Certificate2.CreateFromPemFile(file, key));
    }

    /// <summary>Makes a certificate for the server.</summary>
    /// <param name="names">Its names.</param>
    /// <param name="addresses">Its addresses; those of the internet are left out.</param>
    /// <param name="now">The time.</param>
    /// <returns>The certificate with its key.</returns>
    /// <exception cref="InvalidOperationException">The authority may not vouch for one of the names.</exception>
    public X509Certificate2 Issue(IReadOnlyList<string> names, IReadOnlyList<IPAddress> addresses, DateTimeOffset now)
    {
        using var pair = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var request = new CertificateRequest("CN=Zandrik", pair, HashAlgorithmName.SHA256);
        request.CertificateExtensions.Add(new X509BasicConstraintsExtension(false, false, 0, critical: true));
        request.CertificateExtensions.Add(new X509KeyUsageExtension(X509KeyUsageFlags.DigitalSignature, critical: true));
        request.CertificateExtensions.Add(new X509EnhancedKeyUsageExtension([new Oid("1.3.6.1.5.5.7.3.1")], critical: false));
        request.CertificateExtensions.Add(X509AuthorityKeyIdentifierExtension.CreateFromCertificate(certificate, includeKeyIdentifier: true, includeIssuerAndSerial: false));
        var san = new SubjectAlternativeNameBuilder();
        foreach (var name in names.Append("localhost").Distinct())
        {
            san.AddDnsName(name);
        }
        foreach (var address in addresses.Where(MachineNames.IsPrivate).Append(IPAddress.Loopback).Append(IPAddress.IPv6Loopback).Distinct())
        {
            san.AddIpAddress(address);
        }
        request.CertificateExtensions.Add(san.Build());
        var end = now.AddDays(ServerDays);
        using var bare = request.Create(certificate, now - Skew, end < Until ? end : Until, RandomNumberGenerator.GetBytes(16));
        var whole = bare.CopyWithPrivateKey(pair);
        if (!Vouches(whole, now))
        {
            whole.Dispose();
            throw new InvalidOperationException($"The shop's authority was made for other names of this machine than {string.Join(", ", names)}. Start with --certificate FILE, one of your own; or delete the folder of the authority, which makes a new one that every tablet has to install again.");
        }
        return whole;
    }

    /// <summary>Whether a certificate is good by this authority.</summary>
    /// <param name="of">The certificate.</param>
    /// <param name="now">The time.</param>
    /// <returns>False where it was made by another one, is out of date, or names what this one may not vouch for.</returns>
    public bool Vouches(X509Certificate2 of, DateTimeOffset now)
    {
        using var chain = new X509Chain();
        chain.ChainPolicy.TrustMode = X509ChainTrustMode.CustomRootTrust;
        chain.ChainPolicy.CustomTrustStore.Add(certificate);
        chain.ChainPolicy.RevocationMode = X509RevocationMode.NoCheck;
        chain.ChainPolicy.VerificationTime = now.UtcDateTime;
        return chain.Build(of);
    }

    /// <inheritdoc/>
    public void Dispose() => certificate.Dispose();

    // RFC 5280, 4.2.1.10: the names below which a certificate of this authority counts, and nothing else.
    private static X509Extension Constraints(IReadOnlyList<string> names)
    {
        var (dns, ip) = (new Asn1Tag(TagClass.ContextSpecific, 2), new Asn1Tag(TagClass.ContextSpecific, 7));
        var writer = new AsnWriter(AsnEncodingRules.DER);
        using (writer.PushSequence())
        using (writer.PushSequence(new Asn1Tag(TagClass.ContextSpecific, 0)))
        {
            foreach (var name in names.Concat(LocalNames).Distinct())
            {
                using (writer.PushSequence())
                {
                    writer.WriteCharacterString(UniversalTagNumber.IA5String, name, dns);
                }
            }
            foreach (var network in MachineNames.PrivateNetworks)
            {
                using (writer.PushSequence())
                {
                    writer.WriteOctetString([.. network.BaseAddress.GetAddressBytes(), .. Mask(network)], ip);
                }
            }
        }
        return new X509Extension("2.5.29.30", writer.Encode(), critical: true);
    }

    private static byte[] Mask(IPNetwork network)
    {
        var mask = new byte[network.BaseAddress.AddressFamily == AddressFamily.InterNetwork ? 4 : 16];
        for (var bit = 0; bit < network.PrefixLength; bit++)
        {
            mask[bit / 8] |= (byte)(0x80 >> (bit % 8));
        }
        return mask;
    }

    /// <summary>Writes what only the server may read.</summary>
    internal static void WriteSecret(string file, string text)
    {
        var how = new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
        {
            how.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        }
        using var stream = new FileStream(file, how);
        using var writer = new StreamWriter(stream);
        writer.Write(text);
    }
}
