using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace Zandrik.Web.Network;

/// <summary>
/// The certificate the server shows: one's own, read again when its file changes, or one of the shop's authority, made
/// anew thirty days before its end and when the machine has got another address.
/// </summary>
public sealed partial class ServerCertificates(NetworkSettings settings, MachineNames names, TimeProvider clock, ILogger<ServerCertificates> log) : BackgroundService
{
    /// <summary>How long before its end a certificate is made anew, days.</summary>
    public const int RenewedBefore = 30;

    private static readonly TimeSpan Pause = TimeSpan.FromMinutes(5);

    private readonly Lock one = new();
    private X509Certificate2? current;
    private string madeFor = "";

    /// <summary>The shop's authority; absent for a certificate of one's own, and where the server is on no network.</summary>
    public ShopAuthority? Authority { get; private set; }

    /// <summary>The certificate as it is now.</summary>
    /// <returns>With its key; the same until it is made anew.</returns>
    /// <exception cref="InvalidOperationException">There is none: the file cannot be read, or the authority may not vouch for a name.</exception>
    public X509Certificate2 Current()
    {
        lock (one)
        {
            return current ?? Renew();
        }
    }

    /// <summary>Makes or reads the certificate anew where it is time to.</summary>
    /// <returns>The certificate.</returns>
    public X509Certificate2 Renew()
    {
        lock (one)
        {
            if (settings.CertificateFile is { } file)
            {
                var stamp = $"{File.GetLastWriteTimeUtc(file):o}";
                if (current is null || stamp != madeFor)
                {
                    (current, madeFor) = (Load(file, settings.KeyFile), stamp);
                }
                return current;
            }
            var now = clock.GetUtcNow();
            var folder = settings.Folder ?? throw new InvalidOperationException("The server is not on a network.");
            Authority ??= ShopAuthority.Open(folder, names.Names, now);
            var wanted = string.Join(' ', names.Names.Concat(names.Addresses.Select(a => a.ToString())));
            if (current is null && madeFor.Length == 0)
            {
                (current, madeFor) = Kept(folder, now);
            }
            if (current is null || wanted != madeFor || now.AddDays(RenewedBefore) > current.NotAfter.ToUniversalTime())
            {
                current = Authority.Issue(names.Names, names.Addresses, now);
                madeFor = wanted;
                ShopAuthority.WriteSecret(Path.Combine(folder, "server.pem"), $"{current.ExportCertificatePem()}\n{current.GetECDsaPrivateKey()!.ExportPkcs8PrivateKeyPem()}\n");
                File.WriteAllText(Path.Combine(folder, "server.names"), wanted);
                Made(log, current.NotAfter.ToUniversalTime(), wanted);
            }
            return current;
        }
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (settings.IsOn && !stoppingToken.IsCancellationRequested)
        {
            try
            {
                Renew();
            }
            catch (Exception broken) when (broken is IOException or CryptographicException or InvalidOperationException or UnauthorizedAccessException)
            {
                // The one that is there goes on being shown; it is tried again.
                NotMade(log, broken);
            }
            await Task.Delay(Pause, clock, stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        Authority?.Dispose();
        base.Dispose();
    }

    // The certificate of the last start, where it is still one of this authority.
    private (X509Certificate2? Certificate, string MadeFor) Kept(string folder, DateTimeOffset now)
    {
        var (file, names) = (Path.Combine(folder, "server.pem"), Path.Combine(folder, "server.names"));
        try
        {
            var kept = File.Exists(file) && File.Exists(names) ? Load(file, null) : null;
            return kept is not null && Authority!.Vouches(kept, now) ? (kept, File.ReadAllText(names)) : (null, "");
        }
        catch (Exception broken) when (broken is InvalidOperationException or CryptographicException)
        {
            return (null, "");
        }
    }

    private static X509Certificate2 Load(string file, string? key)
    {
        try
        {
            return Path.GetExtension(file) is ".pfx" or ".p12" ? X509CertificateLoader.LoadPkcs12FromFile(file, null) : X509Certificate2.CreateFromPemFile(file, key ?? file);
        }
        catch (CryptographicException broken)
        {
            throw new InvalidOperationException($"The certificate {file} cannot be read{(key is null ? " (is its key in the same file?)" : "")}: {broken.Message}", broken);
        }
    }

    [LoggerMessage(Level = LogLevel.Information, Message = "The server's certificate is new, good until {Until:u}, for {Names}.")]
    private static partial void Made(ILogger log, DateTime until, string names);

    [LoggerMessage(Level = LogLevel.Error, Message = "The server's certificate could not be made anew.")]
    private static partial void NotMade(ILogger log, Exception broken);
}
