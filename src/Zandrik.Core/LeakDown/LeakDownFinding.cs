using Zandrik.Core.Units;

namespace Zandrik.Core.LeakDown;

/// <summary>Why a leak-down figure is doubted, and what is asked about it.</summary>
public enum LeakDoubt
{
    /// <summary>Nearly all is lost through a valve while the dry reading is sound: the wrong stroke.</summary>
    WrongStroke,

    /// <summary>Far more is lost than the dry reading allows: pushed off top dead centre.</summary>
    OffTopDeadCentre,

    /// <summary>Nothing at all is lost: a check valve may still be in the hose. A very good cylinder can read 0.</summary>
    CheckValveLeftIn,

    /// <summary>Held without a supply, or more held than supplied: the supply was not set or not read.</summary>
    SupplyNotSet,

    /// <summary>Much is lost and was heard nowhere: the air must go somewhere, perhaps at the adapter.</summary>
    LossWithoutPlace,

    /// <summary>Far more is lost past the piston than the dry reading allows: one of the two is wrong.</summary>
    LossAgainstDry,
}

/// <summary>One cylinder of a leak-down.</summary>
public sealed record LeakDownFinding
{
    /// <summary>The cylinder.</summary>
    public required int Cylinder { get; init; }

    /// <summary>What the reading says.</summary>
    public required LeakState State { get; init; }

    /// <summary>Pressure held, as read; absent on a percent scale or without a reading.</summary>
    public GaugePressure? Held { get; init; }

    /// <summary>The supply it was read at; absent when nobody noted one.</summary>
    public GaugePressure? Supply { get; init; }

    /// <summary>Loss, percent of the supply, unrounded; absent when it cannot be said.</summary>
    public double? Percent { get; init; }

    /// <summary>The loss as it would read at 100 psi through the standard restriction, percent: what limits are held against; absent without a loss.</summary>
    public double? ComparablePercent { get; init; }

    /// <summary>Effective area of the leaks, mm²; absent without a loss.</summary>
    public double? AreaMm2 { get; init; }

    /// <summary>True when the area is more than a needle can tell: all of the supply is gone.</summary>
    public bool IsMoreThanArea { get; init; }

    /// <summary>Points above the median of the engine, of the comparable loss; absent with fewer than three readings that count.</summary>
    public double? AboveMedian { get; init; }

    /// <summary>True when that is a finding by itself.</summary>
    public bool StandsOut { get; init; }

    /// <summary>What was heard.</summary>
    public required AirHeard Air { get; init; }

    /// <summary>Why the figure is kept out, or asked about; absent when it is not.</summary>
    public LeakDoubt? Doubt { get; init; }

    /// <summary>True when oil of a wet test was still in the cylinder.</summary>
    public bool AfterOil { get; init; }

    /// <summary>Every reading of the cylinder that has a figure, in the order they were taken; empty without one.</summary>
    public IReadOnlyList<LeakDownTaken> Taken { get; init; } = [];

    /// <summary>The comparable loss with oil in the cylinder, percent, where it was read both dry and with oil; absent otherwise. The dry one is judged.</summary>
    public double? WithOilPercent { get; init; }

    /// <summary>True when readings of the cylinder taken the same way lie too far apart for any of them to be believed alone.</summary>
    public bool Disagrees { get; init; }

    /// <summary>Why it has its state, one short sentence.</summary>
    public string Says { get; init; } = "";

    /// <summary>True when the reading counts.</summary>
    public bool Counts => State >= LeakState.Good;
}
