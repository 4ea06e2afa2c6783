using System.Diagnostics;
using System.Globalization;
using Npgsql;

namespace Zandrik.Benchmarks;

/// <summary>
/// What a shop with many years behind it feels like: Bays, search, a vehicle's page and an entry with few jobs
/// stored and with many, in one run; then fifty technicians at once. Run through benchmarks/many-jobs.
/// </summary>
internal static class ManyJobsBenchmark
{
    private const int WarmUp = 30, Rounds = 150, Few = 1_000, Technicians = 50, EntriesEach = 24;

    internal static async Task RunAsync(Uri server, string database, int many)
    {
        using var client = new HttpClient { BaseAddress = server };
        await BenchClient.SignInAsync(client);
        await FillAsync(database, Few);
        // The first round warms the server up and is thrown away.
        await MeasureAsync(client, database);
        var few = await MeasureAsync(client, database);
        await FillAsync(database, many);
        var lots = await MeasureAsync(client, database);
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{"median, ms",-28}{Few,10}{many,10}  ratio"));
        foreach (var (name, value) in few)
        {
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name,-28}{value,10:0.0}{lots[name],10:0.0}  {lots[name] / value:0.00}"));
        }
        await TechniciansAsync(server, database, everyMs: 1000);
        await TechniciansAsync(server, database, everyMs: 0);
    }

    /// <summary>Fifty people without a pause on a server that is there already, and what a job takes on the disk. Run through benchmarks/several-copies.</summary>
    internal static async Task CrowdAsync(Uri server, string database)
    {
        await using var source = NpgsqlDataSource.Create(database);
        long Size() => (long)source.CreateCommand("select pg_database_size(current_database())").ExecuteScalar()!;
        var before = Size();
        await FillAsync(database, Few);
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{Few} jobs of 24 readings take {(Size() - before) / 1e6:0.0} MB"));
        // The first round warms the copies up.
        await TechniciansAsync(server, database, everyMs: 0);
        await TechniciansAsync(server, database, everyMs: 0);
        await TechniciansAsync(server, database, everyMs: 1000);
    }

    private static async Task<Dictionary<string, double>> MeasureAsync(HttpClient client, string database)
    {
        var (vehicle, job) = await OneAsync(database);
        var token = await BenchClient.TokenAsync(client, $"/jobs/{job}/dry");
        string[] wanted = ["Pier", "van 77", "tug", "no such thing", "va", "12"];
        var pages = new Dictionary<string, Func<int, Task>>
        {
            ["Bays"] = _ => GetAsync(client, "/"),
            ["search as one types"] = i => GetAsync(client, $"/search?q={Uri.EscapeDataString(wanted[i % wanted.Length])}", part: true),
            ["vehicle page"] = _ => GetAsync(client, $"/vehicles/{vehicle}"),
            ["all jobs"] = _ => GetAsync(client, "/jobs"),
            ["reading entered"] = i => BenchClient.PostReadingAsync(client, job, token, 1 + i % 8, 180 + i % 30),
        };
        var times = pages.Keys.ToDictionary(k => k, _ => new List<double>());
        for (var i = 0; i < WarmUp + Rounds; i++)
        {
            // Turn about, so that whatever else the machine does falls on all alike.
            foreach (var (name, page) in pages)
            {
                var clock = Stopwatch.StartNew();
                await page(i);
                if (i >= WarmUp)
                {
                    times[name].Add(clock.Elapsed.TotalMilliseconds);
                }
            }
        }
        return times.ToDictionary(t => t.Key, t => t.Value.Order().ElementAt(t.Value.Count / 2));
    }

    // Fifty people, each on a job of their own; every answer is waited for before the next entry.
    internal static async Task TechniciansAsync(Uri server, string database, int everyMs, int technicians = Technicians, Func<Task>? meanwhile = null)
    {
        await using var source = NpgsqlDataSource.Create(database);
        await using (var people = source.CreateCommand($"""
            insert into person (shop_id, name, login, password_hash, role)
            select 1, 'Bench ' || n, 'bench-' || n, (select password_hash from person where login = 'ostrel'), 'technician' from generate_series(1, {technicians}) n
            on conflict do nothing
            """))
        {
            await people.ExecuteNonQueryAsync();
        }
        var jobs = new List<int>();
        await using (var open = source.CreateCommand($"select number from job where closed_at is null and (record -> 'engine' ->> 'cylinders')::int = 8 order by number desc limit {technicians}"))
        await using (var reader = await open.ExecuteReaderAsync())
        {
            while (await reader.ReadAsync())
            {
                jobs.Add(reader.GetInt32(0));
            }
        }
        var clients = new List<(HttpClient Client, string Token)>();
        for (var i = 0; i < technicians; i++)
        {
            var client = new HttpClient { BaseAddress = server };
            await BenchClient.SignInAsync(client, $"bench-{i + 1}");
            clients.Add((client, await BenchClient.TokenAsync(client, $"/jobs/{jobs[i]}/dry")));
        }
        long CountSync() => (long)source.CreateCommand("select count(*) from reading where entry is not null").ExecuteScalar()!;
        var before = CountSync();
        var times = new System.Collections.Concurrent.ConcurrentBag<double>();
        var errors = 0;
        // As many entries each as are usual here, or until what goes on meanwhile is done.
        var other = meanwhile?.Invoke();
        var whole = Stopwatch.StartNew();
        await Task.WhenAll(clients.Select(async (c, i) =>
        {
            // Begun a little apart, as people are.
            await Task.Delay(everyMs * i / technicians);
            for (var n = 0; other is null ? n < EntriesEach : !other.IsCompleted; n++)
            {
                var clock = Stopwatch.StartNew();
                try
                {
                    await BenchClient.PostReadingAsync(c.Client, jobs[i], c.Token, 1 + n % 8, 180 + n % 40);
                }
                catch (HttpRequestException)
                {
                    Interlocked.Increment(ref errors);
                }
                times.Add(clock.Elapsed.TotalMilliseconds);
                await Task.Delay(Math.Max(0, everyMs - (int)clock.ElapsedMilliseconds));
            }
        }));
        var seconds = whole.Elapsed.TotalSeconds;
        if (other is not null)
        {
            await other;
        }
        foreach (var (client, _) in clients)
        {
            client.Dispose();
        }
        var sorted = times.Order().ToList();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"{technicians} technicians, {(everyMs > 0 ? $"an entry every {everyMs} ms" : "without a pause")}: {sorted.Count} entries, {errors} errors, {CountSync() - before} rows kept, median {sorted[sorted.Count / 2]:0} ms, p99 {sorted[(int)(0.99 * (sorted.Count - 1))]:0} ms, {sorted.Count / seconds:0} entries a second"));
    }

    private static async Task GetAsync(HttpClient client, string address, bool part = false)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, address);
        if (part)
        {
            request.Headers.Add("HX-Request", "true");
        }
        using var answer = await client.SendAsync(request);
        answer.EnsureSuccessStatusCode();
        await answer.Content.ReadAsByteArrayAsync();
    }

    private static async Task<(int Vehicle, int Job)> OneAsync(string database)
    {
        await using var source = NpgsqlDataSource.Create(database);
        await using var command = source.CreateCommand("select vehicle_id, number from job where vehicle_label like 'Bench%' and closed_at is null order by number desc limit 1");
        await using var reader = await command.ExecuteReaderAsync();
        await reader.ReadAsync();
        return (reader.GetInt32(0), reader.GetInt32(1));
    }

    // Eight-cylinder jobs with three dry tests each, ten jobs to a vehicle, the newest sixty open; the same every time.
    internal static async Task FillAsync(string database, int jobs)
    {
        await using var source = NpgsqlDataSource.Create(database);
        await using var command = source.CreateCommand($$"""
            alter table reading disable trigger reading_is_told;
            alter table test disable trigger test_is_told;
            alter table job disable trigger job_is_told;
            insert into vehicle (shop_id, label)
            select 1, 'Bench ' || (array['Pier', 'Tide', 'Quay', 'Fell', 'Moor'])[1 + n % 5] || (array[' van ', ' bus ', ' tug ', ' loader '])[1 + n % 4] || n from generate_series(1, {{jobs}} / 10) n
            on conflict do nothing;
            insert into engine (shop_id, serial) select 1, 'Bench ' || v.id from vehicle v where v.label like 'Bench%' on conflict do nothing;
            insert into engine_in (shop_id, engine_id, vehicle_id) select 1, e.id, v.id from vehicle v join engine e on e.serial = 'Bench ' || v.id
                where not exists (select 1 from engine_in s where s.engine_id = e.id);
            insert into job (shop_id, number, record, unit, opened_at, opened_by, vehicle_id, engine_id)
            select 1, n, jsonb_build_object('format', 'zandrik-test-record', 'version', 1, 'complaint', 'rough when ' || (array['cold', 'warm', 'wet'])[1 + n % 3], 'vehicle', jsonb_build_object('label', v.label),
                   'engine', '{"cylinders": 8, "fuel": "petrol", "layout": "v", "name": "5.0 V8", "spec": {"unit": "psi", "nominal": 205, "minimum": 150} }'::jsonb),
                   'psi', '2020-01-01'::timestamptz + n * interval '10 minutes', 1, v.id, e.id
            from generate_series((select next_job from shop where id = 1), {{jobs}}) n
            join vehicle v on v.shop_id = 1 and v.label = 'Bench ' || (array['Pier', 'Tide', 'Quay', 'Fell', 'Moor'])[1 + (1 + n % ({{jobs}} / 10)) % 5] || (array[' van ', ' bus ', ' tug ', ' loader '])[1 + (1 + n % ({{jobs}} / 10)) % 4] || (1 + n % ({{jobs}} / 10))
            join engine e on e.shop_id = 1 and e.serial = 'Bench ' || v.id;
            update shop set next_job = {{jobs}} + 1 where id = 1;
            update job set closed_at = case when number > {{jobs}} - 60 then null else opened_at end where vehicle_label like 'Bench%';
            insert into test (shop_id, job_id, position, kind, body, made_by)
            select 1, j.id, p, 'compression-dry', '{"kind": "compression-dry", "unit": "psi"}', 1
            from job j cross join generate_series(1, 3) p where j.vehicle_label like 'Bench%' and not exists (select 1 from test t where t.job_id = j.id);
            insert into reading (shop_id, test_id, slot, position, body, by_person)
            select 1, t.id, c, c, jsonb_build_object('cylinder', c, 'value', 190 + (t.id + c) % 20, 'order', c), 1
            from test t join job j on j.id = t.job_id cross join generate_series(1, 8) c
            where j.vehicle_label like 'Bench%' and not exists (select 1 from reading r where r.test_id = t.id);
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
