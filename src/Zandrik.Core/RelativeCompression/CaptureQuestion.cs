using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.RelativeCompression;

/// <summary>What the second channel of a capture carries.</summary>
public enum SyncKind
{
    /// <summary>One event a cycle, at the sync cylinder: a coil of its own, a cam signal.</summary>
    EveryCycle,

    /// <summary>One event a turn, of a coil that fires two cylinders: the higher one ends the compression stroke.</summary>
    WasteSpark,

    /// <summary>A dip once a cycle: the injector of the sync cylinder.</summary>
    Injector,

    /// <summary>Nothing usable.</summary>
    None,
}

/// <summary>What is known of the engine whose starter current was captured, and what the second channel means.</summary>
public sealed record CaptureQuestion
{
    /// <summary>Fewest cylinders that can be compared.</summary>
    public const int FewestCylinders = 2;

    /// <summary>Most cylinders.</summary>
    public const int MostCylinders = 16;

    /// <summary>Below this a cylinder is called low unless a shop sets its own limit, percent of the best: a rule of thumb.</summary>
    public const double UsualLimitPercent = 85;

    /// <summary>The limit a job is judged by, percent of the best.</summary>
    /// <param name="judgeBy">What it is judged by; absent for the usual one.</param>
    /// <returns>Percent of the best cylinder, above 0 to 100.</returns>
    public static double LimitOf(JudgeBy? judgeBy) => judgeBy?.RelativeLimitPercent ?? UsualLimitPercent;

    /// <summary>Degrees before top dead centre at which the sync event stands, unless said.</summary>
    public const double UsualSyncAngle = 6;

    /// <summary>Cylinder numbers in the order they fire, the sync cylinder anywhere in it.</summary>
    public required IReadOnlyList<int> FiringOrder { get; init; }

    /// <summary>Firing angles along the order, degrees from the first; absent for even firing.</summary>
    public IReadOnlyList<double>? FiringAngles { get; init; }

    /// <summary>What it burns; absent is taken as petrol.</summary>
    public Fuel? Fuel { get; init; }

    /// <summary>Compression ratio, to 1; absent means a usual one for the fuel.</summary>
    public double? CompressionRatio { get; init; }

    /// <summary>What the sync channel carries.</summary>
    public SyncKind Sync { get; init; } = SyncKind.None;

    /// <summary>True when <see cref="Sync"/> is only assumed: an event a turn is then taken for a waste spark.</summary>
    public bool SyncAssumed { get; init; }

    /// <summary>The cylinder of the sync event.</summary>
    public int SyncCylinder { get; init; } = 1;

    /// <summary>Degrees before the sync cylinder's firing top dead centre at which the event stands.</summary>
    public double SyncAngleDeg { get; init; } = UsualSyncAngle;

    /// <summary>The cylinder whose plug was out during the capture, so that its slot tells the others where there is no sync; absent when all plugs were in.</summary>
    public int? Unplugged { get; init; }

    /// <summary>False when the scale of the clamp is not known and the "amperes" are only proportional.</summary>
    public bool ScaleKnown { get; init; } = true;

    /// <summary>Below this a cylinder is low, percent of the best.</summary>
    public double LimitPercent { get; init; } = UsualLimitPercent;

    /// <summary>Number of cylinders.</summary>
    public int Cylinders => FiringOrder.Count;

    /// <summary>The compression ratio used: the engine's, else a usual one of its fuel (petrol 10, gas and alcohol 11.5, diesel 18).</summary>
    public double Ratio => CompressionRatio ?? Fuel switch
    {
        Records.Fuel.Diesel => 18,
        Records.Fuel.Lpg or Records.Fuel.Cng or Records.Fuel.Ethanol => 11.5,
        _ => 10,
    };

    /// <summary>Swept volume of one cylinder, cm³; absent means a usual one (diesel 700, else 500). It only tells how much heat the walls take.</summary>
    public double? SweptCc { get; init; }

    /// <summary>The swept volume used, m³.</summary>
    internal double SweptM3 => (SweptCc ?? (Fuel == Records.Fuel.Diesel ? 700 : 500)) * 1e-6;

    /// <summary>The order counted from the sync cylinder, and where each stands on the cycle from it, in cycles (0 to under 1).</summary>
    internal (int[] Cylinders, double[] At) Slots()
    {
        var n = Cylinders;
        var first = Math.Max(0, FiringOrder.ToList().IndexOf(SyncCylinder));
        double At(int k) => FiringAngles?[k] / CrankSchedule.Cycle ?? (double)k / n;
        var cylinders = new int[n];
        var at = new double[n];
        for (var i = 0; i < n; i++)
        {
            var k = (first + i) % n;
            cylinders[i] = FiringOrder[k];
            var turned = At(k) - At(first);
            at[i] = turned - Math.Floor(turned);
        }
        return (cylinders, at);
    }

    /// <summary>True when all intervals between firings are alike.</summary>
    internal bool IsEven => FiringAngles is null || FiringAngles.Select((a, k) => Math.Abs(a - FiringAngles[0] - CrankSchedule.Cycle * k / Cylinders)).All(d => d < 1);

    /// <summary>What keeps a capture of this engine from being analysed at all; absent when nothing does.</summary>
    /// <returns>The field and what to do; null when it can be analysed.</returns>
    public FieldProblem? Problem()
    {
        var n = FiringOrder.Count;
        if (n is < FewestCylinders or > MostCylinders)
        {
            return new FieldProblem("/cylinders", $"Relative compression compares {FewestCylinders} to {MostCylinders} cylinders.");
        }
        if (EngineRules.Once(FiringOrder, n) is { } wrong)
        {
            return new FieldProblem("/firingOrder", $"Name each of the {n} cylinders once: {wrong}.");
        }
        if (FiringAngles is { } angles && (angles.Count != n || !angles.All(a => a is >= 0 and < CrankSchedule.Cycle) || angles.Zip(angles.Skip(1)).Any(p => p.Second <= p.First)))
        {
            return new FieldProblem("/firingAngles", $"Give {n} rising angles from 0 to under 720 degrees, one for each cylinder of the firing order.");
        }
        if (SyncCylinder < 1 || SyncCylinder > n)
        {
            return new FieldProblem("/syncCylinder", $"The engine has cylinders 1 to {n}.");
        }
        if (Unplugged is < 1 || Unplugged > n)
        {
            return new FieldProblem("/unplugged", $"The engine has cylinders 1 to {n}.");
        }
        return !double.IsFinite(SyncAngleDeg) || Math.Abs(SyncAngleDeg) > CrankSchedule.Cycle
            ? new FieldProblem("/syncAngle", "Give degrees before top dead centre, up to 720.")
            : null;
    }
}
