using System.Globalization;

namespace Zandrik.Web.Tests.Trust;

/// <summary>
/// The server or its database is killed, without warning, while keyed entries come in, or its disk is full; ./start brings it
/// back, and every entry stands once. ZANDRIK_KILLS sets how many of each.
/// </summary>
public sealed class KillTests(StartedApp app) : IClassFixture<StartedApp>
{
    private static readonly int Kills = int.TryParse(Environment.GetEnvironmentVariable("ZANDRIK_KILLS"), CultureInfo.InvariantCulture, out var n) ? n : 10;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Killed_between_entries_nothing_is_lost_and_nothing_stands_twice()
    {
        using var api = app.Api();
        using var outbox = await Outbox.OpenAsync(app.Address, api);
        var random = new Random(7);
        var entries = 0;
        for (var kill = 0; kill < 2 * Kills; kill++)
        {
            await outbox.EnterAsync(entries++);
            var entering = outbox.EnterAsync(entries++);
            await Task.Delay(random.Next(25), Cancel);
            if (kill % 2 == 0)
            {
                StartedApp.Kill(app.WebPid);
            }
            else
            {
                StartedApp.Kill(app.DatabasePid ?? throw new InvalidOperationException("The last entry was answered, so the database runs."));
            }
            await entering;
        }
        var values = await Outbox.EntriesAsync(api, outbox.Job);
        values.Order().ShouldBe(Enumerable.Range(0, entries), "each once");
        values.Chunk(2).ShouldAllBe(pair => pair.Max() - pair.Min() <= 1, "in the order they were typed");
    }

    [Fact]
    public async Task A_full_disk_takes_nothing_says_so_and_works_on_once_there_is_room()
    {
        using var api = app.Api();
        using var outbox = await Outbox.OpenAsync(app.Address, api);
        await outbox.EnterAsync(0);
        app.Disk(full: true);
        var entering = outbox.EnterAsync(1);
        // Not ready is what a supervisor hears, and a page says where entries are meanwhile.
        await Outbox.UntilAsync(async () => (int)(await api.GetAsync(new Uri("/health/ready", UriKind.Relative), Cancel)).StatusCode == 503, "it is not ready");
        using (var page = await outbox.Client.GetAsync(new Uri($"/jobs/{outbox.Job}/dry", UriKind.Relative), Cancel))
        {
            ((int)page.StatusCode).ShouldBe(503);
            (await page.Content.ReadAsStringAsync(Cancel)).ShouldContain("kept on this tablet");
        }
        // Another answer than 503 says itself what it was.
        entering.Exception.ShouldBeNull();
        entering.IsCompleted.ShouldBeFalse("nothing was taken that cannot be written");
        app.Disk(full: false);
        await entering;
        await outbox.EnterAsync(2);
        (await Outbox.EntriesAsync(api, outbox.Job)).ShouldBe([0, 1, 2], "each once, in the order they were typed");
    }
}
