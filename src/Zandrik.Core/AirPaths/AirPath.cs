namespace Zandrik.Core.AirPaths;

/// <summary>A way out for the air of a cylinder.</summary>
public enum AirPath
{
    /// <summary>Past the rings, into the crankcase.</summary>
    Rings,

    /// <summary>Through the crown of the piston, into the crankcase.</summary>
    Crown,

    /// <summary>By the intake valve.</summary>
    Intake,

    /// <summary>By the exhaust valve.</summary>
    Exhaust,

    /// <summary>Into the coolant.</summary>
    Coolant,

    /// <summary>Into a neighbour, over the head gasket.</summary>
    Neighbour,
}

/// <summary>How much a cylinder lets by at one place, as the readings of a job have it.</summary>
/// <param name="Path">The place.</param>
/// <param name="To">The neighbour, for <see cref="AirPath.Neighbour"/>.</param>
/// <param name="Mm2">The area, mm²: as likely more as less.</param>
/// <param name="LowMm2">One in ten that it is less, mm².</param>
/// <param name="HighMm2">One in ten that it is more, mm².</param>
/// <param name="UsualMm2">What a sound cylinder of this size lets by there, mm².</param>
/// <param name="Open">How likely it is that more than that leaks there, 0 to 1; no unit.</param>
public sealed record PathArea(AirPath Path, int? To, double Mm2, double LowMm2, double HighMm2, double UsualMm2, double Open);

/// <summary>A reading beside what the fitted areas make the model read.</summary>
/// <param name="Kind">The test.</param>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Reading">What of the test.</param>
/// <param name="Measured">What was read, corrected as the judgement has it: psi, percent, or for running compression a factor against a sound cylinder.</param>
/// <param name="Expected">What the model reads with the fitted areas, in the same unit.</param>
/// <param name="Off">How far apart they are, in standard deviations of such a reading; no unit.</param>
public sealed record FittedReading(Records.StepKind Kind, int Cylinder, FittedKind Reading, double Measured, double Expected, double Off);

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
}
