using System.Globalization;
using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Trust;

/// <summary>A tablet that was without a network for very long. ZANDRIK_QUEUED sets how many entries wait on it.</summary>
public sealed class QueueTests : IClassFixture<Site>, IDisposable
{
    private const int OnEachJob = 100, AtOnce = 5000;
    private static readonly int Queued = int.TryParse(Environment.GetEnvironmentVariable("ZANDRIK_QUEUED"), CultureInfo.InvariantCulture, out var n) ? n : 300;

    private readonly Site site;
    private readonly Browser browser = new();

    public QueueTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    private long Waiting => (long)browser.Script("return zandrik.outbox.now().length")!;

    // One entry typed on the pad without a network, and as many like it as are wanted, on each job in turn, written where the
    // outbox keeps them: typing a hundred thousand takes a technician's life.
    private async Task<List<int>> FillAsync(int entries)
    {
        var jobs = new List<int>();
        for (var i = 0; i < (entries + OnEachJob - 1) / OnEachJob; i++)
        {
            jobs.Add(await site.JobAsync("""{ "engine": { "cylinders": 4 } }"""));
        }
        browser.Open($"{site.Address}/jobs/{jobs[0]}/dry");
        browser.Network(on: false);
        browser.Press($"{Value(0)}{Keys.Enter}");
        browser.UntilText("#outbox", "One entry waits on this tablet");
        // A script may take half a minute, and a hundred thousand take longer.
        for (var from = 1; from < entries; from += AtOnce)
        {
            browser.Script($$"""
                const jobs = [{{string.Join(',', jobs)}}], from = {{from}}, to = {{Math.Min(entries, from + AtOnce)}};
                return (window.first ? Promise.resolve([window.first]) : zandrik.outbox.all()).then(([first]) => new Promise((done, failed) => {
                    window.first = first;
                    const open = indexedDB.open("zandrik", 1);
                    open.onsuccess = () => {
                        const work = open.result.transaction("entries", "readwrite"), store = work.objectStore("entries");
                        const begun = Date.parse(first.at);
                        for (let i = from; i < to; i++) {
                            const job = jobs[i % jobs.length], key = zandrik.outbox.uuid();
                            const { number, ...like } = first;
                            store.add({ ...like, job, key, at: new Date(begun + i).toISOString(), page: `/jobs/${job}/dry`, to: first.to.replace(/jobs\/\d+/, `jobs/${job}`),
                                form: { ...first.form, value: String(150 + Math.floor(i / jobs.length) % 50), entry: key } });
                        }
                        work.oncomplete = () => { open.result.close(); done(); };
                        work.onerror = () => failed(work.error);
                    };
                }));
                """);
        }
        return jobs;
    }

    private static int Value(int place) => 150 + place % 50;

    private async Task EachStandsOnceAsync(List<int> jobs, int entries, params int[] lastOnTheFirst)
    {
        for (var j = 0; j < jobs.Count; j++)
        {
            var record = JsonNode.Parse(await site.Api.GetStringAsync(new Uri($"/api/v1/jobs/{jobs[j]}/record?all=true", UriKind.Relative), TestContext.Current.CancellationToken))!;
            var values = record["tests"]![0]!["readings"]!.AsArray().OrderBy(r => (long)r!["id"]!).Select(r => (int)r!["value"]!);
            values.ShouldBe(Enumerable.Range(0, (entries - j + jobs.Count - 1) / jobs.Count).Select(Value).Concat(j == 0 ? lastOnTheFirst : []), $"job {jobs[j]}: each once, in the order it was typed");
        }
    }

    private void UntilAllIsSent()
    {
        // A hundred at a time, each with the patience of every wait.
        for (var left = Waiting; left > 0;)
        {
            left = Math.Max(0, left - 100);
            browser.Until($"{left} wait", () => Waiting <= left);
        }
    }

    [Fact]
    public async Task A_long_queue_is_sent_each_entry_once_and_in_order()
    {
        var jobs = await FillAsync(Queued);
        ((long)browser.Script("return zandrik.outbox.all().then(all => all.length)")!).ShouldBe(Queued);
        var begun = TimeProvider.System.GetTimestamp();
        // A page that is opened with all that behind it.
        browser.Network(on: true);
        browser.Open(site.Address + "/");
        browser.Until("the page knows of it", () => Waiting > 0);
        UntilAllIsSent();
        TestContext.Current.TestOutputHelper!.WriteLine($"{Queued} entries sent in {TimeProvider.System.GetElapsedTime(begun).TotalSeconds:0} s");
        browser.Until("nothing is said to wait", () => !browser.Find("#outbox").Displayed);
        await EachStandsOnceAsync(jobs, Queued);
    }

    [Theory]
    [InlineData("throw new DOMException('Shut.', 'InvalidStateError')")]
    // Begun, and never done: what another page of the same browser can do to it.
    [InlineData("return { objectStore: () => new Proxy({}, { get: () => () => ({}) }) }")]
    public async Task What_waits_is_sent_though_the_browsers_database_fails_as_the_page_opens(string how)
    {
        var jobs = await FillAsync(3);
        browser.Network(on: true);
        using (browser.BeforeScripts($$"""
            { const begin = IDBDatabase.prototype.transaction; let failed = 0;
              IDBDatabase.prototype.transaction = function (...which) { if (failed++ < 2) {{how}}; return begin.apply(this, which); }; }
            """))
        {
            browser.Open(site.Address + "/account");
        }
        browser.Until("nothing is left in the browser", () => browser.Script("return zandrik.outbox.all().then(all => all.length, () => -1)") is 0L);
        await EachStandsOnceAsync(jobs, 3);
    }

    [Fact]
    public async Task Two_tabs_send_what_waits_and_each_entry_stands_once()
    {
        var jobs = await FillAsync(120);
        var first = browser.Tab;
        var second = browser.OpenTab(site.Address + "/");
        browser.GoToTab(first);
        browser.Network(on: true);
        UntilAllIsSent();
        browser.Until("nothing is said to wait", () => !browser.Find("#outbox").Displayed);
        // What the other tab sent is known here: the next one typed goes by itself.
        browser.Click("#pad-value");
        browser.Press($"199{Keys.Enter}");
        browser.UntilText("#pad-message", "199 psi saved");
        browser.GoToTab(second);
        browser.Until("nothing is said to wait there", () => !browser.Find("#outbox").Displayed);
        await EachStandsOnceAsync(jobs, 120, 199);
    }
}
