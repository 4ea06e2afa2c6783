using System.Numerics;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.RelativeCompression;

/// <summary>Why a cylinder pumps less: each way takes another part of its load from the crank.</summary>
internal enum PressureLoss
{
    /// <summary>It does not.</summary>
    None,

    /// <summary>It loses charge while it compresses: less comes back on expansion.</summary>
    Leak,

    /// <summary>It gets less air: all of it is smaller, and it draws against the crank before and after.</summary>
    Filling,

    /// <summary>It compresses less far: missing near top dead centre only.</summary>
    Volume,
}

/// <summary>
/// What one cylinder does to the crank over a cycle, as harmonics of the cycle: the gas torque −p·dV/dq for a peak gauge pressure of one. From the gas equations of one cylinder at even
/// speed, with heat to the walls and the leaks of a sound engine; and the same for cylinders that pump less, by each way of doing so. Section 2 of docs/relative-compression.md.
/// </summary>
internal sealed class CompressionTemplate
{
    private const int Degrees = 2;
    private const int Steps = 720 / Degrees;

    // An ordinary engine: warm walls, valve timing and leaks as many have them. Only the shape matters, and it is the same for all cylinders.
    private const double AmbientPa = 101_325;
    /// <summary>States of sound cylinders that are told apart: warm and tight, in between, cold or evenly worn; and the same behind a shut throttle, which only engines that have one need.</summary>
    public const int Wears = 6;

    /// <summary>Those of an engine without throttle.</summary>
    public const int WearsUnthrottled = 3;

    private readonly double wallK;
    private readonly double airK;
    private readonly double manifoldPa;
    private static readonly ValveTiming Timing = new(8, 60, 50, 10);

    private static readonly double[] Leaks = [0, 0.25, 0.6, 1, 1.6, 2.4, 3.5, 5, 8, 14, 40];
    private static readonly double[] Lifts = [1, 0.35, 0.2, 0.15, 0.12, 0.1, 0.085, 0.07, 0.055, 0.04, 0.02, 0.005];
    private static readonly double[] Volumes = [0, 0.06, 0.13, 0.22, 0.34, 0.5, 0.75, 1.2, 2, 4];

    private readonly double sweptM3;
    private readonly double clearanceM3;
    private readonly double rpm;
    private readonly double soundLeak;
    private readonly Shape sound;
    private readonly Shape?[][] shapes;

    /// <summary>Makes the templates of an engine.</summary>
    /// <param name="ratio">Compression ratio.</param>
    /// <param name="sweptM3">Swept volume of one cylinder.</param>
    /// <param name="rpm">Cranking speed.</param>
    /// <param name="orders">Highest harmonic of the cycle.</param>
    /// <param name="wear">Which of the states of <see cref="Wears"/> the sound cylinders are in.</param>
    public CompressionTemplate(double ratio, double sweptM3, double rpm, int orders, int wear)
    {
        (wallK, airK, var leak) = (wear % 3) switch
        {
            0 => (350.0, 318.0, 0.28e-6),
            1 => (320.0, 305.0, 0.55e-6),
            _ => (293.0, 293.0, 1.1e-6),
        };
        manifoldPa = wear < 3 ? AmbientPa : 0.68 * AmbientPa;
        Orders = orders;
        (this.sweptM3, this.rpm, soundLeak) = (sweptM3, rpm, leak * sweptM3 / 0.5e-3);
        clearanceM3 = sweptM3 / (ratio - 1);
        shapes = [new Shape?[Leaks.Length], new Shape?[Lifts.Length], new Shape?[Volumes.Length]];
        sound = Make(clearanceM3, soundLeak, 1, 0);
        shapes[0][0] = shapes[1][0] = shapes[2][0] = sound;
    }

    /// <summary>Highest harmonic.</summary>
    public int Orders { get; }

