using System.Globalization;
using System.IO.Ports;
using System.Net.Sockets;
using System.Text;

namespace Zandrik.Web.Instruments;

/// <summary>
/// A line to an instrument: a command goes out, an answer comes back, or it is known why not. An answer that was not waited
/// for to its end would be taken for the next one's; so after any trouble the line is closed.
/// </summary>
public sealed class InstrumentLine : IAsyncDisposable
{
    /// <summary>How long an answer may take.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    // So much longer it is waited to tell a late answer from none.
    private static readonly TimeSpan Grace = TimeSpan.FromSeconds(2);

    private const int LongestAnswer = 4096, LongestBlock = 8 * 1024 * 1024;

    private readonly Stream stream;
    private readonly IDisposable owner;
    private readonly byte[] buffer = new byte[16 * 1024];
    private int from, to;

    private InstrumentLine(Stream stream, IDisposable owner) => (this.stream, this.owner) = (stream, owner);

    /// <summary>Opens a line.</summary>
    /// <param name="address">Where.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="LinkTroubleException">Nobody answers there.</exception>
    public static async Task<InstrumentLine> OpenAsync(InstrumentAddress address, CancellationToken cancel)
    {
        if (address.Line is { } name)
        {
            var port = new SerialPort(name, address.Baud) { NewLine = "\n", ReadTimeout = (int)Patience.TotalMilliseconds, WriteTimeout = (int)Patience.TotalMilliseconds };
            try
            {
                port.Open();
                return new InstrumentLine(port.BaseStream, port);
            }
            catch (Exception none) when (none is IOException or UnauthorizedAccessException or InvalidOperationException)
            {
                port.Dispose();
                throw new LinkTroubleException(LinkState.NotFound, $"{name}: {none.Message}");
            }
        }
        var client = new TcpClient(address.Host!.AddressFamily) { NoDelay = true };
        try
        {
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            patience.CancelAfter(Patience);
            await client.ConnectAsync(address.Host, address.Port, patience.Token);
            return new InstrumentLine(client.GetStream(), client);
        }
        catch (Exception none) when (none is SocketException || (none is OperationCanceledException && !cancel.IsCancellationRequested))
        {
            client.Dispose();
            throw new LinkTroubleException(LinkState.NotFound, $"{address}: {(none is SocketException s ? s.Message : "no connection in time")}");
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await stream.DisposeAsync();
        owner.Dispose();
    }

    /// <summary>Tells it something that is not answered.</summary>
    public async Task TellAsync(string command, CancellationToken cancel)
    {
        try
        {
            await stream.WriteAsync(Encoding.ASCII.GetBytes(command + "\n"), cancel);
        }
        catch (Exception broken) when (broken is IOException or SocketException or ObjectDisposedException)
        {
            throw new LinkTroubleException(LinkState.Lost, broken.Message);
        }
    }

    /// <summary>Asks it something.</summary>
    /// <returns>The answer without its line end.</returns>
    /// <exception cref="LinkTroubleException">None came, or it came too late, or it is none.</exception>
    public async Task<string> AskAsync(string question, CancellationToken cancel)
    {
        await TellAsync(question, cancel);
        return await WaitedForAsync(question, async token =>
        {
            var answer = new StringBuilder();
            while (true)
            {
                var b = await NextAsync(token);
                if (b == '\n')
                {
                    return answer.ToString().TrimEnd('\r');
                }
                if (b is < (byte)' ' and not (byte)'\r' and not (byte)'\t' or > (byte)'~' || answer.Length > LongestAnswer)
                {
                    throw new LinkTroubleException(LinkState.Garbage, $"after {question}");
                }
                answer.Append((char)b);
            }
        }, cancel);
    }

    /// <summary>Asks for a figure.</summary>
    public async Task<double> FigureAsync(string question, CancellationToken cancel)
    {
        var answer = await AskAsync(question, cancel);
        // The standard's 9.91E37 is no figure.
        return double.TryParse(answer, NumberStyles.Float, CultureInfo.InvariantCulture, out var figure) && Math.Abs(figure) < 9e36
            ? figure : throw new LinkTroubleException(LinkState.Garbage, $"\"{(answer.Length > 30 ? answer[..30] + "…" : answer)}\" after {question}");
    }

    /// <summary>Asks for a block of figures.</summary>
    public async Task<float[]> BlockAsync(string question, CancellationToken cancel)
    {
        await TellAsync(question, cancel);
        return await WaitedForAsync(question, async token =>
        {
            LinkTroubleException Garbage() => new(LinkState.Garbage, $"no block after {question}");
            if (await NextAsync(token) != '#' || await NextAsync(token) is not (>= (byte)'1' and <= (byte)'9' and var digits))
            {
                throw Garbage();
            }
            var count = 0L;
            for (var i = 0; i < digits - '0'; i++)
            {
                count = await NextAsync(token) is >= (byte)'0' and <= (byte)'9' and var d ? 10 * count + d - '0' : throw Garbage();
            }
            if (count > LongestBlock || count % sizeof(float) != 0)
            {
                throw Garbage();
            }
            var bytes = new byte[count];
            for (var i = 0; i < bytes.Length; i++)
            {
                bytes[i] = from < to ? buffer[from++] : await NextAsync(token);
            }
            while (await NextAsync(token) != '\n')
            {
            }
            var figures = new float[count / sizeof(float)];
            Buffer.BlockCopy(bytes, 0, figures, 0, bytes.Length);
            return figures.All(float.IsFinite) ? figures : throw Garbage();
        }, cancel);
    }

    /// <summary>Does something, and asks whether it could be done.</summary>
    /// <exception cref="LinkTroubleException">It says that it could not.</exception>
    public async Task DoAsync(string command, CancellationToken cancel)
    {
        await TellAsync(command, cancel);
        var said = await AskAsync("SYST:ERR?", cancel);
        if (!int.TryParse(said.Split(',')[0], NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var code))
        {
            throw new LinkTroubleException(LinkState.Garbage, $"\"{said}\" after SYST:ERR?");
        }
        if (code != 0)
        {
            throw new LinkTroubleException(LinkState.Refuses, $"{command}: {said.Split(',', 2)[^1].Trim('"')}");
        }
    }

    private static async Task<T> WaitedForAsync<T>(string question, Func<CancellationToken, Task<T>> read, CancellationToken cancel)
    {
        using var longest = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var began = TimeProvider.System.GetTimestamp();
        longest.CancelAfter(Patience + Grace);
        try
        {
            var answer = await read(longest.Token);
            var took = TimeProvider.System.GetElapsedTime(began);
            return took <= Patience ? answer : throw new LinkTroubleException(LinkState.Late, string.Create(CultureInfo.InvariantCulture, $"{took.TotalSeconds:0.0} s"));
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            throw new LinkTroubleException(LinkState.TimedOut, $"nothing after {question}");
        }
    }

    private async ValueTask<byte> NextAsync(CancellationToken cancel)
    {
        if (from == to)
        {
            try
            {
                (from, to) = (0, await stream.ReadAsync(buffer, cancel));
            }
            catch (Exception broken) when (broken is IOException or SocketException or ObjectDisposedException)
            {
                throw new LinkTroubleException(LinkState.Lost, broken.Message);
            }
            if (to == 0)
            {
                throw new LinkTroubleException(LinkState.Lost, "it hung up");
            }
        }
        return buffer[from++];
    }
}
