using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Headers;
using System.Text;
using Zandrik.Core.Records;

namespace Zandrik.Benchmarks;

/// <summary>How many diagnoses a server answers in a second, beside an answer of the same server that costs nothing: the same address, token and client, with a body that is refused at once.</summary>
internal static class DiagnosisApiBenchmark
{
    private const int Clients = 8;

    private static readonly int[] Sizes = [4, 6, 16];

    private static readonly TimeSpan Warm = TimeSpan.FromSeconds(15), Each = TimeSpan.FromSeconds(6);

    internal static async Task RunAsync(Uri server)
    {
        using var client = new HttpClient { BaseAddress = server };
        client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", "zandrik-demo-token");
        var address = new Uri("/api/v1/diagnosis", UriKind.Relative);
        var empty = "{}"u8.ToArray();
        (string Name, byte[] Body)[] asked =
        [
            ("answer that costs nothing", empty),
            .. Sizes.Select(n => ($"{n} cylinders, every test on each", Encoding.UTF8.GetBytes(TestRecordJson.Write(DiagnosisBenchmark.Record(n))))),
            ("4 cylinders, dry only", Encoding.UTF8.GetBytes(TestRecordJson.Write(DiagnosisBenchmark.Record(4) is var r ? r with { Tests = [r.Tests![0]] } : r))),
            ("4 cylinders, dry on all, leak-down on two, wet on one", Encoding.UTF8.GetBytes(TestRecordJson.Write(DiagnosisBenchmark.Everyday()))),
        ];
        double nothing = 0;
        foreach (var (name, body) in asked)
        {
            // Until what runs often is compiled for speed: the first diagnoses of a server cost several times as much.
            await ForAsync(Warm, body);
            var count = await ForAsync(Each, body);
            var rate = count / Each.TotalSeconds;
            nothing = name == asked[0].Name ? rate : nothing;
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name}: {rate:0} a second, {rate / nothing:0.00} of the answer that costs nothing"));
        }

        async Task<int> ForAsync(TimeSpan time, byte[] body)
        {
            var (clock, done) = (Stopwatch.StartNew(), 0);
            await Task.WhenAll(Enumerable.Range(0, Clients).Select(async _ =>
            {
                while (clock.Elapsed < time)
                {
                    using var content = new ByteArrayContent(body);
                    content.Headers.ContentType = new MediaTypeHeaderValue("application/json");
                    using var answer = await client.PostAsync(address, content);
                    await answer.Content.ReadAsByteArrayAsync();
                    if (!answer.IsSuccessStatusCode && body.Length > 2)
                    {
                        throw new InvalidOperationException(answer.StatusCode.ToString());
                    }
                    Interlocked.Increment(ref done);
                }
            }));
            return done;
        }
    }
}
