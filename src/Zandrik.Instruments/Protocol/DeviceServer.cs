using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Zandrik.Instruments.Protocol;

/// <summary>
/// A device on a port. Each client has its own reader, queue and time: one that sends nonsense, half a line, or does not
/// fetch its answers costs the others nothing but its share of the processor, and less of that the longer it goes on.
/// </summary>
public sealed class DeviceServer : IAsyncDisposable
{
    /// <summary>Longest line that is taken, bytes.</summary>
    public const int LongestLine = 1024;

    /// <summary>Most clients at once; a further one is hung up on.</summary>
    public const int MostClients = 256;

    // An answer that is not fetched in this time: nobody is there.
    private static readonly TimeSpan Fetched = TimeSpan.FromSeconds(5);

    // A client that said nothing for this long is gone.
    private static readonly TimeSpan Idle = TimeSpan.FromMinutes(30);

    private static readonly TimeSpan LateBy = TimeSpan.FromSeconds(2.5);

    // So many lines that nobody understands are slips; after more each reading of the line costs the client time.
    private const int Slips = 8;

    private readonly Device device;
    private readonly TcpListener listener;
    private readonly CancellationTokenSource stopping = new();
    private readonly ConcurrentDictionary<Task, TcpClient> clients = new();
    private readonly TimeProvider clock;
    private readonly Task accepting;

    private DeviceServer(Device device, TcpListener listener, TimeProvider clock)
    {
        (this.device, this.listener, this.clock) = (device, listener, clock);
        accepting = AcceptAsync();
    }

    /// <summary>Where it listens.</summary>
    public IPEndPoint Address => (IPEndPoint)listener.LocalEndpoint;

    /// <summary>How many clients there are.</summary>
    public int Clients => clients.Count;

    /// <summary>Starts a device on loopback.</summary>
    /// <param name="device">The device.</param>
    /// <param name="port">The port; 0 for any that is free.</param>
    /// <param name="clock">The clock.</param>
    /// <returns>The server; it ends when it is disposed of.</returns>
    /// <exception cref="SocketException">The port is taken.</exception>
    public static DeviceServer Start(Device device, int port, TimeProvider? clock = null)
    {
        var listener = new TcpListener(IPAddress.Loopback, port);
        // Handed on to the clients: what is not read yet waits at whoever sends it, and goes with them.
        listener.Server.ReceiveBufferSize = 8 * LongestLine;
        listener.Start(MostClients);
        return new DeviceServer(device, listener, clock ?? TimeProvider.System);
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await stopping.CancelAsync();
        listener.Stop();
        foreach (var client in clients.Values)
        {
            client.Close();
        }
        await accepting.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        await Task.WhenAll(clients.Keys).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        listener.Dispose();
        stopping.Dispose();
    }

    private async Task AcceptAsync()
    {
        while (!stopping.IsCancellationRequested)
        {
            TcpClient client;
            try
            {
                client = await listener.AcceptTcpClientAsync(stopping.Token);
            }
            catch (Exception over) when (over is OperationCanceledException or SocketException or ObjectDisposedException)
            {
                if (stopping.IsCancellationRequested)
                {
                    return;
                }
                continue;
            }
            if (clients.Count >= MostClients)
            {
                client.Close();
                continue;
            }
            client.NoDelay = true;
            var begun = new TaskCompletionSource();
            var serving = ServeAsync(client, begun.Task);
            clients[serving] = client;
            _ = serving.ContinueWith(t => clients.TryRemove(t, out _), TaskScheduler.Default);
            begun.SetResult();
        }
    }

    private async Task ServeAsync(TcpClient client, Task begun)
    {
        await begun;
        using (client)
        {
            try
            {
                await ServeAsync(client.GetStream());
            }
            catch (Exception gone) when (gone is IOException or SocketException or ObjectDisposedException or OperationCanceledException)
            {
                // Hung up, or not there any more: its line ends with it.
            }
        }
    }

    private async Task ServeAsync(NetworkStream stream)
    {
        var session = new ClientSession();
        var buffer = new byte[LongestLine];
        var (held, skipping) = (0, false);
        while (true)
        {
            using var idle = CancellationTokenSource.CreateLinkedTokenSource(stopping.Token);
            idle.CancelAfter(Idle);
            var read = await stream.ReadAsync(buffer.AsMemory(held), idle.Token);
            if (read == 0)
            {
                return;
            }
            var end = held + read;
            var from = 0;
            for (var i = held; i < end; i++)
            {
                if (buffer[i] != (byte)'\n')
                {
                    continue;
                }
                if (!skipping && !await AnswerAsync(stream, session, Encoding.Latin1.GetString(buffer, from, i - from).TrimEnd('\r')))
                {
                    return;
                }
                (skipping, from) = (false, i + 1);
            }
            held = end - from;
            buffer.AsSpan(from, held).CopyTo(buffer);
            if (held == buffer.Length)
            {
                // The rest of it is thrown away up to its end.
                if (!skipping)
                {
                    session.Add(ScpiError.InputOverrun);
                    session.InARow++;
                }
                (held, skipping) = (0, true);
            }
            await SlowDownAsync(session);
        }
    }

    // False to hang up.
    private async Task<bool> AnswerAsync(NetworkStream stream, ClientSession session, string line)
    {
        var (answer, simulation) = device.Run(session, line);
        if (answer.Length == 0)
        {
            return true;
        }
        switch (simulation ? Trouble.None : device.Trouble)
        {
            case Trouble.Silent:
                return true;
            case Trouble.Drop:
                return false;
            case Trouble.Garbage:
                answer = Encoding.Latin1.GetBytes("\u00ff?7#:~" + line.Length);
                break;
            case Trouble.Late:
                await Task.Delay(LateBy, clock, stopping.Token);
                break;
            default:
                break;
        }
        using var fetched = CancellationTokenSource.CreateLinkedTokenSource(stopping.Token);
        fetched.CancelAfter(Fetched);
        await stream.WriteAsync(new ReadOnlyMemory<byte>([.. answer, (byte)'\n']), fetched.Token);
        return true;
    }

    private Task SlowDownAsync(ClientSession session) =>
        session.InARow <= Slips ? Task.CompletedTask : Task.Delay(TimeSpan.FromMilliseconds(Math.Min(50, session.InARow - Slips)), clock, stopping.Token);
}
