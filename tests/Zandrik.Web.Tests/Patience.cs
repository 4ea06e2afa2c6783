using System.Diagnostics;

namespace Zandrik.Web.Tests;

/// <summary>How long a test waits before it gives up: what is plenty on a quiet machine, longer on one that is slow or busy just then.</summary>
internal static class Patience
{
    private const int Rounds = 100_000_000;

    // What the rounds take on a quiet core of the machine the suite was measured on.
    private const double QuietMs = 200;

    private const double MostPatient = 10;

    /// <summary>True once a wait that began a while ago has had its time; the machine is asked only when it would have been enough on a quiet one.</summary>
    public static bool IsOver(TimeSpan waited, TimeSpan quiet) => waited > quiet && waited > quiet * Slowness();

    /// <summary>How many times slower than quiet the machine is at this moment, from 1 to 10.</summary>
    public static double Slowness()
    {
        var watch = Stopwatch.StartNew();
        var x = 88172645463325252UL;
        for (var i = 0; i < Rounds; i++)
        {
            x ^= x << 13;
            x ^= x >> 7;
            x ^= x << 17;
        }
        return Math.Clamp((x == 0 ? 2 : 1) * watch.Elapsed.TotalMilliseconds / QuietMs, 1, MostPatient);
    }
}
