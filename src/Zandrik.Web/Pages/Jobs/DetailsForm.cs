using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What can be noted about a reading beside its figure, as it is typed.</summary>
public sealed class DetailsForm
{
    public string? Pulses { get; set; }
    public string? Seconds { get; set; }
    public string? BatteryV { get; set; }
    public string? CrankingRpm { get; set; }
    public string? PumpUp { get; set; }
    public string? Says { get; set; }
    public string? NeedleAtZero { get; set; }

    public static DetailsForm Of(CompressionReading? reading, PressureUnit testUnit, PressureUnit shown) => reading is null ? new DetailsForm() : new DetailsForm
    {
        Pulses = TypedFields.Text(reading.Pulses),
        Seconds = TypedFields.Text(reading.Seconds),
        BatteryV = TypedFields.Text(reading.BatteryV),
        CrankingRpm = TypedFields.Text(reading.CrankingRpm),
        PumpUp = string.Join(' ', (reading.PulseValues ?? []).Select(v => new GaugePressure(v, testUnit).Text(shown))),
        Says = reading.Says,
        NeedleAtZero = reading.Conditions?.NeedleAtZero switch { true => "yes", false => "no", null => "" },
    };

    public ReadingDetails Read(TypedFields fields, PressureUnit unit)
    {
        var curve = new List<GaugePressure>();
        foreach (var part in (PumpUp ?? "").Split([' ', ';', '/', '\t', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            var typed = PressureEntry.Read(part, unit);
            if (typed.Pressure is { } pressure)
            {
                curve.Add(pressure);
            }
            else
            {
                fields.Add("pump-up", $"“{part}”: {typed.Problem}");
            }
        }
        if (ReadingDetails.Problem(curve) is { } problem)
        {
            fields.Add("pump-up", problem);
        }
        return new ReadingDetails
        {
            Pulses = fields.Whole(Pulses, "pulses", 1, 100),
            Seconds = fields.Number(Seconds, "seconds", 0.1, 120),
            BatteryV = fields.Number(BatteryV, "battery-v", 0, 60),
            CrankingRpm = fields.Number(CrankingRpm, "rpm", 10, 1000),
            Says = fields.Text(Says, "says", 300),
            PumpUp = curve.Count > 0 ? curve : null,
            NeedleAtZero = NeedleAtZero switch { "yes" => true, "no" => false, _ => null },
        };
    }
}
