namespace Zandrik.Core.Practice;

/// <summary>Something done on the practice bench that costs minutes, or was refused because it would hurt somebody.</summary>
public enum PracticeAct
{
    /// <summary>A cylinder cranked dry.</summary>
    Dry,

    /// <summary>A cylinder cranked over oil.</summary>
    Wet,

    /// <summary>Both gauges of the leak-down read.</summary>
    LeakDown,

    /// <summary>A running engine read, at idle or after a snap.</summary>
    Running,

    /// <summary>A capture of starter current.</summary>
    Relative,

    /// <summary>A small check.</summary>
    Check,

    /// <summary>The stroke felt for at the plug hole.</summary>
    FeelStroke,

    /// <summary>The crank turned once round.</summary>
    TurnRound,

    /// <summary>The gauge looked over.</summary>
    LookOver,

    /// <summary>The second gauge taken.</summary>
    SecondGauge,

    /// <summary>Refused: somebody could have been hurt.</summary>
    Hazard,
}

/// <summary>An act that was done.</summary>
/// <param name="Act">What.</param>
/// <param name="Cylinder">The cylinder; absent for the engine.</param>
/// <param name="Says">What was seen, felt or refused.</param>
/// <param name="Check">The word of the small check; absent for another act.</param>
public sealed record PracticeDone(PracticeAct Act, int? Cylinder = null, string? Says = null, string? Check = null);
