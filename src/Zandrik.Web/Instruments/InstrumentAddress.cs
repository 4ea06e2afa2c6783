using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text.RegularExpressions;

namespace Zandrik.Web.Instruments;

/// <summary>
/// Where an instrument is: a port of this machine or of the workshop's own network, or a serial line. Nothing else, so that
/// the server cannot be made to call elsewhere: no names that somebody else resolves, no address of the open network.
/// </summary>
/// <param name="Host">The machine; absent for a serial line.</param>
/// <param name="Port">Its port; 0 for a serial line.</param>
/// <param name="Line">The serial line; absent for a machine.</param>
/// <param name="Baud">Its speed, baud; 0 for a machine.</param>
public sealed partial record InstrumentAddress(IPAddress? Host, int Port, string? Line, int Baud)
{
    private const int UsualBaud = 9600;

    private static readonly int[] Bauds = [1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200];

    /// <summary>How an address is written, for whoever is asked for one.</summary>
    public const string Example = "192.168.1.40:5025, or /dev/ttyUSB0 9600";

    /// <summary>Reads one.</summary>
    /// <param name="text">As it is typed: <c>192.168.1.40:5025</c>, <c>localhost:5151</c>, <c>[fd00::5]:5025</c>, <c>/dev/ttyUSB0 9600</c>.</param>
    /// <returns>The address, or what is wrong with it: exactly one of the two.</returns>
    public static (InstrumentAddress? Address, string? Problem) Read(string? text)
    {
        var typed = (text ?? "").Trim();
        if (typed.Length is 0 or > 100)
        {
            return (null, $"Give the address of the instrument: {Example}.");
        }
        if (typed.StartsWith('/'))
        {
            var parts = typed.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            if (!SerialLine().IsMatch(parts[0]) || parts[0].Contains("..", StringComparison.Ordinal))
            {
                return (null, "A serial line is written like /dev/ttyUSB0 or /dev/ttyS0.");
            }
            var baud = UsualBaud;
            return parts.Length > 2 || (parts.Length == 2 && (!int.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out baud) || !Bauds.Contains(baud)))
                ? (null, $"Give its speed behind it: one of {string.Join(", ", Bauds)} baud.")
                : (new(null, 0, parts[0], baud), null);
        }
        var colon = typed.LastIndexOf(':');
        if (colon <= 0 || !int.TryParse(typed[(colon + 1)..], NumberStyles.None, CultureInfo.InvariantCulture, out var port) || port is < 1 or > 65535)
        {
            return (null, $"Give address and port with a colon between: {Example}.");
        }
        var host = typed[..colon];
        var address = host.Equals("localhost", StringComparison.OrdinalIgnoreCase) ? IPAddress.Loopback : IPAddress.TryParse(host.Trim('[', ']'), out var read) ? read : null;
        return address is null ? (null, "Give the instrument's address in numbers, as in 192.168.1.40: names are not looked up.")
            : !IsNear(address) ? (null, "Instruments are called on this machine and on the workshop's own network only: 127.…, 10.…, 172.16 to 172.31, 192.168.…")
            : (new(address, port, null, 0), null);
    }

    /// <summary>As it is kept and shown.</summary>
    public override string ToString() => Line is { } line ? $"{line} {Baud}" : new IPEndPoint(Host!, Port).ToString();

    private static bool IsNear(IPAddress address)
    {
        // An address of the older kind in the newer one's clothes is what it is inside.
        address = address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address;
        if (IPAddress.IsLoopback(address))
        {
            return true;
        }
        var b = address.GetAddressBytes();
        return address.AddressFamily == AddressFamily.InterNetwork
            ? b[0] == 10 || (b[0] == 172 && b[1] is >= 16 and <= 31) || (b[0] == 192 && b[1] == 168)
            : (b[0] & 0xFE) == 0xFC;
    }

    [GeneratedRegex(@"^/dev/(tty[A-Za-z]+[0-9]+|serial/by-id/[\w.:-]+)$")]
    private static partial Regex SerialLine();
}
