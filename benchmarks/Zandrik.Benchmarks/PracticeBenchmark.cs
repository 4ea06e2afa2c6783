using System.Diagnostics;
using System.Globalization;
using System.Net.Sockets;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Zandrik.Benchmarks;

/// <summary>
/// What the practice bench and the instruments cost: an exercise from its pick to the first reading, the way of a needle to eight screens, an instrument among two hundred clients of
/// garbage, and real pages beside eight people who practise. Run through benchmarks/practice.
/// </summary>
internal static partial class PracticeBenchmark
{
    private const int Viewers = 8, Garbage = 200, Asked = 500, Practising = 8;

    private static readonly string[] Safe = ["fuel", "ignition", "clear"];
    private static readonly string[] People = ["ostrel", "hallan", "skarre"];
    private static readonly string[] Pages = ["/jobs/8/dry", "/jobs/8/judgement", "/", "/jobs/3/dry"];
    private static readonly int[] PracticedBeside = [10, 15, 11, 6];

    // Those of petrol engines with a pump relay.
    private static readonly int[] Exercises = [1, 2, 3, 4, 5, 6, 7, 9, 10, 11, 12, 13, 14, 15, 17, 18, 19, 20, 21, 22, 23, 25, 26, 27];

    internal static async Task RunAsync(Uri server, int gaugePort)
    {
        using var client = new HttpClient { BaseAddress = server };
        await BenchClient.SignInAsync(client);
        var token = await BenchClient.TokenAsync(client, "/practice");
        await FirstReadingAsync(client, token);
        await NeedleAsync(client, token, gaugePort);
        await GarbageAsync(gaugePort);
        await BesideAsync(server, client);
    }

    private static async Task<HttpResponseMessage> PostAsync(HttpClient client, string token, string page, params (string Name, string Value)[] fields)
    {
        using var form = new FormUrlEncodedContent(fields.Append(("__RequestVerificationToken", token)).Select(f => KeyValuePair.Create(f.Item1, f.Item2)));
        using var request = new HttpRequestMessage(HttpMethod.Post, page) { Content = form, Headers = { { "HX-Request", "true" } } };
        var answer = await client.SendAsync(request);
        return answer.EnsureSuccessStatusCode();
    }

    // Begins an exercise and makes it safe to crank.
    private static async Task<string> BeginAsync(HttpClient client, string token, int exercise)
    {
        using var begun = await PostAsync(client, token, "/practice?handler=Begin", ("number", $"{exercise}"));
        var number = begun.RequestMessage!.RequestUri!.AbsolutePath.Split('/')[^1];
        foreach (var item in Safe)
        {
            using var ticked = await PostAsync(client, token, $"/jobs/{number}/prepare", ("item", item), ("way", item switch { "fuel" => "pump-relay", "ignition" => "coils-unplugged", _ => "" }), ("done", "true"), ("entry", Guid.NewGuid().ToString("N")));
        }
        return number;
    }

    private static async Task<bool> CrankAsync(HttpClient client, string token, string number, int cylinder)
    {
        var page = $"/practice/{number}/do";
        using var answer = await PostAsync(client, token, page, ("act", "dry"), ("cylinder", $"{cylinder}"), ("compressions", "7"), ("entry", Guid.NewGuid().ToString("N")), ("back", $"/jobs/{number}/dry"));
        var told = JsonNode.Parse(await answer.Content.ReadAsStringAsync())!;
        if ((bool)told["refused"]!)
        {
            Console.WriteLine($"{page}: {(string)told["says"]!}");
            return false;
        }
        return true;
    }

    private static async Task FirstReadingAsync(HttpClient client, string token)
    {
        var times = new List<double>();
        foreach (var exercise in Exercises)
        {
            var clock = Stopwatch.StartNew();
            // Another exercise each time: nothing of it is kept from before.
            var number = await BeginAsync(client, token, exercise);
            // One that is refused, as over a wet plug, is no reading.
            if (await CrankAsync(client, token, number, 1))
            {
                times.Add(clock.Elapsed.TotalMilliseconds);
            }
        }
        Console.WriteLine($"from the pick to the first reading, three lines ticked: {Line(times)}, the first {times[0]:0} ms ({times.Count} exercises)");
    }

