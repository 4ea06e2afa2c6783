using System.Globalization;
using System.Text;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Units;

namespace Zandrik.Core.Imports;

/// <summary>An old job from a row of a table, or what keeps it from being one.</summary>
/// <param name="Row">Its row, from 1, the row with the names not counted.</param>
/// <param name="Vehicle">The vehicle; empty where the row does not say.</param>
/// <param name="Day">The day it was done; absent where the row does not say.</param>
/// <param name="Record">The job as an open record; absent where there are problems.</param>
/// <param name="Sheet">The name of the shop's engine sheet the engine is of; absent for none.</param>
/// <param name="Identity">Registration, hull or chassis number; absent where the row does not say.</param>
/// <param name="Problems">What is wrong, column by column; empty where the row can be imported.</param>
public sealed record JobRow(int Row, string Vehicle, DateOnly? Day, TestRecord? Record, string? Sheet, string? Identity, IReadOnlyList<string> Problems);

/// <summary>How the rows of a shop are to be understood.</summary>
/// <param name="Dates">How the shop writes days, where they do not begin with the year.</param>
/// <param name="Unit">The unit of pressures where a row names none.</param>
/// <param name="Sheets">The shop's engine sheets by name.</param>
/// <param name="Noon">The moment a day of the shop stands for: a list of old jobs knows no time.</param>
/// <param name="Today">Today in the shop: no old job is later.</param>
public sealed record JobImportRules(DateStyle Dates, PressureUnit Unit, IReadOnlyDictionary<string, EngineSheet> Sheets, Func<DateOnly, DateTimeOffset> Noon, DateOnly Today);

/// <summary>
/// Old jobs from a table: one row each, with the readings of all cylinders in one cell, or each in a column of its own,
/// side by side.
/// </summary>
public static class JobImport
{
    /// <summary>What can be read.</summary>
    public static IReadOnlyList<ImportColumn> Columns { get; } =
    [
        new("vehicle", "Vehicle", "what the shop calls it", true, "machine", "unit", "car", "truck", "name"),
        new("date", "Date", "the day of the test", true, "day", "tested", "tested on"),
        new("dry", "Dry", "all readings, as in 175/172/168/174, or the column of cylinder 1, the others beside it", false, "dry 1", "compression", "compression 1", "cyl 1", "cylinder 1", "cyl1", "1"),
        new("wet", "Wet", "the same, with oil", false, "wet 1", "wet compression"),
        new("lost", "Leak-down", "percent lost, the same way", false, "leak 1", "leak-down 1", "lost 1", "leakage", "leakdown"),
        new("pressureUnit", "Pressure unit", "psi, bar, kPa or kgf/cm²; else the shop's", false, "units", "pressure units", "gauge unit"),
        new("engine", "Engine", "the name of an engine sheet, or in words", false, "engine sheet", "motor", "engine type"),
        new("cylinders", "Cylinders", "how many; else as many as readings, or the sheet's", false, "cyls", "number of cylinders"),
        new("fuel", "Fuel", "petrol, diesel, LPG, CNG", false),
        new("odometer", "Odometer", "km, miles or hours, with the unit behind it or km", false, "mileage", "km", "miles", "hours", "kilometres", "kilometers"),
        new("identity", "Registration", "registration, hull or chassis number", false, "plate", "reg", "chassis", "hull", "vin"),
        new("serial", "Engine serial", "serial number or tag of the engine", false, "serial number", "engine number"),
        new("complaint", "Complaint", "why it was tested", false, "reason", "notes", "remarks", "comment"),
        new("by", "Tested by", "who did it", false, "technician", "tester", "mechanic", "tested by"),
        new("found", "Found", "what was wrong when it was open, as in “exhaust valve”", false, "cause", "fault", "result"),
        new("foundCylinder", "Found in cylinder", "its number, with Found", false, "found cylinder", "cylinder found"),
    ];

    private static readonly string[] Figures = ["dry", "wet", "lost"];

