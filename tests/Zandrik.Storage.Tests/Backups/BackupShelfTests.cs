using CsCheck;
using Zandrik.Storage.Backups;

namespace Zandrik.Storage.Tests.Backups;

public sealed class BackupShelfTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("zandrik-shelf-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    [Fact]
    public void A_year_of_nights_leaves_seven_days_four_weeks_and_twelve_months()
    {
        var night = new DateTimeOffset(2026, 1, 1, 3, 0, 0, TimeSpan.Zero);
        var nights = Enumerable.Range(0, 400).Select(d => night.AddDays(d)).ToList();
        // As it is lived: one a night, the shelf tidied after each.
        var shelf = new HashSet<DateTimeOffset>();
        foreach (var made in nights)
        {
            shelf.Add(made);
            shelf = [.. BackupShelf.Kept(shelf)];
        }
        var last = nights[^1];
        for (var day = 0; day < 7; day++)
        {
            shelf.ShouldContain(last.AddDays(-day));
        }
        // Every Sunday of the last four weeks, and the last night of each month before.
        shelf.Count(m => m.DayOfWeek == DayOfWeek.Sunday && m > last.AddDays(-28)).ShouldBeGreaterThanOrEqualTo(3);
        for (var month = 1; month < 12; month++)
        {
            shelf.ShouldContain(new DateTimeOffset(last.Year, last.Month, 1, 3, 0, 0, TimeSpan.Zero).AddMonths(1 - month).AddDays(-1));
        }
        shelf.Count.ShouldBeLessThanOrEqualTo(7 + 4 + 12);
    }

    [Fact]
    public void The_newest_is_always_kept_and_no_more_than_the_three_counts_are() =>
        Gen.Int[0, 3_000_000].Array[1, 120].Sample(minutes =>
        {
            var made = minutes.Select(m => new DateTimeOffset(2024, 1, 1, 0, 0, 0, TimeSpan.Zero).AddMinutes(m)).ToList();
            var kept = BackupShelf.Kept(made);
            kept.ShouldContain(made.Max());
            kept.ShouldBeSubsetOf(made);
            kept.Count.ShouldBeLessThanOrEqualTo(BackupShelf.Days + BackupShelf.Weeks + BackupShelf.Months);
            BackupShelf.Kept(kept).ShouldBe(kept, ignoreOrder: true);
        });

    [Fact]
    public void Only_what_is_named_like_a_backup_is_ever_taken_away()
    {
        foreach (var hour in Enumerable.Range(0, 5))
        {
            File.WriteAllText(Path.Combine(folder, $"2026-03-01T0{hour}0000Z{Backup.Ending}"), "");
        }
        File.WriteAllText(Path.Combine(folder, $"mine{Backup.Ending}"), "");
        File.WriteAllText(Path.Combine(folder, "notes.txt"), "");
        BackupShelf.List(folder).Select(b => b.Made.Hour).ShouldBe([4, 3, 2, 1, 0]);
        BackupShelf.Prune(folder).Count.ShouldBe(4);
        Directory.GetFiles(folder).Select(Path.GetFileName).Order(StringComparer.Ordinal).ShouldBe([$"2026-03-01T040000Z{Backup.Ending}", $"mine{Backup.Ending}", "notes.txt"]);
        BackupShelf.List(Path.Combine(folder, "not-there")).ShouldBeEmpty();
    }
}
