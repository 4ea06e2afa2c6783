using System.Numerics;
using Zandrik.Core.Physics;

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

    /// <summary>Short from its first degree, and loses on: how much is left open.</summary>
    Short,
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
    private static readonly double[] Gaskets = [0.5, 1, 2, 4, 8];
    private static readonly double[] Volumes = [0, 0.06, 0.13, 0.22, 0.34, 0.5, 0.75, 1.2, 2, 4];

    private readonly double sweptM3;
    private readonly double clearanceM3;
    private readonly double rpm;
    private readonly double soundLeak;
    private readonly Shape sound;
    private readonly Complex[] rest, compressed, spent, downLost;
    private readonly double spentAtTop;
    private readonly Shape?[][] shapes;
    private readonly double[] soundGauge = new double[Steps];
    private double[] soundTorque = [];
    private readonly Dictionary<(int Behind, int Size), (Complex[] Harmonics, double First, double Second)> gaskets = [];

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
        (rest, compressed, spent, downLost, spentAtTop) = Parts();
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
        if (loss == PressureLoss.Short)
        {
            var gone = LostOn * (1 - share);
            for (var k = 0; k <= Orders; k++)
            {
                into[k] = rest[k] / share + (compressed[k] - gone * spent[k]) / (1 - gone * spentAtTop);
            }
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
        var torque = new double[Steps];
        var one = new Turned(this, clearance, leak, lift, 0) { Gauge = soundPa > 1 ? null : soundGauge };
        // One exhaust stroke brings the cylinder to what it does in every cycle.
        for (var degree = 180; degree < 360 + 720; degree += Degrees)
        {
            one.Begin(degree);
            one.End(degree, degree >= 360 ? torque : null);
        }
        if (soundPa <= 1)
        {
            soundTorque = torque;
        }
        return new Shape(Harmonics(torque, soundPa > 1 ? soundPa : one.PeakPa), soundPa > 1 ? Math.Max(0, one.PeakPa / soundPa) : 1, one.PeakPa);
    }

    /// <summary>
    /// Two cylinders with a leaking gasket between them, both together: what one loses goes into the other, so they cannot be put together from single ones. Harmonics from the first's top dead centre for both
    /// as high as sound ones are without the leak, and the share of a sound peak that each reaches.
    /// </summary>
    /// <param name="apart">How far the second fires after the first, cycles.</param>
    /// <param name="size">Which of <see cref="GasketSizes"/>.</param>
    public (Complex[] Harmonics, double First, double Second) Gasket(double apart, int size)
    {
        var behind = (int)Math.Round((apart - Math.Floor(apart)) * Steps) * Degrees;
        if (gaskets.TryGetValue((behind, size), out var known))
        {
            return known;
        }
        if (behind > 360)
        {
            // The same two the other way round.
            var (turned, one, other) = Gasket((720 - behind) / 720.0, size);
            return gaskets[(behind, size)] = ([.. turned.Select((h, k) => h * Turns[k * (behind / Degrees) % Steps])], other, one);
        }
        var torque = new double[Steps];
        var (first, second) = (new Turned(this, clearanceM3, soundLeak, 1, 0), new Turned(this, clearanceM3, soundLeak, 1, behind));
        var area = Gaskets[size] * sweptM3 / 0.5e-3 * 1e-6;
        for (var degree = 180; degree < 180 + 3 * 720; degree += Degrees)
        {
            first.Begin(degree);
            second.Begin(degree);
            first.Gas.ExchangeWith(second.Gas, area, first.StepS);
            var into = degree >= 180 + 2 * 720 ? torque : null;
            first.End(degree, into);
            second.End(degree, into);
        }
        return gaskets[(behind, size)] = (Harmonics(torque, sound.PeakPa), Math.Max(0, first.PeakPa / sound.PeakPa), Math.Max(0, second.PeakPa / sound.PeakPa));
    }

    /// <summary>How many sizes of a leaking gasket there are templates for.</summary>
    public static int GasketSizes => Gaskets.Length;

    // In one unit whatever the engine: heights are shares of a sound cylinder's torque.
    private Complex[] Harmonics(double[] torque, double soundPa)
    {
        var unit = 1 / (Steps * Math.Cbrt(4 * sweptM3 / Math.PI) * soundPa);
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
        return found;
    }

    // One cylinder turned at even speed, some degrees behind the angle that is counted.
    private sealed class Turned
    {
        private readonly CompressionTemplate of;
        private readonly double clearance;
        private readonly double leak;
        private readonly double lift;
        private readonly int behind;
        private readonly double bore;
        private readonly double piston;
        private readonly double pistonSpeed;
        private readonly double valves;

        public Turned(CompressionTemplate of, double clearance, double leak, double lift, int behind)
        {
            (this.of, this.clearance, this.leak, this.lift, this.behind) = (of, clearance, leak, lift, behind);
            // Bore like stroke, a rod of 3.2 times the crank.
            bore = Math.Cbrt(4 * of.sweptM3 / Math.PI);
            piston = Math.PI / 4 * bore * bore;
            pistonSpeed = bore * of.rpm / 30;
            valves = 480e-6 * of.sweptM3 / 0.5e-3;
            StepS = Degrees / (of.rpm * 6);
            Gas.Start(At(180), AmbientPa, (of.wallK + of.airK) / 2);
        }

        /// <summary>Where the gauge pressure goes, by angle from the firing top dead centre; absent for nowhere.</summary>
        public double[]? Gauge { get; init; }

        public CylinderGas Gas { get; } = new();

        public double StepS { get; }

        public double PeakPa { get; private set; }

        public void Begin(int degree)
        {
            Gas.GoHalfWay(At(degree + Degrees));
            var (intake, exhaust) = Timing.Lifts(degree - behind + Degrees / 2.0);
            Gas.Exchange(valves * Math.Max(0, intake - (1 - lift)), of.manifoldPa, of.airK, StepS, true);
            Gas.Exchange(0.85 * valves * exhaust, AmbientPa, of.wallK, StepS, true);
            Gas.Exchange(leak, AmbientPa, of.wallK, StepS, false);
        }

        public void End(int degree, double[]? torque)
        {
            Gas.Finish(At(degree + Degrees), of.wallK, pistonSpeed, piston, bore, clearance, StepS);
            if (torque is not null)
            {
                var gauge = Gas.PressurePa - AmbientPa;
                torque[(degree / Degrees + 1) % Steps] -= gauge * CylinderGas.Lever((degree - behind + Degrees) * Math.PI / 180, bore / 2, 1.6 * bore);
                PeakPa = Math.Max(PeakPa, gauge);
                if (Gauge is not null)
                {
                    Gauge[(degree / Degrees + 1) % Steps] = gauge;
                }
            }
        }

        private double At(int degree) => CylinderGas.Volume((degree - behind) * Math.PI / 180, clearance, piston, bore / 2, 1.6 * bore);
    }

    // Of a loss that no gas equation stands for, as much goes on past top dead centre, a share of what may.
    private const double LostOn = 0.3;

    /// <summary>
    /// What a weak cylinder loses more, or less, on its way down than its template has it, harmonics for all of a sound one's pressure. It changes nothing of the pressure at top dead centre. How real leaks depend on
    /// pressure and speed nobody knows; a trace tells it in part, and what it does not tell is averaged over.
    /// </summary>
    public IReadOnlyList<Complex> LostOnTheWayDown => downLost;

    // Harmonics of parts of a sound cylinder's torque: what is not compressed; compression with expansion; that times the share of its time under pressure that is over; expansion times the share of its own that is over.
    // And the share that is over at top dead centre.
    private (Complex[] Other, Complex[] Compressed, Complex[] Spent, Complex[] DownLost, double SpentAtTop) Parts()
    {
        const int Half = Steps / 4;
        var sums = new double[2 * Half];
        double sum = 0;
        int At(int s) => (s - Half + Steps) % Steps;
        for (var s = 0; s < sums.Length; s++)
        {
            sums[s] = sum += Math.Max(0, soundGauge[At(s)]);
        }
        var top = sums[Half - 1];
        Complex[] Of(Func<int, double> share)
        {
            var torque = new double[Steps];
            for (var s = 0; s < sums.Length; s++)
            {
                torque[At(s)] = soundGauge[At(s)] > 0 ? soundTorque[At(s)] * share(s) : 0;
            }
            return Harmonics(torque, sound.PeakPa);
        }
        var all = Of(_ => 1);
        return ([.. sound.Harmonics.Select((h, k) => h - all[k])], all, Of(s => sums[s] / sum), Of(s => Math.Max(0, sums[s] - top) / (sum - top)), top / sum);
    }

    private static readonly Complex[] Turns = [.. Enumerable.Range(0, Steps).Select(s => Complex.FromPolarCoordinates(1, -2 * Math.PI * s / Steps))];
}
