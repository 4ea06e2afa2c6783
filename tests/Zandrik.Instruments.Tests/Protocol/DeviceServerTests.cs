using System.Diagnostics;
using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Devices;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Instruments.Tests.Protocol;

/// <summary>The line itself: what comes in pieces, is too long, never ends, is not fetched, or is not there any more.</summary>
public sealed class DeviceServerTests : IAsyncLifetime
{
    private DeviceServer server = null!;

    public ValueTask InitializeAsync()
    {
        server = DeviceServer.Start(new CompressionGauge(new SimulatedBench(TimeProvider.System)), 0);
        return ValueTask.CompletedTask;
    }

    public ValueTask DisposeAsync() => server.DisposeAsync();

    private Task<InstrumentClient> ConnectAsync() => InstrumentClient.ConnectAsync(server.Address);

    private async Task GoneAsync(int left)
    {
        var began = Stopwatch.StartNew();
        while (server.Clients > left && began.Elapsed < TimeSpan.FromSeconds(20))
        {
            await Task.Yield();
        }
        server.Clients.ShouldBeLessThanOrEqualTo(left);
    }

    [Fact]
    public async Task A_line_may_come_byte_by_byte_and_several_at_once()
    {
        await using var client = await ConnectAsync();
        foreach (var letter in "*IDN?\r\n")
        {
            await client.SendAsync($"{letter}");
        }
        (await client.LineAsync()).ShouldStartWith("Zandrik,Simulated compression gauge");
        await client.SendAsync("*OPC?\nUNIT:PRES?\nSYST:E");
        (await client.LineAsync()).ShouldBe("1");
        (await client.LineAsync()).ShouldBe("PSI");
        await client.SendAsync("RR?\n");
        (await client.LineAsync()).ShouldStartWith("0,");
    }

    [Fact]
    public async Task A_line_that_is_too_long_is_thrown_away_and_said_to_be_so()
    {
        await using var client = await ConnectAsync();
        await client.SendAsync(new string('x', 5 * DeviceServer.LongestLine) + "\n*OPC?\n");
        (await client.LineAsync()).ShouldBe("1");
        (await client.AskAsync("SYST:ERR?")).ShouldStartWith("-363,");
        (await client.AskAsync("SYST:ERR?")).ShouldStartWith("0,", customMessage: "once for each line, not for each piece of it");
    }

    [Fact]
    public async Task Bytes_that_are_no_letters_are_refused_and_the_next_line_is_read()
    {
        await using var client = await ConnectAsync();
        await client.Stream.WriteAsync(new byte[] { 0, 255, 13, 7, 200, (byte)'\n' }, TestContext.Current.CancellationToken);
        (await client.AskAsync("SYST:ERR?")).ShouldStartWith("-101,");
    }

    [Fact]
    public async Task Whoever_hangs_up_in_the_middle_takes_nobody_along()
    {
        await using var good = await ConnectAsync();
        for (var i = 0; i < 20; i++)
        {
            var bad = await ConnectAsync();
            await bad.SendAsync("MEAS:PR");
            await bad.DisposeAsync();
        }
        (await good.AskAsync("*OPC?")).ShouldBe("1");
        await GoneAsync(1);
    }

    [Fact]
    public async Task Whoever_does_not_fetch_answers_is_hung_up_on_and_the_others_are_answered()
    {
        await using var slow = await ConnectAsync();
        await using var good = await ConnectAsync();
        // Asked for and never read: the line fills up.
        var asking = Task.Run(async () =>
        {
            for (var i = 0; i < 2_000_000; i++)
            {
                await slow.SendAsync("*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?;*IDN?\n");
            }
        }, TestContext.Current.CancellationToken);
        for (var i = 0; i < 50; i++)
        {
            (await good.AskAsync("*OPC?")).ShouldBe("1");
        }
        await Should.ThrowAsync<IOException>(asking);
        (await good.AskAsync("*OPC?")).ShouldBe("1");
    }

    [Fact]
    public async Task Two_hundred_clients_of_garbage_lose_no_answer_of_a_good_one()
    {
        using var over = new CancellationTokenSource();
        var bad = await Task.WhenAll(Enumerable.Range(0, 200).Select(_ => ConnectAsync()));
        var sent = 0L;
        var noise = bad.Select((client, i) => Task.Run(async () =>
        {
            var chance = new Random(i);
            var bytes = new byte[64];
            while (!over.IsCancellationRequested)
            {
                chance.NextBytes(bytes);
                bytes[chance.Next(64)] = (byte)'\n';
                await client.Stream.WriteAsync(bytes, over.Token);
                Interlocked.Increment(ref sent);
            }
        })).ToList();
        await using var good = await ConnectAsync();
        for (var i = 0; i < 200; i++)
        {
            (await good.AskAsync($"*OPC?;UNIT:PRES {(i % 2 == 0 ? "BAR" : "PSI")};PRES?")).ShouldBe($"1;{(i % 2 == 0 ? "BAR" : "PSI")}");
        }
        Interlocked.Read(ref sent).ShouldBeGreaterThan(1000);
        (await good.AskAsync("SYST:ERR?")).ShouldStartWith("0,");
        await over.CancelAsync();
        await Task.WhenAny(Task.WhenAll(noise));
        foreach (var client in bad)
        {
            client.Reset();
        }
        await GoneAsync(1);
    }

    [Fact]
    public async Task More_clients_than_it_takes_are_hung_up_on_and_the_first_stay()
    {
        var all = await Task.WhenAll(Enumerable.Range(0, DeviceServer.MostClients).Select(_ => ConnectAsync()));
        (await all[^1].AskAsync("*OPC?")).ShouldBe("1");
        await using var more = await ConnectAsync();
        (await more.AnswerOrNothingAsync("*OPC?")).ShouldBeEmpty();
        (await all[0].AskAsync("*OPC?")).ShouldBe("1");
        foreach (var client in all)
        {
            await client.DisposeAsync();
        }
    }

    [Theory]
    [InlineData("DROP", "")]
    [InlineData("GARB", "\u00ff?7#:~5")]
    public async Task Trouble_is_made_when_asked_for_and_can_be_ended(string trouble, string answer)
    {
        await using var client = await ConnectAsync();
        await using var other = await ConnectAsync();
        await client.SendAsync($"SIM:TRO {trouble}\n");
        (await client.AskAsync("SIM:TRO?")).ShouldBe(trouble);
        (await client.AskAsync("*OPC?")).ShouldBe(answer);
        await other.SendAsync("SIM:TRO NONE\n");
        (await other.AskAsync("*OPC?")).ShouldBe("1");
    }
}
