using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Devices;
using Zandrik.Instruments.Protocol;
using Zandrik.Web.Instruments;

namespace Zandrik.Web.Tests.Instruments;

/// <summary>An instrument on a serial line: the same dialogue and the same troubles as over the network.</summary>
public sealed class SerialLineTests
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public async Task It_asks_tells_and_fetches_blocks_whose_bytes_are_not_text()
    {
        await using var server = DeviceServer.Start(new ClampRecorder(new SimulatedBench(TimeProvider.System), TimeProvider.System), 0);
        using var cable = new SerialCable(server.Address.Port);
        await using var line = await OpenAsync(cable);
        (await line.AskAsync("*IDN?", Cancel)).ShouldContain("clamp recorder");
        await line.DoAsync("ACQ:RATE 1000", Cancel);
        (await line.FigureAsync("ACQ:RATE?", Cancel)).ShouldBe(1000);
        await line.DoAsync("ACQ:STAR", Cancel);
        await line.DoAsync("SIM:CRAN", Cancel);
        await line.DoAsync("ACQ:STOP", Cancel);
        await using var direct = await InstrumentLine.OpenAsync(InstrumentAddress.Read($"127.0.0.1:{server.Address.Port}").Address!, Cancel);
        // A line that is not raw turns one byte into another, or swallows it.
        (await line.BlockAsync("TRAC:CURR?", Cancel)).ShouldBe(await direct.BlockAsync("TRAC:CURR?", Cancel));
        (await Should.ThrowAsync<LinkTroubleException>(() => line.DoAsync("ACQ:RATE 1 MHZ", Cancel))).State.ShouldBe(LinkState.Refuses);
    }

    [Theory]
    [InlineData("DROP", LinkState.Lost)]
    [InlineData("GARB", LinkState.Garbage)]
    [InlineData("LATE", LinkState.Late)]
    [InlineData("SIL", LinkState.TimedOut)]
    public async Task Its_troubles_have_the_same_names(string trouble, LinkState state)
    {
        await using var server = DeviceServer.Start(new CompressionGauge(new SimulatedBench(TimeProvider.System)), 0);
        using var cable = new SerialCable(server.Address.Port);
        await using var line = await OpenAsync(cable);
        await line.TellAsync($"SIM:TRO {trouble}", Cancel);
        (await Should.ThrowAsync<LinkTroubleException>(() => line.FigureAsync("MEAS:PRES?", Cancel))).State.ShouldBe(state);
    }

    // The shop's list takes the names of real lines only; past it, a line is a line.
    private static Task<InstrumentLine> OpenAsync(SerialCable cable) => InstrumentLine.OpenAsync(new InstrumentAddress(null, 0, cable.Name, 9600), Cancel);
}