    /// <summary>Harmonics 0 to <see cref="Orders"/>, for a peak of one, of a cylinder that reaches a share of a sound one's peak.</summary>
    /// <param name="loss">Why it does not reach all of it.</param>
    /// <param name="share">The share, 0 to 1.</param>
    /// <param name="into">Where to.</param>
    public void Of(PressureLoss loss, double share, Span<Complex> into)
    {
        if (loss == PressureLoss.None)
        {
            sound.Harmonics.CopyTo(into);
            return;
        }
        var way = (int)loss - 1;
        var i = 1;
        while (i < shapes[way].Length - 1 && ShapeOf(way, i).Peak > share)
        {
            i++;
        }
        var (above, below) = (ShapeOf(way, i - 1), ShapeOf(way, i));
        var part = above.Peak > below.Peak ? Math.Clamp((above.Peak - share) / (above.Peak - below.Peak), 0, 1) : 0;
        for (var k = 0; k <= Orders; k++)
        {
            into[k] = (above.Harmonics[k] + part * (below.Harmonics[k] - above.Harmonics[k])) / share;
        }
    }

    // Most engines need few of them.
    private Shape ShapeOf(int way, int i) => shapes[way][i] ??= way switch
    {
        0 => Make(clearanceM3, soundLeak + Leaks[i] * sweptM3 / 0.5e-3 * 1e-6, 1, sound.PeakPa),
        1 => Make(clearanceM3, soundLeak, Lifts[i], sound.PeakPa),
        _ => Make(clearanceM3 * (1 + Volumes[i]), soundLeak, 1, sound.PeakPa),
    };

    private sealed record Shape(Complex[] Harmonics, double Peak, double PeakPa);

    private Shape Make(double clearance, double leak, double lift, double soundPa)
    {
        var swept = sweptM3;
        var torque = new double[Steps];
        // Bore like stroke, a rod of 3.2 times the crank.
        var bore = Math.Cbrt(4 * swept / Math.PI);
        var (r, l, piston) = (bore / 2, 1.6 * bore, Math.PI / 4 * bore * bore);
        var dt = Degrees / (rpm * 6);
        var speed = bore * rpm * 2 * Math.PI / 60 / Math.PI;
        var valves = 480e-6 * swept / 0.5e-3;
        var gas = new CylinderGas();
        double At(int degree) => CylinderGas.Volume(degree * Math.PI / 180, clearance, piston, r, l);
        gas.Start(At(180), AmbientPa, (wallK + airK) / 2);
        double peak = 0;
        // The first cycle only brings the cylinder to what it does in every other.
        for (var degree = 180; degree < 180 + 2 * 720; degree += Degrees)
        {
            gas.GoHalfWay(At(degree + Degrees));
            var (intake, exhaust) = Timing.Lifts(degree + Degrees / 2.0);
            gas.Exchange(valves * Math.Max(0, intake - (1 - lift)), manifoldPa, airK, dt, true);
            gas.Exchange(0.85 * valves * exhaust, AmbientPa, wallK, dt, true);
            gas.Exchange(leak, AmbientPa, wallK, dt, false);
            gas.Finish(At(degree + Degrees), wallK, speed, piston, bore, clearance, dt);
            if (degree >= 180 + 720)
            {
                var gauge = gas.PressurePa - AmbientPa;
                torque[(degree / Degrees + 1) % Steps] = -gauge * CylinderGas.Lever((degree + Degrees) * Math.PI / 180, r, l);
                peak = Math.Max(peak, gauge);
            }
        }
        // In one unit whatever the engine: heights are shares of a sound cylinder's torque.
        var unit = 1 / (Steps * bore * (soundPa > 1 ? soundPa : peak));
        var found = new Complex[Orders + 1];
        for (var k = 0; k <= Orders; k++)
        {
            Complex sum = 0;
            for (var s = 0; s < Steps; s++)
            {
                sum += torque[s] * Turns[s * k % Steps];
            }
            found[k] = sum * unit;
        }
        return new Shape(found, soundPa > 1 ? Math.Max(0, peak / soundPa) : 1, peak);
    }

    private static readonly Complex[] Turns = [.. Enumerable.Range(0, Steps).Select(s => Complex.FromPolarCoordinates(1, -2 * Math.PI * s / Steps))];
}
