using System.Security.Cryptography;

namespace Zandrik.Storage;

/// <summary>The key ring in the database cannot be opened with the key file that is there; the message says what to do.</summary>
public sealed class KeySealException(string message) : Exception(message);

/// <summary>
/// A key outside the database, which seals what must be worth nothing to whoever has the database alone: AES-256-GCM (NIST
/// SP 800-38D), a new random nonce for each sealing. It lies in a file that only the service reads.
/// </summary>
public sealed class KeySeal
{
    private const string Mark = "sealed-1:";
    private const int NonceBytes = 12, TagBytes = 16, KeyBytes = 32;
    private readonly byte[] key;

    /// <summary>Takes a key as it is.</summary>
    /// <param name="key">32 random bytes.</param>
    /// <exception cref="ArgumentException">It has another length.</exception>
    public KeySeal(byte[] key) => this.key = key.Length == KeyBytes ? key : throw new ArgumentException("The key is 32 bytes.", nameof(key));

    /// <summary>Reads the key of a file, which is made when it is not there, readable by its owner only. Two that make it at once end with the same one.</summary>
    /// <param name="path">The file: one line, 32 bytes in Base64.</param>
    /// <returns>The key.</returns>
    /// <exception cref="KeySealException">The file holds something else, or cannot be read or written.</exception>
    public static KeySeal FromFile(string path)
    {
        try
        {
            var folder = Path.GetDirectoryName(Path.GetFullPath(path))!;
            _ = OperatingSystem.IsWindows() ? Directory.CreateDirectory(folder) : Directory.CreateDirectory(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
            if (!File.Exists(path))
            {
                Make(path);
            }
            // Whoever else makes it just now has it written in a moment.
            for (var wait = 0; wait < 100 && new FileInfo(path).Length == 0; wait++)
            {
                Thread.Sleep(50);
            }
            return new KeySeal(Convert.FromBase64String(File.ReadAllText(path).Trim()));
        }
        catch (Exception broken) when (broken is IOException or UnauthorizedAccessException or FormatException or ArgumentException)
        {
            throw new KeySealException($"The key file {path} cannot be used: {broken.Message} Put the one back that was there, from a backup.");
        }
    }

    private static void Make(string path)
    {
        var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
        {
            options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        }
        FileStream file;
        try
        {
            file = new FileStream(path, options);
        }
        catch (IOException) when (File.Exists(path))
        {
            return;
        }
        try
        {
            using (file)
            {
                file.Write(System.Text.Encoding.ASCII.GetBytes(Convert.ToBase64String(RandomNumberGenerator.GetBytes(KeyBytes)) + "\n"));
                file.Flush(flushToDisk: true);
            }
        }
        catch (IOException)
        {
            // A full disk: an empty file would be taken for a key that was lost.
            File.Delete(path);
            throw;
        }
    }

    /// <summary>Whether a text is sealed, by whatever key.</summary>
    /// <returns>False for one in the clear.</returns>
    public static bool IsSealed(string text) => text.StartsWith(Mark, StringComparison.Ordinal);

    /// <summary>Seals a text.</summary>
    /// <returns>Another text each time.</returns>
    public string Seal(string text)
    {
        var plain = System.Text.Encoding.UTF8.GetBytes(text);
        var all = new byte[NonceBytes + TagBytes + plain.Length];
        RandomNumberGenerator.Fill(all.AsSpan(0, NonceBytes));
        using var aes = new AesGcm(key, TagBytes);
        aes.Encrypt(all.AsSpan(0, NonceBytes), plain, all.AsSpan(NonceBytes + TagBytes), all.AsSpan(NonceBytes, TagBytes));
        return Mark + Convert.ToBase64String(all);
    }

    /// <summary>Opens a sealed text.</summary>
    /// <returns>What was sealed.</returns>
    /// <exception cref="KeySealException">Another key sealed it, or it was changed.</exception>
    public string Open(string text)
    {
        try
        {
            var all = Convert.FromBase64String(text[Mark.Length..]);
            var plain = new byte[all.Length - NonceBytes - TagBytes];
            using var aes = new AesGcm(key, TagBytes);
            aes.Decrypt(all.AsSpan(0, NonceBytes), all.AsSpan(NonceBytes + TagBytes), all.AsSpan(NonceBytes, TagBytes), plain);
            return System.Text.Encoding.UTF8.GetString(plain);
        }
        catch (Exception broken) when (broken is CryptographicException or FormatException or ArgumentException or OverflowException)
        {
            throw new KeySealException("The keys in the database were sealed with another key file. Put the one back that belongs to this database (ring.key, in every backup), then start again.");
        }
    }
}
