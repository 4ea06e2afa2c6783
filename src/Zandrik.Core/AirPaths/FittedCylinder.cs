using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.AirPaths;

/// <summary>How much a cylinder lets by at one place, as the readings of a job have it.</summary>
/// <param name="Path">The place.</param>
/// <param name="To">The neighbour, for <see cref="LeakPlace.Neighbour"/>.</param>
/// <param name="Mm2">The area, mm²: as likely more as less.</param>
/// <param name="LowMm2">One in ten that it is less, mm².</param>
/// <param name="HighMm2">One in ten that it is more, mm².</param>
/// <param name="UsualMm2">What a sound cylinder of this size lets by there, mm².</param>
/// <param name="Open">How likely it is that more than that leaks there, 0 to 1; no unit.</param>
/// <param name="IfOpenMm2">The area if it does, mm²; 0 where that is not thought of.</param>
public sealed record PathArea(LeakPlace Path, int? To, double Mm2, double LowMm2, double HighMm2, double UsualMm2, double Open, double IfOpenMm2 = 0);

/// <summary>A reading beside what the fitted areas make the model read.</summary>
/// <param name="Kind">The test.</param>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Reading">What of the test.</param>
/// <param name="Measured">What was read, corrected as the judgement has it: psi, percent, or for running compression a factor against a sound cylinder.</param>
/// <param name="Expected">What the model reads with the fitted areas, in the same unit.</param>
/// <param name="Off">How far apart they are, in standard deviations of such a reading; no unit.</param>
public sealed record FittedReading(StepKind Kind, int Cylinder, FittedKind Reading, double Measured, double Expected, double Off)
{
    /// <summary>True within one standard deviation.</summary>
    public bool Fits => Math.Abs(Off) < 1;

    /// <summary>True so far off that a reading of it is rather wrong than chance: once in forty.</summary>
    public bool IsOff => Math.Abs(Off) >= 2.2;
}

/// <summary>What was read.</summary>
public enum FittedKind
{
    /// <summary>Dry pressure, psi.</summary>
    Dry,

    /// <summary>Wet pressure, psi.</summary>
    Wet,

    /// <summary>Leak-down loss, percent.</summary>
    Loss,

    /// <summary>Relative compression, percent.</summary>
    Relative,

    /// <summary>Running compression at idle, a factor against a sound cylinder.</summary>
    Idle,

    /// <summary>The same after a snap.</summary>
    Snap,
}

/// <summary>One cylinder of the answer.</summary>
/// <param name="Cylinder">Which.</param>
/// <param name="Paths">Where its air goes: rings, valves and coolant always, crown and neighbours where they are thought of.</param>
/// <param name="Otherwise">How likely its pressure is low, or high, by something that is no leak, 0 to 1; no unit.</param>
/// <param name="Leaks">How likely it lets by more than a sound one, wherever that is, 0 to 1; no unit.</param>
public sealed record FittedCylinder(int Cylinder, IReadOnlyList<PathArea> Paths, double Otherwise, double Leaks)
{
    /// <summary>True where it leaks, and nothing says which of several places it is.</summary>
    public bool PlaceIsOpen => Main is null && Leaks > 0.5;

    /// <summary>The places it may be, likeliest first: those that are likelier than one in ten.</summary>
    public IReadOnlyList<PathArea> MayBe => [.. Paths.Where(p => p.Open > 0.1).OrderByDescending(p => p.Open)];

    /// <summary>The widest way out beyond what a sound cylinder lets by; absent where none is likelier than not.</summary>
    public PathArea? Main => Paths.Where(p => p.Open > 0.5).MaxBy(p => p.Mm2 - p.UsualMm2);

    /// <summary>
    /// One way it may be, as a drawing and the model show it: each place with its area in mm², and whether that is more than a sound cylinder's. Where several places fit, the likeliest of them leaks and
    /// the others do not, for the middle of each by itself would leak nowhere.
    /// </summary>
    public IReadOnlyList<(PathArea Path, double Mm2, bool More)> AsShown
    {
        get
        {
            var likeliest = PlaceIsOpen ? MayBe[0] : null;
            return [.. Paths.Select(p => (p, p == likeliest ? p.IfOpenMm2 : p.Mm2, p == likeliest || p.Open > 0.5)).Where(p => p.Item3 || p.p.UsualMm2 > 0)];
        }
    }

    /// <summary>True where it is open between rings and piston alone: both are heard at the oil filler, and only oil, which closes rings and no hole, tells them apart.</summary>
    public bool OnlyOilTells => PlaceIsOpen && MayBe.All(p => p.Path is LeakPlace.Rings or LeakPlace.Crown);

    /// <summary>Whether a suspect of the judgement says the same of where the air goes.</summary>
    /// <param name="fault">The leading suspect.</param>
    /// <returns>True where it does.</returns>
    public bool Agrees(Fault fault) => Main?.Path switch
    {
        null when PlaceIsOpen => fault is not (Fault.Sound or Fault.TestError or Fault.Carbon),
        null => fault is Fault.Sound or Fault.TestError or Fault.ShortStroke or Fault.Carbon or Fault.IntakeNotOpening or Fault.ExhaustNotOpening,
        LeakPlace.Rings => fault is Fault.Rings or Fault.FuelWashed,
        LeakPlace.Crown => fault == Fault.Piston,
        LeakPlace.Intake => fault == Fault.IntakeValve,
        LeakPlace.Exhaust => fault == Fault.ExhaustValve,
        LeakPlace.Coolant => fault == Fault.GasketCoolant,
        _ => fault == Fault.GasketAdjacent,
    };
}
