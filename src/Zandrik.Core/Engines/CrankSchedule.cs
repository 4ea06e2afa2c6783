using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Core.Engines;

/// <summary>Where one cylinder stands on the two turns of the crank.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="AngleDeg">Its firing top dead centre, crank degrees from that of the first of the firing order; 0 to under 720.</param>
public readonly record struct CrankStation(int Cylinder, double AngleDeg);

/// <summary>How far the crank is turned, and to what.</summary>
/// <param name="Cylinder">The cylinder whose firing top dead centre it is turned to.</param>
/// <param name="Degrees">How far, crank degrees, always in the engine's own direction; 0 to under 720, 720 for the same cylinder again on the only cylinder there is.</param>
public readonly record struct CrankTurn(int Cylinder, double Degrees);

/// <summary>
/// The firing order as two turns of the crank: which cylinder comes to its firing top dead centre when, how far
/// it is from one to the next, and which cylinder stands at top dead centre with it, one turn apart.
/// Even firing is 720/N degrees from each cylinder to the next in the firing order; uneven firing goes by the
/// sheet's own angles. Angles are counted in the direction in which the engine runs.
/// </summary>
public sealed class CrankSchedule
{
    /// <summary>Two turns of the crank, degrees: one cycle of a four-stroke engine.</summary>
    public const double Cycle = 720;

    // Sheets give angles in whole or half degrees.
    private const double SamePlace = 0.05;

    private CrankSchedule(IReadOnlyList<CrankStation> stations, Rotation? rotation, bool anglesAssumed)
    {
        Stations = stations;
        Rotation = rotation;
        AnglesAssumed = anglesAssumed;
    }

    /// <summary>The cylinders in firing order.</summary>
    public IReadOnlyList<CrankStation> Stations { get; }

    /// <summary>Which way the crank turns, seen from the front of the engine; absent when the sheet does not say.</summary>
    public Rotation? Rotation { get; }

    /// <summary>True when the sheet gives no angles and even firing is assumed.</summary>
    public bool AnglesAssumed { get; }

    /// <summary>
    /// The schedule of an engine that passes <see cref="EngineRules"/>. An engine of one cylinder needs no firing
    /// order; of any other without one nothing can be said, and the answer is absent.
    /// </summary>
    /// <returns>The schedule; null for an engine of several cylinders without a firing order.</returns>
    public static CrankSchedule? Of(EngineSheet engine)
    {
        var order = engine.FiringOrder ?? (engine.Cylinders == 1 ? [1] : null);
        if (order is null)
        {
            return null;
        }
        var n = order.Count;
        var angles = engine.FiringAngles is { } given && given.Count == n ? given : [.. Enumerable.Range(0, n).Select(k => k * Cycle / n)];
        return new CrankSchedule([.. order.Select((c, k) => new CrankStation(c, angles[k]))], engine.Rotation, engine.FiringAngles is null);
    }

    /// <summary>Where a cylinder stands.</summary>
    /// <exception cref="ArgumentOutOfRangeException">The engine has no such cylinder.</exception>
    /// <returns>Degrees from the first of the firing order, 0 to under 720.</returns>
    public double AngleOf(int cylinder)
    {
        foreach (var station in Stations)
        {
            if (station.Cylinder == cylinder)
            {
                return station.AngleDeg;
            }
        }
        throw new ArgumentOutOfRangeException(nameof(cylinder));
    }

    /// <summary>How far the crank is turned from one cylinder's firing top dead centre to another's; 0 where they fire together.</summary>
    /// <returns>Degrees in the engine's direction, 0 to under 720.</returns>
    public double Degrees(int from, int to) => Forward(AngleOf(from), AngleOf(to));

    /// <summary>The next of the firing order after a cylinder, and how far it is. An engine of one cylinder comes round to itself.</summary>
    /// <returns>The cylinder and the degrees to it, above 0.</returns>
    public CrankTurn NextAfter(int cylinder) => NextAfter(cylinder, _ => true) ?? new CrankTurn(cylinder, Cycle);

