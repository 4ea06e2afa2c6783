using System.Globalization;
using System.Net.Sockets;
using System.Runtime.InteropServices;
using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Devices;
using Zandrik.Instruments.Protocol;

// Three simulated instruments on one simulated engine, each on a port of loopback. docs/instruments.md says how to talk to them.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.InvariantCulture;

const int FirstPort = 5151;
var first = FirstPort;
if (args is ["--port", var port])
{
    if (!int.TryParse(port, NumberStyles.None, CultureInfo.InvariantCulture, out first) || first is < 1 or > 65533)
    {
        await Console.Error.WriteLineAsync($"--port takes a number from 1 to 65533, not '{port}': the gauge has it, the leak-down tester and the recorder the next two.");
        return 2;
    }
}
else if (args.Length > 0)
{
    await Console.Error.WriteLineAsync($"Zandrik.Instruments [--port N]: a compression gauge on port N ({FirstPort}), a leak-down tester on the next, a clamp recorder on the one after.");
    return args is ["--help"] ? 0 : 2;
}

var bench = new SimulatedBench(TimeProvider.System);
var servers = new List<DeviceServer>();
Device[] devices = [new CompressionGauge(bench), new LeakTester(bench), new ClampRecorder(bench, TimeProvider.System)];
try
{
    foreach (var device in devices)
    {
        servers.Add(DeviceServer.Start(device, first + servers.Count));
    }
}
catch (SocketException taken)
{
    await Console.Error.WriteLineAsync($"Port {first + servers.Count} cannot be opened ({taken.Message}). Start with --port and another number.");
    return 1;
}
await Console.Out.WriteLineAsync($"Simulated instruments: compression gauge 127.0.0.1:{first}, leak-down tester 127.0.0.1:{first + 1}, clamp recorder 127.0.0.1:{first + 2}");

var stopped = new TaskCompletionSource();
using var term = PosixSignalRegistration.Create(PosixSignal.SIGTERM, End);
using var interrupt = PosixSignalRegistration.Create(PosixSignal.SIGINT, End);
await stopped.Task;
foreach (var server in servers)
{
    await server.DisposeAsync();
}
return 0;

void End(PosixSignalContext signal)
{
    signal.Cancel = true;
    stopped.TrySetResult();
}