    // What may stand in "found": the trade's words of every fault, and the words of the open record.
    private static readonly IReadOnlyDictionary<string, Fault> Faults = Enum.GetValues<Fault>()
        .SelectMany(f => new[] { RecordWords.Of(f), Article(FaultWords.Of(f)), FaultWords.Of(f) }.Select(w => (Word: RowReader.Letters(w), Fault: f)))
        .DistinctBy(w => w.Word).ToDictionary(w => w.Word, w => w.Fault);

    private static readonly IReadOnlyDictionary<string, PressureUnit> Units = PressureUnits.All
        .SelectMany(u => new[] { RecordWords.Of(u), u.Symbol() }.Select(w => (Word: RowReader.Letters(w), Unit: u))).DistinctBy(w => w.Word).ToDictionary(w => w.Word, w => w.Unit);

    private static readonly IReadOnlyDictionary<string, Fuel> Fuels = Enum.GetValues<Fuel>()
        .Select(f => (Word: RowReader.Letters(RecordWords.Of(f)), Fuel: f)).Append((Word: "gasoline", Fuel: Fuel.Petrol)).DistinctBy(w => w.Word).ToDictionary(w => w.Word, w => w.Fuel);

    private static string Article(string words) => words.StartsWith("a ", StringComparison.Ordinal) ? words[2..] : words.StartsWith("an ", StringComparison.Ordinal) ? words[3..] : words.StartsWith("the ", StringComparison.Ordinal) ? words[4..] : words;

    /// <summary>Reads a table.</summary>
    /// <param name="table">The table.</param>
    /// <param name="match">Which of its columns holds what: places from 0 by the words of <see cref="Columns"/>.</param>
    /// <param name="rules">How the shop writes.</param>
    /// <returns>A row for each of the table.</returns>
    public static IReadOnlyList<JobRow> Read(ImportTable table, IReadOnlyDictionary<string, int> match, JobImportRules rules) =>
        [.. table.Rows.Select((_, i) => Row(table, i, match, rules))];

    /// <summary>The columns that are read as those of further cylinders, because they stand beside the one that was chosen.</summary>
    /// <param name="table">The table.</param>
    /// <param name="match">Which of its columns holds what.</param>
    /// <returns>Their places, from 0; those that were chosen themselves are not among them.</returns>
    public static IReadOnlyList<int> Beside(ImportTable table, IReadOnlyDictionary<string, int> match) =>
        [.. Figures.SelectMany(key => match.TryGetValue(key, out var first) && first < table.Headers.Count ? Run(table.Headers, first, match).Skip(1) : [])];

