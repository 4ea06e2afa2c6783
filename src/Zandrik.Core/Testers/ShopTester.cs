using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Testers;

/// <summary>What a tester measures with.</summary>
public enum TesterKind
{
    /// <summary>A compression gauge.</summary>
    Gauge,

    /// <summary>A leak-down tester.</summary>
    LeakDown,

    /// <summary>A current clamp.</summary>
    Clamp,
}

/// <summary>A tester as the shop keeps it: what it is, and what its last check against a reference found.</summary>
public sealed record ShopTester
{
    /// <summary>What the shop calls it; one of a kind in the shop.</summary>
    public string Label { get; init; } = "";

    /// <summary>What it measures with.</summary>
    public TesterKind Kind { get; init; }

    /// <summary>The unit on its scale.</summary>
    public PressureUnit Unit { get; init; } = PressureUnit.Psi;

    /// <summary>Full scale, in <see cref="Unit"/> (A for a clamp); absent when not known.</summary>
    public double? FullScale { get; init; }

    /// <summary>Where the check valve sits; absent when not known.</summary>
    public CheckValvePlace? CheckValve { get; init; }

    /// <summary>Volume of the hose beyond the check valve, ml; absent when not known.</summary>
    public double? HoseMl { get; init; }

    /// <summary>Volume of the adapter, ml; absent when not known.</summary>
    public double? AdapterMl { get; init; }

    /// <summary>Diameter of a leak-down tester's restriction, mm; absent when not known.</summary>
    public double? RestrictionMm { get; init; }

    /// <summary>Scale of a clamp, mV per A; absent when not known.</summary>
    public double? MilliVoltsPerAmp { get; init; }

    /// <summary>The day of the last check against a reference; absent when it was never checked.</summary>
    public DateOnly? CheckedOn { get; init; }

    /// <summary>Who checked it, and against what.</summary>
    public string? CheckedBy { get; init; }

    /// <summary>Months after which it wants checking again; absent for never.</summary>
    public int? CheckEveryMonths { get; init; }

    /// <summary>What the check gave, in <see cref="Unit"/>; empty when only "checked" was noted.</summary>
    public IReadOnlyList<CheckPoint> Points { get; init; } = [];

    /// <summary>The shop's own notes.</summary>
    public string? Notes { get; init; }

    /// <summary>The day it wants checking again; absent when nobody set one. Never checked but to be checked is due at once.</summary>
    /// <param name="today">The day it is, in the shop.</param>
    /// <returns>The day; null when nobody set how often.</returns>
    public DateOnly? DueOn(DateOnly today) => CheckEveryMonths is not { } months ? null : CheckedOn?.AddMonths(months) ?? today;

    /// <summary>True when the check is overdue.</summary>
    /// <param name="today">The day it is, in the shop.</param>
    /// <returns>True from the day it is due.</returns>
    public bool IsOverdue(DateOnly today) => DueOn(today) <= today;

    /// <summary>What goes with a test: a copy, so that a later check of the tester rewrites no verdict.</summary>
    /// <returns>The copy.</returns>
    public Tester ForRecord() => new()
    {
        Label = Label,
        CheckValve = CheckValve,
        LastChecked = CheckedOn,
        RestrictionMm = RestrictionMm,
        CheckUnit = Points.Count > 0 ? Unit : null,
        CheckPoints = Points.Count > 0 ? Points : null,
    };
}
