using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Web.Front;

namespace Zandrik.Web.Captures;

/// <summary>How a capture is read and what is asked of it, as it is shown and corrected before it is judged.</summary>
public sealed class CaptureForm
{
    /// <summary>How a table may be written: word, what it is called, separation and decimal mark.</summary>
    public static readonly IReadOnlyList<(string Word, string Name, char Delimiter, bool Comma)> Ways =
    [
        ("comma", "comma between columns, decimal point", ',', false),
        ("semicolon", "semicolon between columns, decimal point", ';', false),
        ("semicolon-comma", "semicolon between columns, decimal comma", ';', true),
        ("tab", "tab between columns, decimal point", '\t', false),
        ("tab-comma", "tab between columns, decimal comma", '\t', true),
    ];

    /// <summary>Units of a time column, s each.</summary>
    public static readonly IReadOnlyList<(string Word, double Seconds)> TimeUnits = [("s", 1), ("ms", 1e-3), ("µs", 1e-6), ("ns", 1e-9)];

    /// <summary>Units of the current's column; volts and millivolts are a clamp's.</summary>
    public static readonly IReadOnlyList<string> CurrentUnits = ["A", "mA", "V", "mV"];

    public string? Written { get; set; }

    /// <summary>The role of each column.</summary>
    public List<string> Roles { get; set; } = [];
    public string? TimeUnit { get; set; }
    public string? Rate { get; set; }
    public string? CurrentUnit { get; set; }
    public string? Clamp { get; set; }
    public string? FullScale { get; set; }
    public string? FiringOrder { get; set; }
    public string? Sync { get; set; }
    public string? SyncCylinder { get; set; }
    public string? SyncAngle { get; set; }
    public string? Unplugged { get; set; }

    /// <summary>The form with what is guessed, or was said before.</summary>
    /// <param name="found">What the file shows.</param>
    /// <param name="layout">How it would be read.</param>
    /// <param name="before">What was asked of the capture, or of the clamp's last one; absent for nothing yet.</param>
    /// <param name="engine">The engine.</param>
    /// <param name="clampScale">The clamp's scale, mV per A; absent when not known.</param>
    public static CaptureForm Of(CaptureInspection found, CaptureLayout layout, CaptureQuestion? before, EngineSheet engine, double? clampScale)
    {
        var unit = found.Columns.FirstOrDefault(c => c.Index == layout.CurrentColumn)?.Unit;
        // A column without a unit that was judged before has the unit its scale had.
        unit = CurrentUnits.Contains(unit) ? unit : layout is { Kind: CaptureKind.Text, ScaleKnown: true } ? layout.AmpsPerUnit switch { 1 => "A", 1e-3 => "mA", _ => "V" } : "V";
        var volts = unit is not ("A" or "mA");
        var perVolt = unit == "mV" ? layout.AmpsPerUnit * 1000 : layout.AmpsPerUnit;
        return new CaptureForm
        {
            Written = Ways.FirstOrDefault(w => w.Delimiter == layout.Delimiter && w.Comma == layout.DecimalComma).Word,
            Roles = [.. found.Columns.Select(c => RecordWords.Of(RoleOf(c.Index, layout)))],
            TimeUnit = TimeUnits.FirstOrDefault(u => Math.Abs(u.Seconds / layout.TimeUnitS - 1) < 1e-9).Word ?? "s",
            Rate = layout.IntervalS is { } step ? TypedFields.Text(Math.Round(1 / step, 3)) : null,
            CurrentUnit = unit,
            Clamp = volts ? TypedFields.Text(layout.ScaleKnown ? Math.Round(1000 / perVolt, 6) : clampScale) : TypedFields.Text(clampScale),
            FullScale = layout is { Kind: CaptureKind.Wav, ScaleKnown: true } ? TypedFields.Text(layout.AmpsPerUnit) : null,
            FiringOrder = CylinderList.Text(engine.FiringOrder ?? before?.FiringOrder),
            Sync = RecordWords.Of(layout.SyncColumn is null ? SyncKind.None : before?.Sync is { } s && s != SyncKind.None ? s
                : engine.Features?.Contains(EngineFeature.WasteSpark) == true ? SyncKind.WasteSpark : engine.Fuel == Fuel.Diesel ? SyncKind.Injector : SyncKind.EveryCycle),
            SyncCylinder = TypedFields.Text(before?.SyncCylinder ?? (engine.FiringOrder is { Count: > 0 } order && !order.Contains(1) ? order[0] : 1)),
            SyncAngle = TypedFields.Text(before?.SyncAngleDeg ?? CaptureQuestion.UsualSyncAngle),
            Unplugged = TypedFields.Text(before?.Unplugged),
        };
    }

    /// <summary>How the file is said to be written; absent for as it is guessed.</summary>
    public (char Delimiter, bool DecimalComma)? AsWritten => Ways.FirstOrDefault(w => w.Word == Written) is { Word: not null } way ? (way.Delimiter, way.Comma) : null;

