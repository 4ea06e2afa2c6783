using System.Globalization;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Testers;

/// <summary>A tester as it is typed.</summary>
public sealed class TesterForm
{
    /// <summary>Rows for points of a check.</summary>
    public const int MostPoints = 8;

    public string? Label { get; set; }
    public string? Kind { get; set; } = "gauge";
    public string? Unit { get; set; } = "psi";
    public string? FullScale { get; set; }
    public string? CheckValve { get; set; }
    public string? HoseMl { get; set; }
    public string? AdapterMl { get; set; }
    public string? RestrictionMm { get; set; }
    public string? MilliVoltsPerAmp { get; set; }
    public string? CheckedOn { get; set; }
    public string? CheckedBy { get; set; }
    public string? CheckEveryMonths { get; set; }
    public List<string?> Reads { get; set; } = [];
    public List<string?> Is { get; set; } = [];
    public string? Notes { get; set; }

    public static TesterForm Of(ShopTester t) => new()
    {
        Label = t.Label,
        Kind = RecordWords.Of(t.Kind),
        Unit = RecordWords.Of(t.Unit),
        FullScale = TypedFields.Text(t.FullScale),
        CheckValve = t.CheckValve is { } valve ? RecordWords.Of(valve) : "",
        HoseMl = TypedFields.Text(t.HoseMl),
        AdapterMl = TypedFields.Text(t.AdapterMl),
        RestrictionMm = TypedFields.Text(t.RestrictionMm),
        MilliVoltsPerAmp = TypedFields.Text(t.MilliVoltsPerAmp),
        CheckedOn = t.CheckedOn?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
        CheckedBy = t.CheckedBy,
        CheckEveryMonths = t.CheckEveryMonths?.ToString(CultureInfo.InvariantCulture),
        Reads = [.. t.Points.Select(p => TypedFields.Text(p.Reads))],
        Is = [.. t.Points.Select(p => TypedFields.Text(p.Is))],
        Notes = t.Notes,
    };

    public ShopTester Read(TypedFields fields, DateOnly today)
    {
        var unit = RecordWords.Parse(Unit, PressureUnit.Psi);
        var highest = Math.Round(PressureEntry.HighestBar * PressureUnit.Bar.Pascals() / unit.Pascals());
        var points = new List<CheckPoint>();
        for (var i = 0; i < Math.Min(MostPoints, Math.Max(Reads.Count, Is.Count)); i++)
        {
            var (reads, truly) = (fields.Number(Reads.ElementAtOrDefault(i), "points", 0, highest), fields.Number(Is.ElementAtOrDefault(i), "points", 0, highest));
            if (reads is { } r && truly is { } t)
            {
                points.Add(new CheckPoint { Reads = r, Is = t });
            }
            else if ((reads is null) != (truly is null))
            {
                fields.Add("points", "A point needs both: what the gauge read, and what it was.");
            }
        }
        if (GaugeCorrection.Problem(points) is { } contradiction)
        {
            fields.Add("points", contradiction);
        }
        var checkedOn = fields.Day(CheckedOn, "checked-on");
        if (checkedOn > today)
        {
            fields.Add("checked-on", "That day has not come yet.");
        }
        if (points.Count > 0 && checkedOn is null)
        {
            fields.Add("checked-on", "Say on which day the points were taken.");
        }
        var label = fields.Text(Label, "label", 60);
        if (label is null)
        {
            fields.Add("label", "Say what the shop calls it.");
        }
        return new ShopTester
        {
            Label = label ?? "",
            Kind = RecordWords.Parse(Kind, TesterKind.Gauge),
            Unit = unit,
            FullScale = fields.Number(FullScale, "full-scale", 0, 100_000),
            CheckValve = fields.Word<CheckValvePlace>(CheckValve, "check-valve"),
            HoseMl = fields.Number(HoseMl, "hose", 0, 1000),
            AdapterMl = fields.Number(AdapterMl, "adapter", 0, 1000),
            RestrictionMm = fields.Number(RestrictionMm, "restriction", 0.1, 10),
            MilliVoltsPerAmp = fields.Number(MilliVoltsPerAmp, "clamp", 0.01, 1000),
            CheckedOn = checkedOn,
            CheckedBy = fields.Text(CheckedBy, "checked-by", 200),
            CheckEveryMonths = fields.Whole(CheckEveryMonths, "every", 1, 120),
            Points = points,
            Notes = fields.Text(Notes, "notes", 4000),
        };
    }
}