    /// <summary>The next cylinder in the engine's direction that is wanted, and how far it is; absent when no other is wanted.</summary>
    /// <param name="cylinder">Where the crank is now.</param>
    /// <param name="wanted">Which cylinders are still to be visited; the one the crank is at is passed over.</param>
    /// <returns>The cylinder and the degrees to it; null when no other is wanted.</returns>
    public CrankTurn? NextAfter(int cylinder, Func<int, bool> wanted)
    {
        var at = 0;
        while (Stations[at].Cylinder != cylinder)
        {
            at++;
        }
        for (var k = 1; k < Stations.Count; k++)
        {
            var next = Stations[(at + k) % Stations.Count];
            if (wanted(next.Cylinder))
            {
                return new CrankTurn(next.Cylinder, Degrees(cylinder, next.Cylinder));
            }
        }
        return null;
    }

    /// <summary>
    /// The round through all cylinders from any start: each once, in firing order. The degrees of the first are
    /// 0 (the crank is there), so together they are what is turned in all.
    /// </summary>
    /// <returns>As many turns as the engine has cylinders; together under 720 degrees.</returns>
    public IReadOnlyList<CrankTurn> Round(int start)
    {
        var turns = new List<CrankTurn> { new(start, 0) };
        while (turns.Count < Stations.Count)
        {
            var next = NextAfter(turns[^1].Cylinder);
            turns.Add(next);
        }
        return turns;
    }

    /// <summary>
    /// The cylinder that is at top dead centre one turn apart: at the end of its exhaust stroke when this one
    /// fires, its valves overlapping. It exists on even-firing engines with an even number of cylinders, and on
    /// an uneven one only where its angles say so; else absent.
    /// </summary>
    /// <returns>Its number; null where no cylinder stands one turn apart.</returns>
    public int? CompanionOf(int cylinder)
    {
        var wanted = (AngleOf(cylinder) + Cycle / 2) % Cycle;
        foreach (var station in Stations)
        {
            var apart = Math.Abs(station.AngleDeg - wanted);
            if (station.Cylinder != cylinder && Math.Min(apart, Cycle - apart) < SamePlace)
            {
                return station.Cylinder;
            }
        }
        return null;
    }

    /// <summary>A turn of the crank as one sentence: how far, which way, and to what.</summary>
    /// <param name="from">The cylinder the crank is at.</param>
    /// <param name="to">The cylinder it is turned to.</param>
    /// <returns>A sentence with degrees, direction and cylinder.</returns>
    public string Says(int from, int to)
    {
        var degrees = Degrees(from, to);
        if (from == to)
        {
            return Stations.Count == 1 ? "One cylinder: two full turns bring it round again." : $"The crank is at cylinder {to}.";
        }
        return degrees < SamePlace
            ? $"Cylinder {to} is at top dead centre with {from}: do not turn."
            : string.Create(CultureInfo.InvariantCulture, $"Turn the crank {degrees:0.#}°{Turns(degrees)} {Way} to cylinder {to}.");
    }

    /// <summary>The engine's direction in words.</summary>
    public string Way => Rotation switch
    {
        Records.Rotation.Clockwise => "clockwise, seen from the front,",
        Records.Rotation.Anticlockwise => "anticlockwise, seen from the front,",
        _ => "in the direction it runs",
    };

    private static string Turns(double degrees) => degrees switch
    {
        180 => " (half a turn)",
        360 => " (one full turn)",
        540 => " (one turn and a half)",
        > 360 => string.Create(CultureInfo.InvariantCulture, $" (one full turn and {degrees - 360:0.#}°)"),
        _ => "",
    };

    private static double Forward(double from, double to)
    {
        var degrees = (to - from) % Cycle;
        return degrees < 0 ? degrees + Cycle : degrees;
    }
}
