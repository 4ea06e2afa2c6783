using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests;

/// <summary>Short ways to write down an engine and a dry test, as a technician would on a whiteboard.</summary>
internal static class Cases
{
    internal static readonly TestConditions Proper = new()
    {
        EngineTemperature = EngineTemperature.Warm, Throttle = ThrottlePlate.Open, Plugs = PlugsRemoved.AllOut,
        Fuel = Supply.Off, Ignition = Supply.Off, Battery = BatteryState.Charger,
    };

    internal static EngineSheet Inline(int cylinders, double? nominal = null, double? minimum = null, double? maxDifference = null) => new()
    {
        Fuel = Fuel.Petrol, Cylinders = cylinders, Layout = CylinderArrangement.Inline,
        Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = nominal, Minimum = minimum, MaxDifference = maxDifference },
    };

    /// <summary>Readings of cylinders 1, 2, 3 … in that order.</summary>
    internal static DryCompressionTest Dry(params double[] psi) => Dry(Proper, psi);

    internal static DryCompressionTest Dry(TestConditions conditions, params double[] psi) => new()
    {
        Unit = PressureUnit.Psi,
        Conditions = conditions,
        Readings = [.. psi.Select((value, i) => new CompressionReading { Cylinder = i + 1, Value = value })],
    };

    internal static DryJudgement Judge(EngineSheet engine, DryCompressionTest test, JudgeBy? judgeBy = null) =>
        DryJudgement.Of(engine, test, judgeBy);

    internal static CylinderState[] States(this DryJudgement judged) => [.. judged.Cylinders.Select(c => c.State)];

    internal static SpreadFinding Method(this DryJudgement judged, SpreadMethod method) => judged.Spread.Single(s => s.Method == method);

    internal static string[] Codes(this DryJudgement judged) => [.. judged.Validity.Select(v => RecordWords.Of(v.Code))];
}
