using System.Globalization;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Web.Intake;

/// <summary>
/// The intake as it is typed: every field a text, so that nothing a person typed is lost when one of
/// them has to be put right. Problems name fields by their pointer in the open record.
/// </summary>
public sealed class IntakeForm
{
    /// <summary>Made with each blank form: sent twice (a double tap), it opens one job.</summary>
    public string? Once { get; set; } = Guid.NewGuid().ToString("N");

    /// <summary>How often the intake had been changed when this form was opened; absent for a new job.</summary>
    public int? Seen { get; set; }

    public string? Vehicle { get; set; }
    public string? Odometer { get; set; }
    public string? OdometerUnit { get; set; } = "km";

    /// <summary>What was said of an odometer that does not fit the vehicle's other jobs: <see cref="WasReplaced"/>, <see cref="IsRight"/>, or nothing.</summary>
    public string? OdometerSaid { get; set; }

    /// <summary>The figure and unit that was asked about: saved again without an answer it is kept as it is.</summary>
    public string? OdometerAsked { get; set; }

    /// <summary>The odometer was changed since the job before.</summary>
    public const string WasReplaced = "replaced";

    /// <summary>The figure is right; the other one is the slip.</summary>
    public const string IsRight = "right";

    /// <summary>The figure and unit as they stand in the form.</summary>
    public string OdometerTyped => $"{Odometer?.Trim()} {OdometerUnit}";
    public string? Preset { get; set; }

    /// <summary>Row of the version of the engine sheet that was chosen; absent for none.</summary>
    public int? Sheet { get; set; }

    public string? EngineName { get; set; }

    /// <summary>Serial number or the shop's tag of this one engine.</summary>
    public string? Serial { get; set; }
    public string? Fuel { get; set; }
    public string? Throttle { get; set; }
    public string? Cylinders { get; set; }
    public string? Layout { get; set; }
    public string? Banks { get; set; }
    public string? FiringOrder { get; set; }
    public string? CompressionRatio { get; set; }
    public string? DisplacementCc { get; set; }
    public string? SpecUnit { get; set; } = "psi";
    public string? Nominal { get; set; }
    public string? Minimum { get; set; }
    public string? MaxDifference { get; set; }
    public string? Complaint { get; set; }
    public string? RuledOut { get; set; }
    public List<string> Observations { get; set; } = [];

    /// <summary>What the engine has that changes a test, as words; counts only with <see cref="FeaturesShown"/>.</summary>
    public List<string> Features { get; set; } = [];

    /// <summary>True where the form had the features and the wet test on it: a form that has not leaves them as they are.</summary>
    public bool FeaturesShown { get; set; }

    /// <summary>Whether the maker allows a wet test: <c>yes</c>, <c>no</c>, or empty for not said.</summary>
    public string? WetAllowed { get; set; }

    /// <summary>Minutes until the plugs can be reached, where it is not as the sheet says.</summary>
    public string? AccessMinutes { get; set; }

    /// <summary>What can be ruled out, one line for each item of the list.</summary>
    public List<RuledLine> Ruled { get; set; } = [.. RuledItems.Select(i => new RuledLine { Item = RecordWords.Of(i) })];

    private static IEnumerable<RuledOutItem> RuledItems => Enum.GetValues<RuledOutItem>().Where(i => i != RuledOutItem.Other);

    /// <summary>An item of the list as it stands on the form.</summary>
    public static string RuledName(string? word) => RecordWords.TryParse<RuledOutItem>(word, out var item) ? RuledOutList.Name(item) is var name ? char.ToUpperInvariant(name[0]) + name[1..] : "" : "";