    /// <summary>Reads the form; every field that needs another look is in <paramref name="fields"/>.</summary>
    public (CaptureLayout Layout, CaptureQuestion Question) Read(CaptureInspection found, EngineSheet engine, double limitPercent, TypedFields fields)
    {
        int? Column(ColumnRole role)
        {
            var at = Enumerable.Range(0, Math.Min(Roles.Count, found.Columns.Count)).Where(i => RecordWords.TryParse<ColumnRole>(Roles[i], out var r) && r == role).ToList();
            if (at.Count > 1)
            {
                fields.Add($"role-{at[1]}", $"Only one column can be {Name(role)}.");
            }
            return at.Count > 0 ? found.Columns[at[0]].Index : null;
        }
        var (time, current, sync, battery) = (Column(ColumnRole.Time), Column(ColumnRole.Current), Column(ColumnRole.Sync), Column(ColumnRole.Battery));
        if (current is null)
        {
            fields.Add("role-0", "Say which column is the starter current.");
        }
        var rate = fields.Number(Rate, "rate", 1, 1e9);
        if (found.Layout.Kind == CaptureKind.Text && time is null && rate is null && fields.Problem("rate") is null)
        {
            fields.Add("rate", "There is no column of time: write how many samples a second, or say which column is the time.");
        }
        var clamp = fields.Number(Clamp, "clamp", 1e-4, 1e4);
        var full = fields.Number(FullScale, "full-scale", 1e-3, 1e6);
        var (scale, known) = found.Layout.Kind == CaptureKind.Wav ? (full ?? 1, full is not null) : CurrentUnit switch
        {
            "A" => (1, true),
            "mA" => (1e-3, true),
            "mV" => (clamp is { } mv ? 1 / mv : 1, clamp is not null),
            _ => (clamp is { } v ? 1000 / v : 1000, clamp is not null),
        };
        var kind = sync is null ? SyncKind.None : RecordWords.Parse(Sync, SyncKind.EveryCycle);
        var order = engine.FiringOrder is { Count: > 0 } known2 ? known2 : CylinderList.Read(FiringOrder ?? "") ?? [];
        var question = new CaptureQuestion
        {
            FiringOrder = order,
            FiringAngles = engine.FiringAngles,
            Fuel = engine.Fuel,
            CompressionRatio = engine.CompressionRatio,
            SweptCc = engine.DisplacementCc is { } cc ? cc / engine.Cylinders : null,
            Sync = kind,
            SyncCylinder = fields.Whole(SyncCylinder, "sync-cylinder", 1, engine.Cylinders) ?? 1,
            SyncAngleDeg = fields.Number(SyncAngle, "sync-angle", -720, 720) ?? CaptureQuestion.UsualSyncAngle,
            Unplugged = kind == SyncKind.None ? fields.Whole(Unplugged, "unplugged", 1, engine.Cylinders) : null,
            ScaleKnown = known,
            LimitPercent = limitPercent,
        };
        if (order.Count != engine.Cylinders)
        {
            fields.Add("firing-order", $"Write all {engine.Cylinders} cylinders in the order they fire, as in 1-3-4-2.");
        }
        else if (question.Problem() is { } problem)
        {
            fields.Add(problem.Pointer switch { "/syncCylinder" => "sync-cylinder", "/syncAngle" => "sync-angle", "/unplugged" => "unplugged", _ => "firing-order" }, problem.Says);
        }
        var layout = found.Layout with
        {
            TimeColumn = time,
            TimeUnitS = TimeUnits.FirstOrDefault(u => u.Word == TimeUnit) is { Word: not null } t ? t.Seconds : 1,
            IntervalS = time is null ? 1 / rate : found.Layout.IntervalS,
            CurrentColumn = current ?? 0,
            AmpsPerUnit = scale,
            ScaleKnown = known,
            SyncColumn = sync,
            BatteryColumn = battery,
            VoltsPerUnit = found.Columns.FirstOrDefault(c => c.Index == battery)?.Unit.StartsWith('m') == true ? 1e-3 : 1,
        };
        return (found.Layout.Kind == CaptureKind.Wav ? layout with { IntervalS = found.Layout.IntervalS } : layout, question);
    }

    /// <summary>A role as it is chosen.</summary>
    public static string Name(ColumnRole role) => role switch
    {
        ColumnRole.Time => "time",
        ColumnRole.Current => "starter current",
        ColumnRole.Sync => "sync",
        ColumnRole.Battery => "battery voltage",
        _ => "not used",
    };

    /// <summary>A kind of sync as it is chosen.</summary>
    public static string Name(SyncKind kind) => kind switch
    {
        SyncKind.EveryCycle => "once every two turns (own coil, cam)",
        SyncKind.WasteSpark => "every turn (coil of two cylinders)",
        SyncKind.Injector => "injector (a dip)",
        _ => "nothing usable",
    };

    private static ColumnRole RoleOf(int column, CaptureLayout layout) => column == layout.TimeColumn ? ColumnRole.Time
        : column == layout.CurrentColumn ? ColumnRole.Current
        : column == layout.SyncColumn ? ColumnRole.Sync
        : column == layout.BatteryColumn ? ColumnRole.Battery : ColumnRole.Ignored;
}
