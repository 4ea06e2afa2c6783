using System.ComponentModel;
using System.Diagnostics;
using Npgsql;

namespace Zandrik.Storage.Backups;

/// <summary>Runs pg_dump and pg_restore of Debian's packages on a connection.</summary>
/// <param name="folder">Where the tools are; absent for those of the path.</param>
internal sealed class PostgresTool(string? folder)
{
    /// <summary>Runs one; its complaint when it fails.</summary>
    /// <param name="tool">pg_dump or pg_restore.</param>
    /// <param name="connection">Connection string of the owner.</param>
    /// <param name="arguments">What it is to do.</param>
    /// <param name="cancel">Ends it.</param>
    public async Task RunAsync(string tool, string connection, IEnumerable<string> arguments, CancellationToken cancel)
    {
        var at = new NpgsqlConnectionStringBuilder(connection);
        var start = new ProcessStartInfo(folder is null ? tool : Path.Combine(folder, tool)) { RedirectStandardError = true, UseShellExecute = false };
        foreach (var argument in new[] { "-h", at.Host ?? "", "-p", $"{at.Port}", "-U", at.Username ?? "", "-w", "-d", at.Database ?? "" }.Concat(arguments))
        {
            start.ArgumentList.Add(argument);
        }
        // Not among the arguments, which everybody on the machine sees.
        start.Environment["PGPASSWORD"] = at.Password ?? "";
        start.Environment["LC_ALL"] = "C.UTF-8";
        // As strict about who answers as the server is.
        start.Environment["PGSSLMODE"] = at.SslMode switch { SslMode.VerifyCA => "verify-ca", SslMode.VerifyFull => "verify-full", var other => other.ToString().ToLowerInvariant() };
        if (at.RootCertificate is { Length: > 0 } authority)
        {
            start.Environment["PGSSLROOTCERT"] = authority;
        }
        using var process = new Process { StartInfo = start };
        try
        {
            process.Start();
        }
        catch (Win32Exception missing)
        {
            throw new BackupException($"{tool} does not start ({missing.Message}). Install postgresql-client of the version of the server.", missing);
        }
        try
        {
            var said = await process.StandardError.ReadToEndAsync(cancel);
            await process.WaitForExitAsync(cancel);
            if (process.ExitCode != 0)
            {
                throw new BackupException($"{tool} failed: {string.Join(' ', said.Trim().Split("\n").TakeLast(12))}");
            }
        }
        catch (OperationCanceledException)
        {
            process.Kill(entireProcessTree: true);
            throw;
        }
    }
}