    /// <summary>The form for a job that exists.</summary>
    public static IntakeForm Of(TestRecord record)
    {
        var engine = record.Engine;
        return new IntakeForm
        {
            Vehicle = record.Vehicle?.Label,
            Odometer = Text(record.Vehicle?.Odometer?.Value),
            OdometerUnit = record.Vehicle?.Odometer is { } o ? RecordWords.Of(o.Unit) : "km",
            EngineName = engine.Name,
            Serial = engine.Serial,
            Fuel = engine.Fuel is { } fuel ? RecordWords.Of(fuel) : null,
            Throttle = engine.Throttle is { } throttle ? RecordWords.Of(throttle) : null,
            Cylinders = Text(engine.Cylinders),
            Layout = engine.Layout is { } layout ? RecordWords.Of(layout) : null,
            Banks = CylinderList.BanksText(engine.Banks),
            FiringOrder = CylinderList.Text(engine.FiringOrder),
            CompressionRatio = Text(engine.CompressionRatio),
            DisplacementCc = Text(engine.DisplacementCc),
            SpecUnit = engine.Spec?.Unit is { } unit ? RecordWords.Of(unit) : "psi",
            Nominal = Text(engine.Spec?.Nominal),
            Minimum = Text(engine.Spec?.Minimum),
            MaxDifference = Text(engine.Spec?.MaxDifference),
            Complaint = record.Complaint,
            Ruled = [.. RuledItems.Select(i => (record.RuledOut ?? []).FirstOrDefault(r => r.Item == i) is { } r
                ? new RuledLine { Item = RecordWords.Of(i), Out = true, How = r.How }
                : new RuledLine { Item = RecordWords.Of(i) })],
            RuledOut = string.Join("\n", (record.RuledOut ?? []).Where(r => r.Item is null or RuledOutItem.Other).Select(r => r.How is null ? r.What : $"{r.What}: {r.How}")),
            Observations = [.. (record.Observations ?? []).Select(RecordWords.Of)],
            Features = [.. (engine.Features ?? []).Select(RecordWords.Of)],
            WetAllowed = engine.Spec?.WetAllowed is { } wet ? wet ? "yes" : "no" : null,
            AccessMinutes = Text(engine.AccessMinutes),
        };
    }

    /// <summary>Fills the engine in from a sheet.</summary>
    public void Fill(EngineSheet engine)
    {
        var from = Of(new TestRecord { Engine = engine });
        (EngineName, Fuel, Throttle, Cylinders, Layout, Banks, FiringOrder) = (from.EngineName, from.Fuel, from.Throttle, from.Cylinders, from.Layout, from.Banks, from.FiringOrder);
        (Features, WetAllowed, AccessMinutes) = (from.Features, from.WetAllowed, from.AccessMinutes);
        (CompressionRatio, DisplacementCc, SpecUnit, Nominal, Minimum, MaxDifference) = (from.CompressionRatio, from.DisplacementCc, from.SpecUnit, from.Nominal, from.Minimum, from.MaxDifference);
    }

    /// <summary>Fills the engine's shape from a preset; what belongs to one engine (name, figures) stays as typed.</summary>
    public void Fill(EnginePreset preset)
    {
        Preset = preset.Id;
        Fuel = RecordWords.Of(preset.Fuel);
        Cylinders = Text(preset.Cylinders);
        Layout = RecordWords.Of(preset.Layout);
        Banks = CylinderList.BanksText(preset.Banks);
        FiringOrder = CylinderList.Text(preset.FiringOrders[0]);
        if (preset.Fuel == Core.Records.Fuel.Diesel)
        {
            Throttle = RecordWords.Of(ThrottleControl.None);
        }
    }

