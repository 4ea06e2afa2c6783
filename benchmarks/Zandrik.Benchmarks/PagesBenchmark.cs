using System.Diagnostics;
using System.Globalization;

namespace Zandrik.Benchmarks;

/// <summary>
/// How many pages a server gives in a second to sixteen connections, as they are when nothing changed and right after
/// each change, beside an answer that costs nothing. Client and server share the machine. Run through benchmarks/pages.
/// </summary>
internal static class PagesBenchmark
{
    private const int Connections = 16, Job = 8, Posts = 150, WarmUpPosts = 50;

    private static readonly TimeSpan Warm = TimeSpan.FromSeconds(20), Each = TimeSpan.FromSeconds(8);

    internal static async Task RunAsync(Uri server)
    {
        using var handler = new SocketsHttpHandler { MaxConnectionsPerServer = Connections };
        using var client = new HttpClient(handler) { BaseAddress = server };
        await BenchClient.SignInAsync(client);
        (string Name, string Address)[] pages =
        [
            ("answer", "/health/live"), ("dry", $"/jobs/{Job}/dry"), ("judgement", $"/jobs/{Job}/judgement"), ("Bays", "/"),
        ];
        foreach (var (name, address) in pages)
        {
            await RateAsync(client, address, Warm);
            var (rate, p99) = await RateAsync(client, address, Each);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name,-12}{rate,8:0} a second, p99 {p99:0.0} ms"));
        }
        var token = await BenchClient.TokenAsync(client, $"/jobs/{Job}/dry");
        // A page asked for right after a reading was posted: nothing that was kept from before may serve it.
        foreach (var (name, address) in pages.Skip(1).Prepend(("entry", "")))
        {
            var (post, page) = (new List<double>(), new List<double>());
            for (var i = 0; i < WarmUpPosts + Posts; i++)
            {
                var clock = Stopwatch.StartNew();
                await BenchClient.PostReadingAsync(client, Job, token, 1 + i % 4, 180 + i % 30);
                var posted = clock.Elapsed.TotalMilliseconds;
                clock.Restart();
                if (address.Length > 0)
                {
                    await client.GetByteArrayAsync(new Uri(address, UriKind.Relative));
                }
                if (i >= WarmUpPosts)
                {
                    post.Add(posted);
                    page.Add(clock.Elapsed.TotalMilliseconds);
                }
            }
            var (what, times) = address.Length > 0 ? ("after a change", page) : ("posted, bench back", post);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name,-12}{what}: median {At(times, 0.5):0.0} ms, p99 {At(times, 0.99):0.0} ms"));
        }
    }

    /// <summary>One page for so many seconds, for a profile of the server.</summary>
    internal static async Task LoadAsync(Uri server, string address, int seconds)
    {
        using var client = new HttpClient { BaseAddress = server };
        await BenchClient.SignInAsync(client);
        var (rate, p99) = await RateAsync(client, address, TimeSpan.FromSeconds(seconds));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{address} {rate:0} a second, p99 {p99:0.0} ms"));
    }

    private static double At(List<double> values, double part) => values.Order().ElementAt((int)(part * (values.Count - 1)));

    private static async Task<(double Rate, double P99)> RateAsync(HttpClient client, string address, TimeSpan time)
    {
        var clock = Stopwatch.StartNew();
        var times = await Task.WhenAll(Enumerable.Range(0, Connections).Select(async _ =>
        {
            var own = new List<double>();
            while (clock.Elapsed < time)
            {
                var begun = clock.Elapsed;
                using var answer = await client.GetAsync(new Uri(address, UriKind.Relative));
                answer.EnsureSuccessStatusCode();
                await answer.Content.ReadAsByteArrayAsync();
                own.Add((clock.Elapsed - begun).TotalMilliseconds);
            }
            return own;
        }));
        var all = times.SelectMany(t => t).ToList();
        return (all.Count / clock.Elapsed.TotalSeconds, At(all, 0.99));
    }
}
