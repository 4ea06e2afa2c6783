using System.Globalization;

namespace Zandrik.Storage.Backups;

/// <summary>A backup on the shelf.</summary>
/// <param name="Path">The file.</param>
/// <param name="Made">When it was made, by its name.</param>
/// <param name="Bytes">How large it is.</param>
public sealed record ShelvedBackup(string Path, DateTimeOffset Made, long Bytes);

/// <summary>The folder of the backups: which are there, and which are kept: the last of each of 7 days, 4 weeks and 12 months.</summary>
public static class BackupShelf
{
    /// <summary>Days whose last backup is kept.</summary>
    public const int Days = 7;

    /// <summary>Weeks (from Monday) whose last backup is kept.</summary>
    public const int Weeks = 4;

    /// <summary>Months whose last backup is kept.</summary>
    public const int Months = 12;

    /// <summary>The backups of a folder, the newest first. Other files are left alone.</summary>
    /// <param name="folder">The folder; one that is not there has none.</param>
    /// <returns>Those whose name says when they were made.</returns>
    public static IReadOnlyList<ShelvedBackup> List(string folder) => !Directory.Exists(folder) ? [] :
    [
        .. new DirectoryInfo(folder).GetFiles($"*{Backup.Ending}")
            .Select(f => DateTimeOffset.TryParseExact(f.Name[..^Backup.Ending.Length], "yyyy-MM-dd'T'HHmmss'Z'", CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var made) ? new ShelvedBackup(f.FullName, made, f.Length) : null)
            .OfType<ShelvedBackup>().OrderByDescending(b => b.Made),
    ];

    /// <summary>Which backups are kept: the last of each of the last 7 days, 4 weeks and 12 months that have one. The newest always is.</summary>
    /// <param name="made">When each was made.</param>
    /// <returns>Those that are kept.</returns>
    public static IReadOnlySet<DateTimeOffset> Kept(IEnumerable<DateTimeOffset> made)
    {
        var newestFirst = made.OrderDescending().ToList();
        IEnumerable<DateTimeOffset> LastOf(int count, Func<DateTimeOffset, DateTime> period) => newestFirst.GroupBy(m => period(m)).Take(count).Select(g => g.First());
        return new HashSet<DateTimeOffset>([
            .. LastOf(Days, m => m.UtcDateTime.Date),
            .. LastOf(Weeks, m => m.UtcDateTime.Date.AddDays(-(((int)m.UtcDateTime.DayOfWeek + 6) % 7))),
            .. LastOf(Months, m => new DateTime(m.UtcDateTime.Year, m.UtcDateTime.Month, 1, 0, 0, 0, DateTimeKind.Utc)),
        ]);
    }

    /// <summary>Takes away what is not kept.</summary>
    /// <param name="folder">The folder.</param>
    /// <returns>What was taken away.</returns>
    public static IReadOnlyList<ShelvedBackup> Prune(string folder)
    {
        var all = List(folder);
        var kept = Kept(all.Select(b => b.Made));
        var gone = all.Where(b => !kept.Contains(b.Made)).ToList();
        foreach (var backup in gone)
        {
            File.Delete(backup.Path);
        }
        return gone;
    }
}
