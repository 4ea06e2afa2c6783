using System.Net;
using System.Net.Sockets;
using System.Text;
using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Devices;
using Zandrik.Instruments.Protocol;
using Zandrik.Web.Instruments;

namespace Zandrik.Web.Tests.Instruments;

/// <summary>The line to an instrument: what it may be, and every way in which it fails.</summary>
public sealed class InstrumentLineTests
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Theory]
    [InlineData("127.0.0.1:5151", "127.0.0.1:5151")]
    [InlineData(" localhost:5151 ", "127.0.0.1:5151")]
    [InlineData("10.1.2.3:5025", "10.1.2.3:5025")]
    [InlineData("172.31.0.9:1", "172.31.0.9:1")]
    [InlineData("192.168.1.40:65535", "192.168.1.40:65535")]
    [InlineData("[::1]:5025", "[::1]:5025")]
    [InlineData("[fd00::5]:5025", "[fd00::5]:5025")]
    [InlineData("/dev/ttyUSB0", "/dev/ttyUSB0 9600")]
    [InlineData("/dev/ttyS1 115200", "/dev/ttyS1 115200")]
    public void Near_addresses_are_taken(string typed, string kept)
    {
        var (address, problem) = InstrumentAddress.Read(typed);
        problem.ShouldBeNull();
        address!.ToString().ShouldBe(kept);
        InstrumentAddress.Read(kept).Address.ShouldBe(address);
    }

    [Theory]
    [InlineData("")]
    [InlineData("8.8.8.8:80")]
    [InlineData("172.32.0.1:80")]
    [InlineData("192.169.0.1:80")]
    // The address at which clouds hand out their keys is no instrument.
    [InlineData("169.254.169.254:80")]
    [InlineData("[::ffff:8.8.8.8]:80")]
    [InlineData("[2001:db8::1]:80")]
    [InlineData("0.0.0.0:80")]
    [InlineData("gauge.example:80")]
    [InlineData("127.0.0.1")]
    [InlineData("127.0.0.1:0")]
    [InlineData("127.0.0.1:70000")]
    [InlineData("/etc/passwd")]
    [InlineData("/dev/tty../../sda 9600")]
    [InlineData("/dev/ttyUSB0 1234")]
    [InlineData("/dev/ttyUSB0 9600 8")]
    public void Others_are_refused_with_what_to_do(string typed)
    {
        var (address, problem) = InstrumentAddress.Read(typed);
        address.ShouldBeNull();
        problem.ShouldNotBeNullOrWhiteSpace();
    }

    [Fact]
    public async Task A_line_asks_tells_and_fetches_blocks()
    {
        await using var server = DeviceServer.Start(new ClampRecorder(new SimulatedBench(TimeProvider.System), TimeProvider.System), 0);
        await using var line = await OpenAsync(server.Address.Port);
        (await line.AskAsync("*IDN?", Cancel)).ShouldContain("clamp recorder");
        await line.DoAsync("ACQ:RATE 1000", Cancel);
        (await line.FigureAsync("ACQ:RATE?", Cancel)).ShouldBe(1000);
        await line.DoAsync("ACQ:STAR", Cancel);
        await line.DoAsync("ACQ:STOP", Cancel);
        (await line.BlockAsync("TRAC:CURR?", Cancel)).ShouldNotBeEmpty();
        (await TroubleAsync(() => line.DoAsync("ACQ:RATE 1 MHZ", Cancel))).State.ShouldBe(LinkState.Refuses);
    }

    [Fact]
    public async Task Nobody_there_is_said_to_be_so()
    {
        var free = new TcpListener(IPAddress.Loopback, 0);
        free.Start();
        var port = ((IPEndPoint)free.LocalEndpoint).Port;
        free.Stop();
        (await TroubleAsync(() => OpenAsync(port))).State.ShouldBe(LinkState.NotFound);
        (await TroubleAsync(() => InstrumentLine.OpenAsync(InstrumentAddress.Read("/dev/ttyUSB99").Address!, Cancel))).State.ShouldBe(LinkState.NotFound);
    }

    [Theory]
    [InlineData("DROP", LinkState.Lost)]
    [InlineData("GARB", LinkState.Garbage)]
    [InlineData("LATE", LinkState.Late)]
    [InlineData("SIL", LinkState.TimedOut)]
    public async Task Each_trouble_of_a_line_has_a_name_and_a_way_on(string trouble, LinkState state)
    {
        await using var server = DeviceServer.Start(new CompressionGauge(new SimulatedBench(TimeProvider.System)), 0);
        await using var line = await OpenAsync(server.Address.Port);
        await line.TellAsync($"SIM:TRO {trouble}", Cancel);
        var told = await TroubleAsync(() => line.FigureAsync("MEAS:PRES?", Cancel));
        told.State.ShouldBe(state);
        told.Says.ShouldMatch("[Tt]yp(e it|ing works)");
    }

    [Theory]
    [InlineData("9.91E37\n")]
    [InlineData("\n")]
    [InlineData("12 psi\n")]
    [InlineData("#14\n")]
    public async Task What_is_no_figure_is_no_figure(string answer)
    {
        using var server = new Scripted(answer);
        await using var line = await OpenAsync(server.Port);
        (await TroubleAsync(() => line.FigureAsync("MEAS:PRES?", Cancel))).State.ShouldBe(LinkState.Garbage);
    }

    [Theory]
    [InlineData("12.5\n")]
    [InlineData("#0\n")]
    [InlineData("#15abcde\n")]
    [InlineData("#9999999999")]
    public async Task What_is_no_block_is_no_block(string answer)
    {
        using var server = new Scripted(answer);
        await using var line = await OpenAsync(server.Port);
        (await TroubleAsync(() => line.BlockAsync("TRAC:PRES?", Cancel))).State.ShouldBe(LinkState.Garbage);
    }

    private static Task<InstrumentLine> OpenAsync(int port) => InstrumentLine.OpenAsync(InstrumentAddress.Read($"127.0.0.1:{port}").Address!, Cancel);

    private static Task<LinkTroubleException> TroubleAsync(Func<Task> act) => Should.ThrowAsync<LinkTroubleException>(act);

    // Answers every line the same.
    private sealed class Scripted : IDisposable
    {
        private readonly TcpListener listener = new(IPAddress.Loopback, 0);

        public Scripted(string answer)
        {
            listener.Start();
            _ = Task.Run(async () =>
            {
                using var client = await listener.AcceptTcpClientAsync();
                var stream = client.GetStream();
                var buffer = new byte[256];
                while (await stream.ReadAsync(buffer) > 0)
                {
                    await stream.WriteAsync(Encoding.Latin1.GetBytes(answer));
                }
            });
        }

        public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

        public void Dispose() => listener.Dispose();
    }
}
