using System.Globalization;
using Npgsql;
using Zandrik.Storage;
using Zandrik.Storage.Backups;
using Zandrik.Web.Front;

namespace Zandrik.Web.Backups;

/// <summary>What ./backup and ./restore run: with the owner's rights, once, and end.</summary>
public static class BackupCommand
{
    /// <summary>
    /// <c>backup FOLDER</c> makes one; <c>backup FOLDER keep</c> also takes away those that are not kept any more;
    /// <c>verify FILE</c> looks one over; <c>restore FILE</c> restores it into the database that ZANDRIK_OWNER_DB names,
    /// which must not be there yet, and brings it to the current schema.
    /// </summary>
    /// <returns>0 when it is done; 1 with the reason on the error output; 2 for what it does not understand.</returns>
    public static async Task<int> RunAsync(string[] arguments, CancellationToken cancel = default)
    {
        static string? Set(string name) => Environment.GetEnvironmentVariable(name) is { Length: > 0 } value ? value : null;
        var (owner, app, tools, certificates) = (Set("ZANDRIK_OWNER_DB"), Set("ZANDRIK_DB"), Set("ZANDRIK_PG_BIN"), Set("ZANDRIK_TLS_DIR"));
        try
        {
            switch (arguments)
            {
                case ["verify", var file]:
                    var looked = await Backup.VerifyAsync(file, cancel: cancel);
                    Console.WriteLine($"Whole and undamaged: {Says(looked)}.");
                    return 0;
                case ["backup", var folder, .. var more] when owner is not null && more is [] or ["keep"]:
                    var path = await Backup.MakeAsync(owner!, folder, AppVersion.Whole, certificates, tools, DateTimeOffset.UtcNow, cancel);
                    Console.WriteLine($"Saved: {path} ({Size(new FileInfo(path).Length)}).");
                    foreach (var gone in more is ["keep"] ? BackupShelf.Prune(folder) : [])
                    {
                        Console.WriteLine($"Not kept any more: {gone.Path}.");
                    }
                    return 0;
                case ["restore", var file] when owner is not null && app is not null:
                    var restored = await Backup.RestoreAsync(file, owner, certificates, tools, Console.WriteLine, cancel);
                    var steps = Migrator.Migrate(owner, new NpgsqlConnectionStringBuilder(app).Username!);
                    await Migrator.NoteRestoreAsync(owner, Says(restored), cancel);
                    Console.WriteLine($"Restored: {Says(restored)}.{(steps.Count > 0 ? $" Brought from {restored.Schema} to {Migrator.Newest}." : "")}");
                    return 0;
                default:
                    await Console.Error.WriteLineAsync("Use ./backup or ./restore, which call this with what it needs.");
                    return 2;
            }
        }
        catch (Exception wrong) when (wrong is BackupException or InvalidOperationException or NpgsqlException)
        {
            await Console.Error.WriteLineAsync(wrong.Message);
            return 1;
        }
    }

    private static string Says(BackupManifest backup)
    {
        long Rows(string table) => backup.Tables.FirstOrDefault(t => t.Table == table)?.Rows ?? 0;
        return string.Create(CultureInfo.InvariantCulture, $"as of {backup.Made.UtcDateTime:yyyy-MM-dd HH:mm} UTC, {Rows("job")} jobs, {Rows("reading")} readings, by Zandrik {backup.Program}");
    }

    /// <summary>A size as people say it.</summary>
    /// <param name="bytes">Bytes, 0 or more.</param>
    /// <returns>kB below one MB, else MB.</returns>
    public static string Size(long bytes) => bytes < 1_000_000
        ? string.Create(CultureInfo.InvariantCulture, $"{Math.Max(1, bytes / 1000)} kB") : string.Create(CultureInfo.InvariantCulture, $"{bytes / 1e6:0.#} MB");
}