    /// <summary>
    /// Reads the form. Everything of <paramref name="before"/> that the form does not show (tests, what was
    /// found, unknown fields) is kept; of the engine that of <paramref name="sheet"/>, where one was chosen.
    /// </summary>
    /// <returns>The record, or the problems by field: exactly one of the two.</returns>
    public (TestRecord? Record, IReadOnlyList<FieldProblem> Problems) Read(TestRecord? before, EngineSheet? sheet = null)
    {
        var problems = new List<FieldProblem>();
        double? Number(string? typed, string pointer, string what)
        {
            var text = typed?.Replace(" ", "", StringComparison.Ordinal).Replace("\u202F", "", StringComparison.Ordinal).Replace(',', '.') ?? "";
            if (text.Length == 0)
            {
                return null;
            }
            if (double.TryParse(text, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var value) && double.IsFinite(value))
            {
                return value;
            }
            problems.Add(new FieldProblem(pointer, $"Write {what} as a number, or leave it empty."));
            return null;
        }
        T? Word<T>(string? typed, string pointer) where T : struct, Enum
        {
            if (string.IsNullOrEmpty(typed))
            {
                return null;
            }
            if (RecordWords.TryParse<T>(typed, out var member))
            {
                return member;
            }
            problems.Add(new FieldProblem(pointer, "Choose one of the list."));
            return null;
        }

        var odometer = Number(Odometer, "/vehicle/odometer", "the odometer");
        if (odometer > 1e8)
        {
            problems.Add(new FieldProblem("/vehicle/odometer", "That is farther than anything has run: check the figure."));
        }
        if (string.IsNullOrWhiteSpace(Vehicle))
        {
            problems.Add(new FieldProblem("/vehicle/label", "Say which vehicle it is, as the shop calls it."));
        }
        if (!int.TryParse(Cylinders?.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var cylinders))
        {
            cylinders = 0;
        }
        var banks = CylinderList.ReadBanks(Banks);
        if (banks is null)
        {
            problems.Add(new FieldProblem("/engine/banks", "Write cylinder numbers with blanks between, banks apart by a slash: 1 3 5 / 2 4 6."));
        }
        var order = CylinderList.Read(FiringOrder);
        if (order is null)
        {
            problems.Add(new FieldProblem("/engine/firingOrder", "Write cylinder numbers with dashes between: 1-3-4-2."));
        }
        var old = sheet ?? before?.Engine ?? new EngineSheet();
        var engine = old with
        {
            Name = Trimmed(EngineName),
            Serial = Trimmed(Serial),
            Fuel = Word<Fuel>(Fuel, "/engine/fuel"),
            Throttle = Word<ThrottleControl>(Throttle, "/engine/throttle"),
            Cylinders = cylinders,
            Layout = Word<CylinderArrangement>(Layout, "/engine/layout"),
            Banks = banks is { Count: > 0 } ? banks : null,
            FiringOrder = order is { Count: > 0 } ? order : null,
            FiringAngles = order is { Count: > 0 } && old.FiringOrder is { } was && was.SequenceEqual(order) ? old.FiringAngles : null,
            CompressionRatio = Within(Number(CompressionRatio, "/engine/compressionRatio", "the ratio"), 2, 40, "/engine/compressionRatio"),
            DisplacementCc = Within(Number(DisplacementCc, "/engine/displacementCc", "the displacement"), 10, 1e6, "/engine/displacementCc"),
            Spec = Spec(old.Spec, Word<PressureUnit>(SpecUnit, "/engine/spec/unit"),
                Number(Nominal, "/engine/spec/nominal", "the pressure"),
                Number(Minimum, "/engine/spec/minimum", "the pressure"),
                Number(MaxDifference, "/engine/spec/maxDifference", "the pressure"),
                WetAllowed switch { "yes" => true, "no" => false, _ => FeaturesShown && sheet is null ? null : old.Spec?.WetAllowed }),
            AccessMinutes = !FeaturesShown ? old.AccessMinutes : Within(Number(AccessMinutes, "/engine/accessMinutes", "the minutes"), 0, 2880, "/engine/accessMinutes"),
            Features = !FeaturesShown ? old.Features
                : Features.Select(f => RecordWords.TryParse<EngineFeature>(f, out var has) ? has : (EngineFeature?)null).OfType<EngineFeature>().Concat(sheet?.Features ?? []).Distinct().ToList() is { Count: > 0 } all ? all : null,
        };
        foreach (var (text, pointer) in new[] { (Vehicle, "/vehicle/label"), (EngineName, "/engine/name"), (Serial, "/engine/serial"), (Complaint, "/complaint"), (RuledOut, "/ruledOut"), (string.Concat(Ruled.Select(r => r.How)), "/ruledOut") })
        {
            if (text?.Length > 4000 || text?.Contains('\0', StringComparison.Ordinal) == true)
            {
                problems.Add(new FieldProblem(pointer, "Shorten this to 4000 characters."));
            }
        }
        problems.AddRange(EngineRules.Check(engine)
            .Select(p => p with { Pointer = "/engine" + p.Pointer })
            .Where(p => problems.TrueForAll(q => q.Pointer != p.Pointer)));
        if (problems.Count == 0 && before is not null && TooFewFor(before, cylinders) is { } cylinder)
        {
            problems.Add(new FieldProblem("/engine/cylinders", $"Cylinder {cylinder} has readings on this job: the engine has at least {cylinder}."));
        }
        if (problems.Count > 0)
        {
            return (null, problems);
        }
        var oldVehicle = before?.Vehicle ?? new Vehicle();
        return ((before ?? new TestRecord()) with
        {
            Vehicle = oldVehicle with
            {
                Label = Trimmed(Vehicle),
                Odometer = odometer is { } run
                    ? (oldVehicle.Odometer ?? new Odometer()) with { Value = run, Unit = Word<DistanceUnit>(OdometerUnit, "") ?? DistanceUnit.Km }
                    : null,
            },
            Engine = engine,
            Complaint = Trimmed(Complaint),
            RuledOut = ReadRuled(before?.RuledOut),
            Observations = Observations.Select(o => RecordWords.TryParse<Observation>(o, out var member) ? member : (Observation?)null)
                .OfType<Observation>().Distinct().ToList() is { Count: > 0 } seen ? seen : null,
        }, []);

        double? Within(double? value, double min, double max, string pointer)
        {
            if (value is { } v && (v < min || v > max))
            {
                problems.Add(new FieldProblem(pointer, string.Create(CultureInfo.InvariantCulture, $"Write a number from {min} to {max}, or leave it empty.")));
            }
            return value;
        }
    }

