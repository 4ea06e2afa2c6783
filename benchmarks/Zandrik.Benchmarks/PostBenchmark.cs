using System.Diagnostics;
using System.Globalization;
using Npgsql;

namespace Zandrik.Benchmarks;

/// <summary>
/// A reading posted to the running server and the swapped parts back, with many jobs stored. Run through
/// benchmarks/post-readings, which starts a server with a database of its own.
/// </summary>
internal static class PostBenchmark
{
    private const int WarmUp = 240, Rounds = 400, Cylinders = 8;

    internal static async Task RunAsync(Uri server, string database, int jobs)
    {
        await FillAsync(database, jobs);
        using var client = new HttpClient { BaseAddress = server };
        await BenchClient.SignInAsync(client);
        // One engine after the other, each cylinder once over what it was: a job does not grow longer than a real one.
        var first = First(jobs);
        var token = await BenchClient.TokenAsync(client, $"/jobs/{first}/dry");
        var empty = new List<double>();
        var post = new List<double>();
        long bytes = 0;
        for (var i = 0; i < WarmUp + Rounds; i++)
        {
            // Turn about, so that whatever else the machine does falls on both alike.
            var clock = Stopwatch.StartNew();
            await client.GetStringAsync(new Uri("/missing", UriKind.Relative));
            var plain = clock.Elapsed.TotalMilliseconds;
            clock.Restart();
            var size = await BenchClient.PostReadingAsync(client, first + i / Cylinders, token, 1 + i % Cylinders, 180 + i % 30);
            var entered = clock.Elapsed.TotalMilliseconds;
            if (i >= WarmUp)
            {
                empty.Add(plain);
                post.Add(entered);
                bytes = size;
            }
        }
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"jobs stored                    {jobs}"));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"reading posted, median         {At(post, 0.5):0.0} ms   (p95 {At(post, 0.95):0.0}, p99 {At(post, 0.99):0.0}), {bytes / 1024.0:0.0} kB uncompressed"));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"empty page, median             {At(empty, 0.5):0.0} ms   (p95 {At(empty, 0.95):0.0}, p99 {At(empty, 0.99):0.0})"));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"ratio of the medians           {At(post, 0.5) / At(empty, 0.5):0.0}"));
    }

    private static int First(int jobs) => 1 + jobs / 2;

    private static double At(List<double> values, double part) => values.Order().ElementAt((int)(part * (values.Count - 1)));

    // Eight-cylinder jobs with a whole dry test each, as the importer would store them.
    private static async Task FillAsync(string database, int jobs)
    {
        await using var source = NpgsqlDataSource.Create(database);
        await using var command = source.CreateCommand($$"""
            with e as (insert into engine (shop_id) select 1 from generate_series((select next_job from shop), {{jobs}}) returning id),
                 k as (select id, (select next_job from shop) - 1 + row_number() over (order by id) as n from e)
            insert into job (shop_id, number, record, unit, opened_at, closed_at, opened_by, engine_id)
            select 1, n, jsonb_build_object('format', 'zandrik-test-record', 'version', 1, 'vehicle', jsonb_build_object('label', 'Van ' || n),
                   'engine', '{"cylinders": 8, "fuel": "petrol", "layout": "v", "spec": {"unit": "psi", "nominal": 205, "minimum": 150} }'::jsonb),
                   'psi', now() - n * interval '1 hour', case when n not between {{First(jobs)}} and {{First(jobs) + (WarmUp + Rounds) / Cylinders}} then now() end, 1, k.id
            from k;
            update shop set next_job = {{jobs}} + 1;
            insert into test (shop_id, job_id, position, kind, body, made_by)
            select 1, j.id, 1, 'compression-dry', '{"kind": "compression-dry", "unit": "psi"}', 1
            from job j where j.purpose = 'work' and not exists (select 1 from test t where t.job_id = j.id);
            insert into reading (shop_id, test_id, slot, position, body, by_person)
            select 1, t.id, c, c, jsonb_build_object('cylinder', c, 'value', 190 + (t.id + c) % 20, 'order', c), 1
            from test t join job j on j.id = t.job_id cross join generate_series(1, 8) c
            where j.record -> 'vehicle' ->> 'label' = 'Van ' || j.number;
            analyze;
            """);
        command.CommandTimeout = 300;
        await command.ExecuteNonQueryAsync();
    }
}
