using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using OpenQA.Selenium;
using Zandrik.Web.Tests.Trust;

namespace Zandrik.Web.Tests.Clusters;

/// <summary>
/// The machine of the database dies, and copies of the server, while people enter. ZANDRIK_FAILOVERS and ZANDRIK_WEB_KILLS set
/// how often, ZANDRIK_PEOPLE how many people. A run of its own: ./test cluster.
/// </summary>
public sealed class ClusterTests(RunningCluster cluster, ITestOutputHelper output) : IClassFixture<RunningCluster>
{
    private static readonly int Failovers = Number("ZANDRIK_FAILOVERS", 2), WebKills = Number("ZANDRIK_WEB_KILLS", 4), People = Number("ZANDRIK_PEOPLE", 8);

    // So many on one job, then on to the next: what one page shows stays what a page shows.
    private const int EntriesOnAJob = 40;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static int Number(string name, int usual) => int.TryParse(Environment.GetEnvironmentVariable(name), CultureInfo.InvariantCulture, out var n) ? n : usual;

    // People who enter until they are told to stop: what each was answered, by job, and when anybody was last.
    private sealed class Crowd(RunningCluster cluster) : IAsyncDisposable
    {
        private readonly CancellationTokenSource enough = new();
        private readonly List<Task> working = [];
        private readonly HttpClient api = cluster.Api();
        private readonly Lock looking = new();
        private long last = Stopwatch.GetTimestamp();
        private TimeSpan longest;

        public ConcurrentDictionary<int, int> Answered { get; } = [];

        public ConcurrentBag<int> Tries { get; } = [];

        public async Task ComeAsync()
        {
            for (var i = 0; i < People; i++)
            {
                working.Add(EnterAsync(await Outbox.OpenAsync(cluster.Address, api)));
            }
        }

        private async Task EnterAsync(Outbox mine)
        {
            for (var n = 0; !enough.IsCancellationRequested; n++)
            {
                if (n == EntriesOnAJob)
                {
                    (mine, n) = (await mine.OnAnotherJobAsync(api), 0);
                }
                await mine.EnterAsync(n, proxied: true);
                Answered[mine.Job] = n + 1;
                Tries.Add(mine.Tries);
                Note();
                await Task.Delay(2000, Cancel);
            }
            mine.Dispose();
        }

        private void Note()
        {
            lock (looking)
            {
                var gap = Stopwatch.GetElapsedTime(last);
                longest = gap > longest ? gap : longest;
                last = Stopwatch.GetTimestamp();
            }
        }

        // The longest time in which nobody was answered, since it was forgotten last.
        public TimeSpan LongestGap(bool forget = false)
        {
            lock (looking)
            {
                var was = longest;
                longest = forget ? TimeSpan.Zero : longest;
                return was;
            }
        }

        public async Task StopAsync()
        {
            await enough.CancelAsync();
            await Task.WhenAll(working);
        }

        // Each entry that was answered stands once, in the order it was typed.
        public async Task<(int Lost, int Doubled)> CountAsync()
        {
            var (lost, doubled) = (0, 0);
            foreach (var (job, count) in Answered)
            {
                var kept = await Outbox.EntriesAsync(api, job);
                lost += Enumerable.Range(0, count).Except(kept).Count();
                doubled += kept.Count - kept.Distinct().Count();
                kept.ToList().ShouldBe(kept.Order().ToList(), $"job {job}, in the order they were typed");
            }
            return (lost, doubled);
        }

        public ValueTask DisposeAsync()
        {
            enough.Dispose();
            api.Dispose();
            return ValueTask.CompletedTask;
        }
    }

    private void Say(string what)
    {
        output.WriteLine(what);
        if (Environment.GetEnvironmentVariable("ZANDRIK_CLUSTER_LOG") is { Length: > 0 } log)
        {
            File.AppendAllText(log, what + "\n");
        }
    }

