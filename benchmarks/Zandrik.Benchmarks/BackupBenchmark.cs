using System.Diagnostics;
using System.Globalization;
using Npgsql;

namespace Zandrik.Benchmarks;

/// <summary>A backup of a large shop while twenty people enter, and the way back. Run through benchmarks/backup.</summary>
internal static class BackupBenchmark
{
    private const int People = 20, EveryMs = 1000;

    internal static async Task RunAsync(Uri server, string database, int jobs, string backup, string restore, string data)
    {
        await ManyJobsBenchmark.FillAsync(database, jobs);
        await using var source = NpgsqlDataSource.Create(database);
        Console.WriteLine(await source.CreateCommand("select (select count(*) from job) || ' jobs, ' || (select count(*) from reading) || ' readings, ' || pg_database_size(current_database()) / 1000000 || ' MB'").ExecuteScalarAsync());
        // The first round warms the server up.
        await ManyJobsBenchmark.TechniciansAsync(server, database, EveryMs, People);
        Console.WriteLine("without a backup:");
        await ManyJobsBenchmark.TechniciansAsync(server, database, EveryMs, People);
        Console.WriteLine("while it is made:");
        var shelf = Path.Combine(data, "shelf");
        await ManyJobsBenchmark.TechniciansAsync(server, database, EveryMs, People, () => TimedAsync("backup", backup, shelf, "--data", data));
        await TimedAsync("restore", restore, Directory.GetFiles(shelf).Single(), "--data", Path.Combine(data, "restored"));
    }

    private static async Task TimedAsync(string what, string command, params string[] arguments)
    {
        var clock = Stopwatch.StartNew();
        using var process = Process.Start(new ProcessStartInfo(command, arguments))!;
        await process.WaitForExitAsync();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{what}: {clock.Elapsed.TotalSeconds:0} s, code {process.ExitCode}"));
    }
}
