namespace Zandrik.Core.Simulation;

/// <summary>A compression gauge with its hose, as the air in the cylinder meets it.</summary>
public sealed record GaugeKit
{
    /// <summary>A usual kit with its check valve in the tip of the hose.</summary>
    public static GaugeKit Usual { get; } = new();

    /// <summary>The same with its check valve in the head of the gauge: the hose is then part of the cylinder.</summary>
    public static GaugeKit ValveInHead { get; } = new() { CheckValveInHead = true };

    /// <summary>True for a check valve in the gauge's head instead of the hose's tip.</summary>
    public bool CheckValveInHead { get; init; }

    /// <summary>Volume before the check valve at the tip, m³; it adds to the combustion chamber.</summary>
    public double TipM3 { get; init; } = 0.5e-6;

    /// <summary>Volume of the hose, m³.</summary>
    public double HoseM3 { get; init; } = 5e-6;

    /// <summary>Volume in the gauge's head, m³.</summary>
    public double HeadM3 { get; init; } = 2.5e-6;

    /// <summary>Volume of an adapter, m³; it adds to the combustion chamber. Diesels have up to 6 ml.</summary>
    public double AdapterM3 { get; init; }

    /// <summary>Effective area of the check valve, m².</summary>
    public double CheckValveM2 { get; init; } = 0.7e-6;

    /// <summary>Pressure that opens the check valve, Pa.</summary>
    public double OpensPa { get; init; } = 30_000;

    /// <summary>Effective area of the hose where the check valve is in the head, m².</summary>
    public double HoseAreaM2 { get; init; } = 5e-6;

    /// <summary>What the kit adds to the combustion chamber, m³.</summary>
    internal double AddsM3 => AdapterM3 + (CheckValveInHead ? 0 : TipM3);
}