    private static JobRow Row(ImportTable table, int i, IReadOnlyDictionary<string, int> match, JobImportRules rules)
    {
        var cells = new RowReader(table, i, match);
        var vehicle = cells.Text("vehicle", "Vehicle", 200);
        if (vehicle is null && cells.Problems.Count == 0)
        {
            cells.Wrong("Vehicle", "the row does not say which vehicle it was.");
        }
        var before = cells.Problems.Count;
        var day = cells.Day("date", "Date", rules.Dates);
        if (day is null && cells.Problems.Count == before)
        {
            cells.Wrong("Date", "the row does not say when it was.");
        }
        if (day > rules.Today)
        {
            cells.Wrong("Date", "this day has not come yet.");
        }
        var unit = cells.Word("pressureUnit", "Pressure unit", Units, PressureUnits.All.Select(u => u.Symbol())) ?? rules.Unit;
        var named = cells.Text("engine", "Engine", 200);
        var sheet = named is null ? null : rules.Sheets.Keys.FirstOrDefault(s => string.Equals(s, named, StringComparison.OrdinalIgnoreCase));
        var (dry, wet, lost) = (Readings(table, cells, match, "dry", "Dry"), Readings(table, cells, match, "wet", "Wet"), Readings(table, cells, match, "lost", "Leak-down"));
        var highest = PressureEntry.HighestBar * PressureUnit.Bar.Pascals() / unit.Pascals();
        Within(cells, dry, "Dry", highest, unit.Symbol());
        Within(cells, wet, "Wet", highest, unit.Symbol());
        Within(cells, lost, "Leak-down", 100, "%");
        var cylinders = (int?)cells.Number("cylinders", "Cylinders", 1, 16) ?? (sheet is null ? (int?)null : rules.Sheets[sheet].Cylinders) ?? new[] { dry.Count, wet.Count, lost.Count }.Max();
        if (cylinders == 0)
        {
            cells.Wrong("Cylinders", "say how many the engine has.");
        }
        else if (Math.Max(dry.Count, Math.Max(wet.Count, lost.Count)) > cylinders)
        {
            cells.Wrong("Cylinders", $"there are more readings than the {cylinders} cylinders of the engine.");
        }
        else if (sheet is not null && cylinders != rules.Sheets[sheet].Cylinders)
        {
            cells.Wrong("Cylinders", $"the sheet “{sheet}” has {rules.Sheets[sheet].Cylinders}.");
        }
        var (found, foundIn) = (cells.Word("found", "Found", Faults, Enum.GetValues<Fault>().Select(f => Article(FaultWords.Of(f)))), (int?)cells.Number("foundCylinder", "Found in cylinder", 1, 16));
        var complaint = cells.Text("complaint", "Complaint", 2000);
        var by = cells.Text("by", "Tested by", 100);
        var odometer = Odometer(table, cells);
        if (dry.Concat(wet).Concat(lost).All(r => r is null) && complaint is null && found is null && cells.Problems.Count == 0)
        {
            cells.Wrong("Dry", "the row has no reading, no complaint and nothing that was found.");
        }
        var identity = cells.Text("identity", "Registration", 200);
        var serial = cells.Text("serial", "Engine serial", 100);
        var fuel = cells.Word("fuel", "Fuel", Fuels, Enum.GetValues<Fuel>().Select(RecordWords.Of));
        if (cells.Problems.Count > 0)
        {
            return new JobRow(i + 1, vehicle ?? "", day, null, sheet, identity, cells.Problems);
        }
        var at = rules.Noon(day!.Value);
        var engine = sheet is not null ? rules.Sheets[sheet] : new EngineSheet { Name = named, Cylinders = cylinders, Fuel = fuel };
        var record = new TestRecord
        {
            Vehicle = new Vehicle { Label = vehicle, Odometer = odometer },
            Engine = engine with { Serial = serial },
            Complaint = complaint,
            Tests = Tests(dry, wet, lost, unit, at, by) is { Count: > 0 } tests ? tests : null,
            Found = found is { } fault ? [new FoundFault { Fault = fault, Cylinder = foundIn, At = at, By = by }] : null,
        };
        // What the open record refuses from anybody is refused here too, in its own words.
        var checkedRecord = TestRecordJson.Read(Encoding.UTF8.GetBytes(TestRecordJson.Write(record)));
        // A whole list in another unit is found out here, not job by job.
        if (checkedRecord.Record is { } read && JudgedTests.Of(read, unit).Dry?.Questions is [{ Likely: var likely }, ..])
        {
            return new JobRow(i + 1, vehicle!, day, null, sheet, identity, [$"Dry: these figures would be usual in {likely.Symbol()}, not in {unit.Symbol()}. Choose their unit."]);
        }
        return new JobRow(i + 1, vehicle!, day, checkedRecord.Record, sheet, identity, [.. checkedRecord.Problems.Select(p => $"{p.Pointer.TrimStart('/')}: {p.Says}")]);
    }

    private static List<TestEntry> Tests(List<double?> dry, List<double?> wet, List<double?> lost, PressureUnit unit, DateTimeOffset at, string? by)
    {
        var tests = new List<TestEntry>();
        IReadOnlyList<CompressionReading> Compression(List<double?> read) => [.. read.Select((v, c) => (Cylinder: c + 1, Value: v)).Where(r => r.Value is not null).Select((r, n) => new CompressionReading { Cylinder = r.Cylinder, Value = r.Value })];
        if (dry.Any(v => v is not null))
        {
            tests.Add(new DryCompressionTest { At = at, By = by, Unit = unit, Readings = Compression(dry) });
        }
        if (lost.Any(v => v is not null))
        {
            // A list knows the percentage only, and neither supply nor what was heard.
            tests.Add(new LeakDownTest { At = at, By = by, Readings = [.. lost.Select((v, c) => (Cylinder: c + 1, Value: v)).Where(r => r.Value is not null).Select(r => new LeakDownReading { Cylinder = r.Cylinder, LeakPercent = r.Value })] });
        }
        if (wet.Any(v => v is not null))
        {
            tests.Add(new WetCompressionTest { At = at, By = by, Unit = unit, Readings = Compression(wet) });
        }
        return tests;
    }

