using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Testers;

/// <summary>A record as it is handed on: beside each compression reading stands what it is by the gauge's check and at sea level.</summary>
public static class CorrectedRecord
{
    /// <summary>The record with <see cref="CompressionReading.Corrected"/> filled in where a correction changes the reading; what a record brought along stays elsewhere.</summary>
    /// <returns>The record; the same object for one without tests.</returns>
    public static TestRecord Of(TestRecord record) => record.Tests is null ? record : record with
    {
        Tests = [.. record.Tests.Select(test => test switch
        {
            DryCompressionTest dry => dry with { Readings = Corrected(dry.Readings, dry, RecordRules.UnitOf(dry.Unit, record.Engine)) },
            WetCompressionTest wet => wet with { Readings = Corrected(wet.Readings, wet, RecordRules.UnitOf(wet.Unit, record.Engine)) },
            _ => test,
        })],
    };

    private static IReadOnlyList<CompressionReading>? Corrected(IReadOnlyList<CompressionReading>? readings, TestEntry test, PressureUnit unit) =>
        readings is null ? null : [.. readings.Select(r => r with { Corrected = Corrected(r, test, unit) ?? r.Corrected })];

    private static double? Corrected(CompressionReading reading, TestEntry test, PressureUnit unit)
    {
        if (reading.ReadAs(unit) is not { } read)
        {
            return null;
        }
        var correction = GaugeCorrection.Of(reading.Tester ?? test.Tester);
        var pressurePa = Barometer.AtSeaLevel(correction?.Correct(read.Pascals) ?? read.Pascals, reading.Conditions?.BarometricKPa ?? test.Conditions?.BarometricKPa);
        return pressurePa == read.Pascals ? null : Math.Round(pressurePa / unit.Pascals(), unit.Decimals() + 2);
    }
}