    // One a line, what and how apart by a colon; a line that says what it said keeps who did it.
    private List<RuledOut>? ReadRuled(IReadOnlyList<RuledOut>? before)
    {
        // A line that says how it was done was done, ticked or not.
        var items = Ruled.Where(r => r.Out || !string.IsNullOrWhiteSpace(r.How)).Select(r => RecordWords.TryParse<RuledOutItem>(r.Item, out var item) && item != RuledOutItem.Other ? (Item: item, How: Trimmed(r.How)) : default((RuledOutItem Item, string? How)?))
            .OfType<(RuledOutItem Item, string? How)>().DistinctBy(r => r.Item)
            .Select(r => before?.FirstOrDefault(b => b.Item == r.Item && b.How == r.How) ?? new RuledOut { Item = r.Item, How = r.How });
        var lines = (RuledOut ?? "").Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Select(line =>
        {
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            var (what, how) = colon < 1 ? (line, null) : (line[..colon].Trim(), Trimmed(line[(colon + 1)..]));
            return before?.FirstOrDefault(r => r.What == what && r.How == how && r.Item is null or RuledOutItem.Other) ?? new RuledOut { What = what, How = how };
        });
        List<RuledOut> all = [.. items, .. lines];
        return all.Count > 0 ? all : null;
    }

    private static EngineSpec? Spec(EngineSpec? old, PressureUnit? unit, double? nominal, double? minimum, double? difference, bool? wetAllowed)
    {
        var spec = (old ?? new EngineSpec()) with { Unit = unit, Nominal = nominal, Minimum = minimum, MaxDifference = difference, WetAllowed = wetAllowed };
        return spec is { Nominal: null, Minimum: null, MaxDifference: null, MaxLeakPercent: null, WetAllowed: null, Unknown: null } ? null : spec;
    }

    // The highest cylinder that has a reading, when the engine would lose it.
    private static int? TooFewFor(TestRecord before, int cylinders)
    {
        var highest = (before.Tests ?? []).SelectMany(t => t switch
        {
            DryCompressionTest d => d.Readings ?? (IReadOnlyList<CylinderReading>)[],
            WetCompressionTest w => w.Readings ?? (IReadOnlyList<CylinderReading>)[],
            LeakDownTest l => l.Readings ?? (IReadOnlyList<CylinderReading>)[],
            RunningCompressionTest r => r.Readings ?? (IReadOnlyList<CylinderReading>)[],
            RelativeCompressionTest r => r.Readings ?? (IReadOnlyList<CylinderReading>)[],
            PlugInspection p => p.Readings ?? (IReadOnlyList<CylinderReading>)[],
            ValveClearanceCheck v => v.Readings ?? (IReadOnlyList<CylinderReading>)[],
            _ => [],
        }).Select(r => r.Cylinder).DefaultIfEmpty(0).Max();
        return highest > cylinders ? highest : null;
    }

    private static string? Trimmed(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();

    private static string? Text(double? value) => value?.ToString("0.###", CultureInfo.InvariantCulture);
}

/// <summary>One item that can be ruled out, as it is ticked.</summary>
public sealed class RuledLine
{
    public string? Item { get; set; }

    public bool Out { get; set; }

    public string? How { get; set; }
}