    // All in one cell, or one in each of the columns that are called alike but for their number.
    private static List<double?> Readings(ImportTable table, RowReader cells, IReadOnlyDictionary<string, int> match, string key, string name)
    {
        if (cells.At(key) is not { } first)
        {
            return [];
        }
        var parts = Parts(cells.Cell(first));
        var run = parts.Count > 1 ? [first] : Run(table.Headers, first, match);
        var texts = run.Count == 1 ? parts : [.. run.Select(cells.Cell)];
        var read = new List<double?>();
        foreach (var text in texts)
        {
            if (text.Length == 0 || text is "-" or "–" or "?" or "x")
            {
                read.Add(null);
                continue;
            }
            if (RowReader.Figure(text.TrimEnd('%').TrimEnd()) is not { } value)
            {
                cells.Wrong(name, $"“{text}” is not a reading.");
                return [];
            }
            read.Add(value);
        }
        while (read.Count > 0 && read[^1] is null)
        {
            read.RemoveAt(read.Count - 1);
        }
        return read;
    }

    private static List<string> Parts(string cell)
    {
        var parts = cell.Split(['/', ';', '|', ' ', '\u00A0', '-', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).ToList();
        // Two commas or more cannot be a decimal mark.
        return parts is [var one] && one.Count(c => c == ',') > 1 ? [.. one.Split(',', StringSplitOptions.TrimEntries)] : parts;
    }

    // The columns to the right of the first that have its name with another number, up to one that holds something else.
    private static List<int> Run(IReadOnlyList<string> headers, int first, IReadOnlyDictionary<string, int> match)
    {
        static string Stem(string header) => new([.. header.Where(c => !char.IsDigit(c)).Select(char.ToLowerInvariant)]);
        var run = new List<int> { first };
        if (!headers[first].Any(char.IsDigit))
        {
            return run;
        }
        for (var at = first + 1; at < headers.Count && run.Count < 16 && Stem(headers[at]) == Stem(headers[first]) && headers[at].Any(char.IsDigit) && !match.Values.Contains(at); at++)
        {
            run.Add(at);
        }
        return run;
    }

    private static void Within(RowReader cells, List<double?> read, string name, double most, string unit)
    {
        for (var c = 0; c < read.Count; c++)
        {
            if (read[c] is { } value && (value < 0 || value > most))
            {
                cells.Wrong(name, string.Create(CultureInfo.InvariantCulture, $"{value} in cylinder {c + 1} is not between 0 and {Math.Round(most)} {unit}: is the unit right?"));
            }
        }
    }

    private static Odometer? Odometer(ImportTable table, RowReader cells)
    {
        if (cells.Text("odometer", "Odometer", 60) is not { } text)
        {
            return null;
        }
        var digits = new string([.. text.TakeWhile(c => !char.IsLetter(c))]).Trim();
        // The unit stands behind the figure, or in the name of the column.
        var word = text[digits.Length..].Trim().TrimEnd('.').ToLowerInvariant() is { Length: > 0 } said ? said : table.Headers[cells.At("odometer")!.Value].ToLowerInvariant();
        DistanceUnit? unit = word is "mi" or "miles" or "mile" ? DistanceUnit.Mi : word is "h" or "hours" or "hrs" or "hour" ? DistanceUnit.H : DistanceUnit.Km;
        // Nobody reads an odometer to the thousandth: three digits behind one mark are thousands.
        if (digits.Length > 4 && digits[^4] is '.' or ',')
        {
            digits = digits.Replace(".", "", StringComparison.Ordinal).Replace(",", "", StringComparison.Ordinal);
        }
        if (RowReader.Figure(digits) is { } value && value is >= 0 and <= 1e8)
        {
            return new Odometer { Value = value, Unit = unit.Value };
        }
        cells.Wrong("Odometer", $"“{text}” is not a distance or a number of hours.");
        return null;
    }
}
