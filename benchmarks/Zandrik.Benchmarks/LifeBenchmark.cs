using System.Diagnostics;
using System.Globalization;
using Npgsql;

namespace Zandrik.Benchmarks;

/// <summary>
/// The page of an engine with 400 tests, the fleet of 5 000 engines with 100 000 jobs behind them, and the archive of 10 000 and of all jobs, on a server of its own. Run through benchmarks/engine-life.
/// </summary>
internal static class LifeBenchmark
{
    private const int WarmUp = 15, Rounds = 60, Engines = 5_000, Archived = 10_000, JobsOfOne = 400;

    internal static async Task RunAsync(Uri server, string database, int jobs)
    {
        using var client = new HttpClient { BaseAddress = server, Timeout = TimeSpan.FromMinutes(10) };
        await BenchClient.SignInAsync(client);
        await FillAsync(database, Archived, Engines / 10);
        await ArchiveAsync(client, database);
        await FillAsync(database, jobs, Engines);
        var one = await OneAsync(database);
        await MeasureAsync(client, "empty page", "/account");
        await MeasureAsync(client, $"engine with {JobsOfOne} tests", $"/vehicles/engines/{one}");
        await MeasureAsync(client, "the same over time", $"/vehicles/engines/{one}?over=time");
        var clock = Stopwatch.StartNew();
        var left = 1;
        while (left > 0)
        {
            left = (await client.GetStringAsync(new Uri("/fleet", UriKind.Relative))).Contains("data-stale", StringComparison.Ordinal) ? 1 : 0;
        }
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"all engines worked out the first time: {clock.Elapsed.TotalSeconds:0.0} s"));
        foreach (var sort in new[] { "due", "margin", "trend", "name", "tested" })
        {
            await MeasureAsync(client, $"fleet by {sort}", $"/fleet?sort={sort}");
        }
        await MeasureAsync(client, "fleet, those that are due", "/fleet?show=due");
        await MeasureAsync(client, "fleet, found by text", "/fleet?q=tug");
        await ArchiveAsync(client, database);
    }

    private static async Task MeasureAsync(HttpClient client, string name, string address)
    {
        var times = new List<double>();
        for (var i = 0; i < WarmUp + Rounds; i++)
        {
            var clock = Stopwatch.StartNew();
            using var answer = await client.GetAsync(new Uri(address, UriKind.Relative));
            answer.EnsureSuccessStatusCode();
            await answer.Content.ReadAsByteArrayAsync();
            if (i >= WarmUp)
            {
                times.Add(clock.Elapsed.TotalMilliseconds);
            }
        }
        times.Sort();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name,-32} median {times[Rounds / 2],7:0.0} ms, p95 {times[Rounds * 95 / 100],7:0.0} ms"));
    }

    private static async Task ArchiveAsync(HttpClient client, string database)
    {
        await using var source = NpgsqlDataSource.Create(database);
        var server = Process.GetProcesses().Where(p => p.ProcessName is "Zandrik.Web" or "dotnet").FirstOrDefault(p => CommandOf(p).Contains("Zandrik.Web", StringComparison.Ordinal) && !CommandOf(p).Contains("Benchmarks", StringComparison.Ordinal));
        long Memory() => server is null ? 0 : long.Parse(File.ReadLines($"/proc/{server.Id}/status").First(l => l.StartsWith("VmRSS", StringComparison.Ordinal)).Split(':')[1].Replace("kB", "", StringComparison.Ordinal).Trim(), CultureInfo.InvariantCulture) / 1024;
        var before = Memory();
        var peak = before;
        var token = await BenchClient.TokenAsync(client, "/shop/archive");
        var clock = Stopwatch.StartNew();
        using (var form = new FormUrlEncodedContent(new Dictionary<string, string> { ["__RequestVerificationToken"] = token }))
        {
            (await client.PostAsync(new Uri("/shop/archive", UriKind.Relative), form)).EnsureSuccessStatusCode();
        }
        (int Done, long Bytes, bool Finished) state = default;
        while (!state.Finished)
        {
            await Task.Delay(50);
            peak = Math.Max(peak, Memory());
            await using var ask = source.CreateCommand("select done, bytes, finished_at is not null, failed from archive order by id desc limit 1");
            await using var row = await ask.ExecuteReaderAsync();
            await row.ReadAsync();
            state = (row.GetInt32(0), row.GetInt64(1), row.GetBoolean(2));
            if (!row.IsDBNull(3))
            {
                throw new InvalidOperationException(row.GetString(3));
            }
        }
        var seconds = clock.Elapsed.TotalSeconds;
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"archive of {state.Done} jobs: {seconds:0.0} s, {state.Done / seconds:0} jobs a second, {state.Bytes / 1e6:0.0} MB; the server from {before} MB to {peak} MB"));
    }

    private static string CommandOf(Process process)
    {
        try
        {
            return File.ReadAllText($"/proc/{process.Id}/cmdline");
        }
        catch (IOException)
        {
            return "";
        }
    }

    private static async Task<int> OneAsync(string database)
    {
        await using var source = NpgsqlDataSource.Create(database);
        await using var command = source.CreateCommand("select engine_id from job group by engine_id order by count(*) desc limit 1");
        return (int)(await command.ExecuteScalarAsync())!;
    }

    // Engines that fall by a tenth of a percent in a thousand kilometres; one of them has been here every month for decades.
    private static async Task FillAsync(string database, int jobs, int engines)
    {
        await using var source = NpgsqlDataSource.Create(database);
        await using var command = source.CreateCommand($$"""
            alter table reading disable trigger reading_is_told;
            alter table test disable trigger test_is_told;
            alter table job disable trigger job_is_told;
            insert into vehicle (shop_id, label) select 1, 'Bench ' || (array['Pier', 'Tide', 'Quay', 'Fell', 'Moor'])[1 + n % 5] || (array[' van ', ' bus ', ' tug ', ' loader '])[1 + n % 4] || n from generate_series(1, {{engines}}) n on conflict do nothing;
            insert into engine (shop_id, serial) select 1, 'Bench ' || v.id from vehicle v where v.label like 'Bench%' on conflict do nothing;
            insert into engine_in (shop_id, engine_id, vehicle_id) select 1, e.id, v.id from vehicle v join engine e on e.serial = 'Bench ' || v.id where not exists (select 1 from engine_in s where s.engine_id = e.id);
            insert into job (shop_id, number, record, unit, opened_at, closed_at, opened_by, vehicle_id, engine_id)
            select 1, n, jsonb_build_object('format', 'zandrik-test-record', 'version', 1, 'complaint', 'yearly health check', 'vehicle', jsonb_build_object('label', f.label, 'odometer', jsonb_build_object('value', f.round * 900, 'unit', 'km')),
                   'engine', '{"cylinders": 6, "fuel": "petrol", "layout": "inline", "name": "3.0 inline six", "spec": {"unit": "psi", "nominal": 205, "minimum": 150} }'::jsonb), 'psi', f.at, f.at, 1, f.vehicle, f.engine
            from (
                select n, v.id as vehicle, v.label, e.id as engine, round, '1990-01-01'::timestamptz + round * interval '30 days' as at
                from (select n, case when n % {{jobs / JobsOfOne}} = 0 then 0 else n % {{engines}} end as place, (n / greatest(1, {{engines}} / 20))::int as round from generate_series((select next_job from shop where id = 1), {{jobs}}) n) s
                join (select id, label, row_number() over (order by id) - 1 as place from vehicle where label like 'Bench%') v on v.place = s.place join engine e on e.serial = 'Bench ' || v.id) f;
            update shop set next_job = {{jobs}} + 1 where id = 1;
            insert into test (shop_id, job_id, position, kind, body, made_at, made_by)
            select 1, j.id, 1, 'compression-dry', jsonb_build_object('kind', 'compression-dry', 'unit', 'psi', 'at', j.opened_at, 'tester', '{"label": "Gauge 2"}'::jsonb, 'conditions', '{"engineTemperature": "warm", "throttle": "open"}'::jsonb), j.opened_at, 1
            from job j where j.vehicle_label like 'Bench%' and not exists (select 1 from test t where t.job_id = j.id);
            insert into reading (shop_id, test_id, slot, position, body, by_person, pressure_pa)
            select 1, t.id, c, c, jsonb_build_object('cylinder', c, 'value', round((196 - (j.record -> 'vehicle' -> 'odometer' ->> 'value')::numeric / 20000 + (t.id * 7 + c * 3) % 7)::numeric, 1), 'order', c), 1, 1300000
            from test t join job j on j.id = t.job_id cross join generate_series(1, 6) c where j.vehicle_label like 'Bench%' and not exists (select 1 from reading r where r.test_id = t.id);
            alter table reading enable trigger reading_is_told;
            alter table test enable trigger test_is_told;
            alter table job enable trigger job_is_told;
            """);
        command.CommandTimeout = 1200;
        await command.ExecuteNonQueryAsync();
        await using var vacuum = source.CreateCommand("vacuum analyze");
        vacuum.CommandTimeout = 600;
        await vacuum.ExecuteNonQueryAsync();
    }
}
