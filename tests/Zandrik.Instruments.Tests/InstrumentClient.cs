using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Zandrik.Instruments.Tests;

/// <summary>The other end of a line: sends what it is told, byte by byte where that matters, and reads what comes.</summary>
public sealed class InstrumentClient : IAsyncDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    private readonly TcpClient tcp = new() { NoDelay = true };

    public NetworkStream Stream => tcp.GetStream();

    public static async Task<InstrumentClient> ConnectAsync(IPEndPoint to)
    {
        var client = new InstrumentClient();
        await client.tcp.ConnectAsync(to, TestContext.Current.CancellationToken);
        return client;
    }

    public ValueTask DisposeAsync()
    {
        tcp.Dispose();
        return ValueTask.CompletedTask;
    }

    public async Task SendAsync(string text) => await Stream.WriteAsync(Encoding.Latin1.GetBytes(text), TestContext.Current.CancellationToken);

    public async Task<string> AskAsync(string line)
    {
        await SendAsync(line + "\n");
        return await LineAsync();
    }

    /// <summary>The answer; empty where the other end hung up.</summary>
    public async Task<string> AnswerOrNothingAsync(string line)
    {
        try
        {
            return await AskAsync(line);
        }
        catch (IOException)
        {
            return "";
        }
    }

    /// <summary>Hangs up at once: what is on its way is thrown away.</summary>
    public void Reset()
    {
        tcp.Client.LingerState = new LingerOption(true, 0);
        tcp.Client.Dispose();
        tcp.Dispose();
    }

    public async Task<double> FigureAsync(string line) => double.Parse(await AskAsync(line), CultureInfo.InvariantCulture);

    /// <summary>The next line, without its end; empty where the other end hung up.</summary>
    public async Task<string> LineAsync()
    {
        var line = new StringBuilder();
        for (var b = await ByteAsync(); b is not null and not (byte)'\n'; b = await ByteAsync())
        {
            line.Append((char)b);
        }
        return line.ToString();
    }

    /// <summary>A block of floats behind its head, and the end of its line.</summary>
    public async Task<float[]> BlockAsync(string line)
    {
        await SendAsync(line + "\n");
        (await ByteAsync()).ShouldBe((byte)'#');
        var digits = await ByteAsync() - '0' ?? 0;
        var count = "";
        for (var i = 0; i < digits; i++)
        {
            count += (char)(await ByteAsync() ?? 0);
        }
        var bytes = new byte[int.Parse(count, CultureInfo.InvariantCulture)];
        await Stream.ReadExactlyAsync(bytes, TestContext.Current.CancellationToken);
        (await ByteAsync()).ShouldBe((byte)'\n');
        return [.. Enumerable.Range(0, bytes.Length / 4).Select(i => BitConverter.ToSingle(bytes, 4 * i))];
    }

    private async Task<byte?> ByteAsync()
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(TestContext.Current.CancellationToken);
        patience.CancelAfter(Patience);
        var one = new byte[1];
        return await Stream.ReadAsync(one, patience.Token) == 1 ? one[0] : null;
    }
}

/// <summary>A clock that stands until it is moved.</summary>
public sealed class HandClock : TimeProvider
{
    private long ticks;

    public override long TimestampFrequency => TimeSpan.TicksPerSecond;

    public override long GetTimestamp() => ticks;

    public void Advance(double seconds) => ticks += (long)(seconds * TimeSpan.TicksPerSecond);
}
