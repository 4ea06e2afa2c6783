using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>What a reading is, before anything explains it; worst last but for high and untested.</summary>
public enum CylinderState
{
    /// <summary>No reading that counts.</summary>
    Untested,

    /// <summary>Within every limit.</summary>
    Sound,

    /// <summary>Above the reference by more than the deciding method's good limit.</summary>
    High,

    /// <summary>Beyond the good limit of a method in use.</summary>
    Watch,

    /// <summary>Under the minimum, or below the reference by more than the deciding method allows.</summary>
    Low,

    /// <summary>Under a third of the reference.</summary>
    Dead,
}

/// <summary>The state of one cylinder from one dry test, and why.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="State">Its state.</param>
/// <param name="Value">The reading that counts, as read; absent when untested.</param>
/// <param name="UnderMinimum">True when it is under the maker's minimum, whether or not that limit applies.</param>
/// <param name="InQuestion">True when there is a reading that is not used until its unit is confirmed, or that cannot be one.</param>
/// <param name="Says">Why, in one short sentence.</param>
/// <param name="JudgedPa">What is held against the limits, Pa: the reading by the gauge's check, at sea level; absent when untested.</param>
/// <param name="ComparedPa">The same with the fall of a tiring battery taken out and a short count of compressions made up for, Pa; absent where there is neither.</param>
public sealed record CylinderFinding(
    int Cylinder, CylinderState State, GaugePressure? Value, bool UnderMinimum, bool InQuestion, string Says,
    double? JudgedPa = null, double? ComparedPa = null)
{
    /// <summary>True for a reading taken over test oil: shown, marked, and used for nothing.</summary>
    public bool IsOverOil { get; init; }

    /// <summary>True where nothing speaks against it because there is nothing to hold it against: no other cylinder, no figure of the maker's.</summary>
    public bool IsAlone { get; init; }

    /// <summary>The level to draw and compare, Pa: corrected where there is a correction; absent without a reading.</summary>
    public double? LevelPa => JudgedPa ?? Value?.Pascals;

    /// <summary>True when the judged pressure shows another figure than the reading.</summary>
    /// <returns>True where the two figures differ as they are shown in that unit.</returns>
    public bool IsCorrected(PressureUnit unit) => JudgedPa is { } judged && Value is { } v && GaugePressure.Figure(judged, unit) != GaugePressure.Figure(v.Pascals, unit);
}
