using Zandrik.Core.Records;

namespace Zandrik.Core.Compression;

/// <summary>What was done with the oil of a wet test, in order.</summary>
/// <param name="Item"><see cref="WetGuard.Oiled"/>, <see cref="WetGuard.Spun"/> or <see cref="WetGuard.Cleared"/>.</param>
/// <param name="Cylinder">The oiled cylinder; absent otherwise.</param>
/// <param name="At">When.</param>
public sealed record OilEvent(string Item, int? Cylinder, DateTimeOffset At);

/// <summary>
/// Liquid does not compress: a cylinder with more oil in it than room bends its rod. So on every engine the crank is
/// spun with the plug hole open before the gauge goes on, and a wet figure is refused until somebody says that it was.
/// </summary>
public sealed class WetGuard
{
    /// <summary>Oil was put into a cylinder.</summary>
    public const string Oiled = "oiled";

    /// <summary>The engine was spun with the oiled holes open.</summary>
    public const string Spun = "spun";

    /// <summary>The engine was run until the oil was burnt off.</summary>
    public const string Cleared = "cleared";

    private readonly Dictionary<int, DateTimeOffset> oiled = [];
    private readonly HashSet<int> spun = [];

    private WetGuard()
    {
    }

    /// <summary>Cylinders that hold test oil: oiled, and not run and cleared since.</summary>
    public IReadOnlyList<int> HoldOil => [.. oiled.Keys.Order()];

    /// <summary>Cylinders that were oiled and not spun with the hole open since.</summary>
    public IReadOnlyList<int> NotSpun => [.. oiled.Keys.Where(c => !spun.Contains(c)).Order()];

    /// <summary>When a cylinder was oiled; absent for one that holds no oil.</summary>
    public DateTimeOffset? OiledAt(int cylinder) => oiled.TryGetValue(cylinder, out var at) ? at : null;

    /// <summary>True when the hole was spun open after the oil went in.</summary>
    public bool WasSpun(int cylinder) => spun.Contains(cylinder);

    /// <summary>How the cylinders of a job stand, from what was done and from wet readings that came from elsewhere.</summary>
    /// <param name="record">The job: wet readings of an imported record mean that oil went in.</param>
    /// <param name="events">What was done, oldest first.</param>
    public static WetGuard Of(TestRecord record, IReadOnlyList<OilEvent> events)
    {
        var guard = new WetGuard();
        // Readings that came with a record: nobody said here that oil went in, so the reading itself says it.
        var first = events.Count > 0 ? events[0].At : (DateTimeOffset?)null;
        foreach (var test in (record.Tests ?? []).OfType<WetCompressionTest>())
        {
            foreach (var reading in (test.Readings ?? []).Where(r => r.Value is not null && r.SupersededBy is null))
            {
                var at = reading.At ?? test.At ?? DateTimeOffset.UnixEpoch;
                if (first is null || at < first)
                {
                    guard.oiled[reading.Cylinder] = at;
                    guard.spun.Add(reading.Cylinder);
                }
            }
        }
        foreach (var e in events)
        {
            switch (e)
            {
                case { Item: Oiled, Cylinder: { } c }:
                    guard.oiled[c] = e.At;
                    guard.spun.Remove(c);
                    break;
                case { Item: Spun }:
                    guard.spun.UnionWith(guard.oiled.Keys);
                    break;
                case { Item: Cleared }:
                    guard.oiled.Clear();
                    guard.spun.Clear();
                    break;
            }
        }
        return guard;
    }

    /// <summary>Why a wet figure of a cylinder is refused as things stand; absent when it may be kept.</summary>
    public string? RefusesReading(int cylinder) =>
        OiledAt(cylinder) is null ? $"No oil is noted in cylinder {cylinder}: put it in and say so first."
        : !WasSpun(cylinder) ? "Spin it with the hole open first, rag over it, face away: liquid does not compress and bends rods."
        : null;
}
