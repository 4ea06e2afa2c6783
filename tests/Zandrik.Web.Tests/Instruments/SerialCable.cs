using System.Net.Sockets;
using System.Runtime.InteropServices;
using System.Text;

namespace Zandrik.Web.Tests.Instruments;

/// <summary>
/// A serial line without an adapter: a pair of pseudo-terminals as the kernel has them. This end passes on what comes to an
/// instrument on a port, and back what it answers; when the instrument hangs up, the cable is out.
/// </summary>
internal sealed partial class SerialCable : IDisposable
{
    private const int ReadWrite = 2, NoTerminal = 0x100, Readable = 1;

    private readonly int end;
    private readonly TcpClient instrument = new();
    private readonly Task running;
    private volatile bool over;

    public SerialCable(int port)
    {
        end = Done(OpenPair(ReadWrite | NoTerminal));
        Done(Grant(end));
        Done(Unlock(end));
        var name = new byte[64];
        Done(NameOf(end, name, name.Length));
        Name = Encoding.ASCII.GetString(name).TrimEnd('\0');
        instrument.Connect("127.0.0.1", port);
        running = Task.Factory.StartNew(Pass, CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
    }

    /// <summary>What the server opens.</summary>
    public string Name { get; }

    public void Dispose()
    {
        over = true;
        running.Wait();
        instrument.Dispose();
    }

    // Both ways on one thread: an end that another thread reads from cannot be pulled out.
    private void Pass()
    {
        var buffer = new byte[4096];
        try
        {
            var stream = instrument.GetStream();
            while (!over)
            {
                var watched = new Watched { End = end, For = Readable };
                if (Poll(ref watched, 1, 5) > 0)
                {
                    var count = (int)Read(end, buffer, buffer.Length);
                    if (count > 0)
                    {
                        stream.Write(buffer, 0, count);
                    }
                }
                // Readable and nothing there: it has hung up.
                while (instrument.Client.Poll(0, SelectMode.SelectRead))
                {
                    var count = stream.Read(buffer);
                    if (count == 0)
                    {
                        return;
                    }
                    for (var sent = 0; sent < count;)
                    {
                        sent += (int)Write(end, buffer.AsSpan(sent).ToArray(), count - sent) is > 0 and var some ? some : throw new IOException("the other end is closed");
                    }
                }
            }
        }
        catch (Exception broken) when (broken is IOException or SocketException)
        {
            // The instrument is gone.
        }
        finally
        {
            _ = Close(end);
        }
    }

    private static int Done(int answer) => answer >= 0 ? answer : throw new IOException($"no pseudo-terminal: {Marshal.GetLastPInvokeErrorMessage()}");

    [StructLayout(LayoutKind.Sequential)]
    private struct Watched
    {
        public int End;
        public short For;
        public short Seen;
    }

    [LibraryImport("libc", EntryPoint = "posix_openpt", SetLastError = true)]
    private static partial int OpenPair(int flags);

    [LibraryImport("libc", EntryPoint = "grantpt", SetLastError = true)]
    private static partial int Grant(int end);

    [LibraryImport("libc", EntryPoint = "unlockpt", SetLastError = true)]
    private static partial int Unlock(int end);

    [LibraryImport("libc", EntryPoint = "ptsname_r", SetLastError = true)]
    private static partial int NameOf(int end, [Out] byte[] name, nint length);

    [LibraryImport("libc", EntryPoint = "poll", SetLastError = true)]
    private static partial int Poll(ref Watched one, nuint count, int milliseconds);

    [LibraryImport("libc", EntryPoint = "read", SetLastError = true)]
    private static partial nint Read(int end, [Out] byte[] buffer, nint length);

    [LibraryImport("libc", EntryPoint = "write", SetLastError = true)]
    private static partial nint Write(int end, byte[] buffer, nint length);

    [LibraryImport("libc", EntryPoint = "close", SetLastError = true)]
    private static partial int Close(int end);
}