    [Fact]
    public async Task The_primary_dies_while_people_enter_and_nothing_is_lost_or_doubled()
    {
        await cluster.WholeAsync();
        await using var crowd = new Crowd(cluster);
        await crowd.ComeAsync();
        var gaps = new List<double>();
        for (var failover = 0; failover < Failovers; failover++)
        {
            var before = crowd.Answered.Values.Sum();
            var primary = (await cluster.StatusAsync()).Single(p => p.Value == "primary").Key;
            crowd.LongestGap(forget: true);
            await cluster.SayAsync("kill", primary, "--for", "3600");
            var next = "";
            await Outbox.UntilAsync(async () => (next = (await cluster.StatusAsync()).FirstOrDefault(p => p.Value == "primary" && p.Key != primary).Key) is not null, "another takes its place");
            await Outbox.UntilAsync(() => Task.FromResult(crowd.LongestGap() > TimeSpan.FromSeconds(1) && crowd.Answered.Values.Sum() > before + People), "people are answered again");
            gaps.Add(crowd.LongestGap(forget: true).TotalSeconds);
            await cluster.SayAsync("start", primary);
            var back = Stopwatch.GetTimestamp();
            await cluster.WholeAsync();
            Say(string.Create(CultureInfo.InvariantCulture, $"failover {failover + 1}: {primary} died, {next} took over, nobody was answered for {gaps[^1]:0.0} s, {primary} was back {Stopwatch.GetElapsedTime(back).TotalSeconds:0} s after its start, {crowd.Answered.Values.Sum()} entries so far"));
        }
        await crowd.StopAsync();
        var (lost, doubled) = await crowd.CountAsync();
        Say(string.Create(CultureInfo.InvariantCulture, $"{gaps.Count} failovers, {People} people, {crowd.Answered.Values.Sum()} entries: {lost} lost, {doubled} doubled; gap median {gaps.Order().ElementAt(gaps.Count / 2):0.0} s, longest {gaps.Max():0.0} s"));
        lost.ShouldBe(0);
        doubled.ShouldBe(0);
    }

    [Fact]
    public async Task A_copy_of_the_server_dies_and_whoever_was_on_it_is_asked_once_more_at_most()
    {
        await cluster.WholeAsync();
        await using var crowd = new Crowd(cluster);
        await crowd.ComeAsync();
        for (var kill = 0; kill < WebKills; kill++)
        {
            var copy = $"web{(kill % 2) + 1}";
            await cluster.SayAsync("kill", copy, "--for", "2");
            await Outbox.UntilAsync(async () => (await cluster.StatusAsync())[copy].StartsWith("ready", StringComparison.Ordinal), $"{copy} is back");
        }
        await crowd.StopAsync();
        var (lost, doubled) = await crowd.CountAsync();
        var tries = crowd.Tries.GroupBy(t => t).OrderBy(g => g.Key).Select(g => $"{g.Count()} at try {g.Key}");
        Say($"{WebKills} copies killed, {People} people, {crowd.Answered.Values.Sum()} entries: {lost} lost, {doubled} doubled; answered {string.Join(", ", tries)}");
        lost.ShouldBe(0);
        doubled.ShouldBe(0);
        crowd.Tries.Max().ShouldBeLessThanOrEqualTo(2, "the other copy takes it");
    }

    [Fact]
    public async Task What_is_entered_on_one_copy_is_seen_on_the_other_and_a_session_is_good_on_both()
    {
        await cluster.WholeAsync();
        using var api = cluster.Api();
        var job = await StartedApp.JobAsync(api, cylinders: 4);
        var (one, two) = (await cluster.AddressOfAsync("web1"), await cluster.AddressOfAsync("web2"));
        using var browser = new Browser();
        browser.Open($"{one}/jobs/{job}/dry");
        browser.Find("#pad-title");
        browser.Until("it listens", () => browser.Script("return zandrik.live.leads") is true);
        using var other = await Outbox.OpenAsync(two, api);
        await (other with { Job = job }).EnterAsync(31);
        browser.Until("it is seen", () => browser.Text("#bench").Contains("131", StringComparison.Ordinal));
        // The same cookie, the other copy.
        browser.Open($"{two}/jobs/{job}/dry");
        browser.Text("h1").ShouldContain("Dry");
    }

    [Fact]
    public async Task A_page_says_what_is_going_on_and_goes_on_by_itself()
    {
        await cluster.WholeAsync();
        using var api = cluster.Api();
        var job = await StartedApp.JobAsync(api, cylinders: 4);
        using var tablet = new Browser();
        tablet.Open($"{cluster.Address}/jobs/{job}/dry?cylinder=1");
        tablet.Find("#pad-title");
        var primary = (await cluster.StatusAsync()).Single(p => p.Value == "primary").Key;
        await cluster.SayAsync("kill", primary, "--for", "20");
        tablet.Press("187" + Keys.Enter);
        tablet.UntilText("#outbox", "One entry waits");
        tablet.Until("it is taken", () => !tablet.Find("#outbox").Displayed);
        (await Outbox.EntriesAsync(api, job)).ShouldBe([87]);
        await cluster.WholeAsync();
    }
}