    private static async Task NeedleAsync(HttpClient client, string token, int gaugePort)
    {
        // The list of the demo has the usual ports; those of this run are others.
        using (await PostAsync(client, token, "/instruments?handler=Add", ("name", "Measured gauge"), ("kind", "gauge"), ("address", $"127.0.0.1:{gaugePort}")))
        {
        }
        var instrument = Measured().Match(await client.GetStringAsync(new Uri("/jobs/9/take?kind=dry&cylinder=4", UriKind.Relative))).Groups[1].Value;
        using var over = new CancellationTokenSource();
        var clock = Stopwatch.StartNew();
        var direct = new List<(double At, double Pa)>();
        var seen = Enumerable.Range(0, Viewers).Select(_ => new List<(double At, double Pa)>()).ToArray();
        var ready = seen.Select(_ => new TaskCompletionSource()).ToArray();
        var watching = seen.Select((list, i) => WatchAsync(client, list, ready[i], clock, over.Token)).ToList();
        // One that cannot watch ends it here, with what is wrong.
        await await Task.WhenAny(Task.WhenAll(ready.Select(r => r.Task)), Task.WhenAny(watching).Unwrap());
        var asking = Task.Run(async () =>
        {
            using var tcp = new TcpClient("127.0.0.1", gaugePort);
            using var reader = new StreamReader(tcp.GetStream());
            await tcp.GetStream().WriteAsync("UNIT:PRES PA\n"u8.ToArray());
            while (!over.IsCancellationRequested)
            {
                await tcp.GetStream().WriteAsync("MEAS:PRES?\n"u8.ToArray());
                var pa = double.Parse((await reader.ReadLineAsync())!, CultureInfo.InvariantCulture);
                direct.Add((clock.Elapsed.TotalMilliseconds, pa));
                await Task.Delay(5);
            }
        });
        var began = clock.Elapsed.TotalMilliseconds;
        using (await PostAsync(client, token, "/jobs/9/take?kind=dry&cylinder=4", ("instrument", instrument), ("compressions", "7"), ("simulate", "true"), ("entry", Guid.NewGuid().ToString("N"))))
        {
        }
        var took = (clock.Elapsed.TotalMilliseconds - began) / 1000;
        await over.CancelAsync();
        await Task.WhenAny(Task.WhenAll(watching));
        await asking;
        // Each height on the way up: when a screen first showed it or more, against when the instrument did. What the needle stands still for counts for neither.
        var during = direct.Where(d => d.At > began).ToList();
        var late = new List<double>();
        for (var height = 100_000.0; height < during.Max(d => d.Pa); height += 100_000)
        {
            var there = during.First(d => d.Pa >= height).At;
            late.AddRange(seen.Select(screen => screen.Where(s => s.At > began && s.Pa >= height).Select(s => s.At).DefaultIfEmpty(double.PositiveInfinity).First() - there));
        }
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"needle to {Viewers} screens over {took:0.0} s: {seen.Average(s => s.Count / took):0.0} updates a second each (fewest {seen.Min(s => s.Count / took):0.0}); from the instrument to a screen, of {late.Count} heights passed: {Line(late)}"));
    }

    private static async Task WatchAsync(HttpClient client, List<(double, double)> seen, TaskCompletionSource ready, Stopwatch clock, CancellationToken cancel)
    {
        using var stream = await client.GetStreamAsync(new Uri("/jobs/9/take?handler=Watch", UriKind.Relative), cancel);
        using var reader = new StreamReader(stream);
        while (await reader.ReadLineAsync(cancel) is { } line)
        {
            if (!line.StartsWith("data: ", StringComparison.Ordinal) || JsonNode.Parse(line[6..]) is not { } told)
            {
                continue;
            }
            if ((string)told["state"]! == "watching")
            {
                ready.TrySetResult();
            }
            else if ((string)told["state"]! == "needle" && told["pa"] is { } pa)
            {
                seen.Add((clock.Elapsed.TotalMilliseconds, (double)pa));
            }
        }
    }

    private static async Task GarbageAsync(int port)
    {
        using var over = new CancellationTokenSource();
        var sent = 0L;
        var noise = Enumerable.Range(0, Garbage).Select(i => Task.Run(async () =>
        {
            using var tcp = new TcpClient("127.0.0.1", port);
            var chance = new Random(i);
            var bytes = new byte[64];
            while (!over.IsCancellationRequested)
            {
                chance.NextBytes(bytes);
                bytes[chance.Next(64)] = (byte)'\n';
                await tcp.GetStream().WriteAsync(bytes, over.Token);
                Interlocked.Increment(ref sent);
            }
        })).ToList();
        await Task.Delay(2000);
        // On a thread of its own: the measure waits for the instrument, not for the noise's turns in this program.
        var (times, answered) = (new List<double>(), 0);
        await Task.Factory.StartNew(() =>
        {
            var clock = Stopwatch.StartNew();
            using var good = new TcpClient("127.0.0.1", port);
            using var reader = new StreamReader(good.GetStream());
            for (var i = 0; i < Asked; i++)
            {
                good.GetStream().Write(Encoding.ASCII.GetBytes($"UNIT:PRES {(i % 2 == 0 ? "BAR" : "PSI")};PRES?\n"));
                answered += reader.ReadLine() == (i % 2 == 0 ? "BAR" : "PSI") ? 1 : 0;
                times.Add(clock.Elapsed.TotalMilliseconds);
                clock.Restart();
            }
        }, CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
        await over.CancelAsync();
        await Task.WhenAny(Task.WhenAll(noise));
        Console.WriteLine($"an instrument among {Garbage} clients of garbage ({sent * 64 / 1_000_000} MB): {answered} of {Asked} right, the first with its connection {times[0]:0.0} ms, then {Line(times[1..])}");
    }

    private static async Task BesideAsync(Uri server, HttpClient client)
    {
        var trainees = new List<(HttpClient Client, string Token, string Number)>();
        for (var i = 0; i < Practising; i++)
        {
            var one = new HttpClient { BaseAddress = server };
            await BenchClient.SignInAsync(one, People[i % 3]);
            var token = await BenchClient.TokenAsync(one, "/practice");
            trainees.Add((one, token, await BeginAsync(one, token, PracticedBeside[i % 4])));
        }
        var (alone, beside) = (new List<double>(), new List<double>());
        // Turn about, so that what else the machine does falls on both.
        for (var round = 0; round < 6; round++)
        {
            await PagesAsync(client, alone, TimeSpan.FromSeconds(6));
            using var over = new CancellationTokenSource();
            // Each cranks a cylinder every four seconds, quicker than anybody works.
            var working = trainees.Select((t, i) => Task.Run(async () =>
            {
                await Task.Delay(500 * i, over.Token);
                for (var c = 0; !over.IsCancellationRequested; c++)
                {
                    await CrankAsync(t.Client, t.Token, t.Number, 1 + c % 4);
                    (await t.Client.GetAsync(new Uri($"/jobs/{t.Number}/dry", UriKind.Relative), over.Token)).Dispose();
                    await Task.Delay(4000, over.Token);
                }
            })).ToList();
            await PagesAsync(client, beside, TimeSpan.FromSeconds(6));
            await over.CancelAsync();
            await Task.WhenAny(Task.WhenAll(working));
        }
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"real pages alone {Line(alone)}; beside {Practising} who practise {Line(beside)}; ratio of medians {Median(beside) / Median(alone):0.00}, of means {beside.Average() / alone.Average():0.00}"));
    }

    private static async Task PagesAsync(HttpClient client, List<double> times, TimeSpan how)
    {
        var whole = Stopwatch.StartNew();
        for (var i = 0; whole.Elapsed < how; i++)
        {
            var clock = Stopwatch.StartNew();
            // With a query of its own, so that nothing is answered "not modified".
            (await client.GetAsync(new Uri($"{Pages[i % 4]}?n={i}", UriKind.Relative))).EnsureSuccessStatusCode().Dispose();
            times.Add(clock.Elapsed.TotalMilliseconds);
            await Task.Delay(15);
        }
    }

    private static double Median(List<double> times) => times.Order().ElementAt(times.Count / 2);

    private static string Line(List<double> times)
    {
        var sorted = times.Order().ToList();
        return sorted.Count == 0 ? "nothing measured" : string.Create(CultureInfo.InvariantCulture, $"median {sorted[sorted.Count / 2]:0.0} ms, p95 {sorted[sorted.Count * 95 / 100]:0.0} ms, most {sorted[^1]:0.0} ms");
    }

    [GeneratedRegex("<option value=\"(\\d+)\"[^>]*>Measured gauge")]
    private static partial Regex Measured();
}
