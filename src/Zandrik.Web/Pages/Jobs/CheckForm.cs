using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>One line of a check that is read at several places.</summary>
public sealed class CheckRow
{
    public string? Rpm { get; set; }

    public string? Temperature { get; set; }

    public string? Value { get; set; }

    public string? Minimum { get; set; }

    public string? Dash { get; set; }

    public string? Intake { get; set; }

    public string? Exhaust { get; set; }
}

/// <summary>The fields of every small check, as they are typed; each kind reads its own.</summary>
public sealed class CheckForm
{
    /// <summary>Speeds the oil pressure form has room for.</summary>
    public const int Speeds = 6;

    public string? Result { get; set; }

    public List<string> Findings { get; set; } = [];

    public string? Unit { get; set; }

    public string? Value { get; set; }

    public string? Litres { get; set; }

    public string? Distance { get; set; }

    public string? DistanceUnit { get; set; }

    public string? IntakeMin { get; set; }

    public string? IntakeMax { get; set; }

    public string? ExhaustMin { get; set; }

    public string? ExhaustMax { get; set; }

    public List<CheckRow> Rows { get; set; } = [];

    public bool NotAdjustable { get; set; }

    /// <summary>The form of a test as it is kept, or an empty one.</summary>
    public static CheckForm Of(TestEntry? test, EngineSheet engine, PressureUnit unit)
    {
        var form = new CheckForm { Unit = RecordWords.Of(unit), DistanceUnit = "km" };
        switch (test)
        {
            case FluidsCheck { BlowBy: { } gas }:
                form.Result = RecordWords.Of(gas);
                break;
            case FluidsCheck { CoolantInIntake: { } wet }:
                form.Result = wet ? "yes" : "no";
                break;
            case FluidsCheck fluids:
                form.Findings = [.. (fluids.Findings ?? []).Select(RecordWords.Of)];
                break;
            case CrankSoundCheck sound:
                form.Result = sound.Result is { } r ? RecordWords.Of(r) : null;
                break;
            case CombustionGasTest gas:
                form.Result = gas.Result is { } found ? RecordWords.Of(found) : null;
                break;
            case ManifoldVacuumTest vacuum:
                form.Value = TypedFields.Text(vacuum.Value);
                form.Result = vacuum.Behaviour is { } b ? RecordWords.Of(b) : null;
                form.Unit = RecordWords.Of(vacuum.Unit ?? PressureUnit.KPa);
                break;
            case OilUseCheck use:
                (form.Litres, form.Distance) = (TypedFields.Text(use.Litres), TypedFields.Text(use.Distance?.Value));
                form.DistanceUnit = use.Distance is { } d ? RecordWords.Of(d.Unit) : "km";
                break;
            case OilPressureTest oil:
                form.Unit = RecordWords.Of(oil.Unit ?? PressureUnit.Psi);
                form.Rows = [.. (oil.Readings ?? []).Select(r => new CheckRow { Rpm = TypedFields.Text(r.Rpm), Temperature = r.OilTemperature, Value = TypedFields.Text(r.Value), Minimum = TypedFields.Text(r.Minimum), Dash = TypedFields.Text(r.Dash) })];
                break;
            case ValveClearanceCheck clearances:
                var read = clearances.Readings ?? [];
                form.Unit = RecordWords.Of(clearances.Unit ?? ClearanceUnit.Mm);
                form.NotAdjustable = clearances.Adjustable == false;
                form.Rows = [.. Enumerable.Range(1, engine.Cylinders).Select(c => new CheckRow
                {
                    Intake = TypedFields.Text(read.LastOrDefault(r => r.Cylinder == c && r.Valve == ValveSide.Intake)?.Value),
                    Exhaust = TypedFields.Text(read.LastOrDefault(r => r.Cylinder == c && r.Valve == ValveSide.Exhaust)?.Value),
                })];
                ValveClearanceReading? Any(ValveSide side) => read.LastOrDefault(r => r.Valve == side && (r.Minimum is not null || r.Maximum is not null));
                (form.IntakeMin, form.IntakeMax) = (TypedFields.Text(Any(ValveSide.Intake)?.Minimum), TypedFields.Text(Any(ValveSide.Intake)?.Maximum));
                (form.ExhaustMin, form.ExhaustMax) = (TypedFields.Text(Any(ValveSide.Exhaust)?.Minimum), TypedFields.Text(Any(ValveSide.Exhaust)?.Maximum));
                break;
        }
        return form;
    }

    /// <summary>What was typed as a test of the open record; absent when something needs another look.</summary>
    public TestEntry? Read(StepKind kind, EngineSheet engine, TypedFields fields)
    {
        TestEntry? test = kind switch
        {
            StepKind.CrankSound => new CrankSoundCheck { Result = Chosen<CrankSoundResult>(fields) },
            StepKind.CombustionGas => new CombustionGasTest { Result = Chosen<CombustionGasResult>(fields) },
            StepKind.BlowBy => Chosen<BlowBy>(fields) is { } gas ? new FluidsCheck { BlowBy = gas, Findings = gas == BlowBy.Little ? null : [FluidFinding.BlowBy] } : null,
            StepKind.CoolantInIntake => Result is "yes" or "no" ? new FluidsCheck { CoolantInIntake = Result == "yes" } : Missing(fields),
            StepKind.Fluids => Fluids(fields),
            StepKind.Vacuum => Vacuum(fields),
            StepKind.OilUse => OilUse(fields),
            StepKind.OilPressure => OilPressure(fields),
            _ => Clearances(engine, fields),
        };
        return fields.Problems.Count > 0 ? null : test;
    }

    private T? Chosen<T>(TypedFields fields)
        where T : struct, Enum
    {
        if (RecordWords.TryParse<T>(Result, out var member))
        {
            return member;
        }
        Missing(fields);
        return null;
    }

    private static FluidsCheck? Missing(TypedFields fields)
    {
        fields.Add("result", "Choose what was found.");
        return null;
    }

    /// <summary>What the form asks about the fluids, group by group; a group of two is one question with two answers.</summary>
    public static IReadOnlyList<(string Title, IReadOnlyList<(FluidFinding Finding, string Says)> Answers)> FluidGroups { get; } =
    [
        ("Coolant in the oil", [(FluidFinding.MilkyOil, "found: milky"), (FluidFinding.NoCoolantInOil, "none found")]),
        ("Oil in the coolant", [(FluidFinding.OilInCoolant, "found"), (FluidFinding.NoOilInCoolant, "none found")]),
        ("Coolant", [(FluidFinding.CoolantLoss, "lost"), (FluidFinding.CoolantBubbles, "bubbles"), (FluidFinding.CoolantInCylinder, "in a cylinder"), (FluidFinding.CoolantInIntake, "in the intake"), (FluidFinding.CoolantClean, "clean")]),
        ("Oil", [(FluidFinding.OilUse, "used up"), (FluidFinding.OilClean, "clean")]),
        ("Cap and hoses", [(FluidFinding.CapOrHoseDamaged, "damaged")]),
        ("Everything", [(FluidFinding.Clean, "all clean")]),
    ];

    private static readonly (FluidFinding Yes, FluidFinding No, string Says)[] Contradictions =
    [
        (FluidFinding.MilkyOil, FluidFinding.NoCoolantInOil, "Coolant in the oil is both found and not found: take one away."),
        (FluidFinding.MilkyOil, FluidFinding.OilClean, "The oil is both milky and clean: take one away."),
        (FluidFinding.OilInCoolant, FluidFinding.NoOilInCoolant, "Oil in the coolant is both found and not found: take one away."),
        (FluidFinding.OilInCoolant, FluidFinding.CoolantClean, "The coolant is both clean and has oil in it: take one away."),
    ];

    private FluidsCheck? Fluids(TypedFields fields)
    {
        var found = Findings.Select(w => RecordWords.TryParse<FluidFinding>(w, out var f) ? f : (FluidFinding?)null).OfType<FluidFinding>().Distinct().ToList();
        if (found.Count == 0)
        {
            fields.Add("findings", "Tap what you see; \"clean\" where there is nothing.");
        }
        else if (found.Contains(FluidFinding.Clean) && found.Count > 1)
        {
            fields.Add("findings", "Clean goes with no other finding: take one of them away.");
        }
        else if (Contradictions.FirstOrDefault(c => found.Contains(c.Yes) && found.Contains(c.No)) is { Says: { } both })
        {
            fields.Add("findings", both);
        }
        return new FluidsCheck { Findings = found };
    }

    private ManifoldVacuumTest Vacuum(TypedFields fields)
    {
        var unit = RecordWords.Parse(Unit, PressureUnit.KPa);
        // No more than the air outside: 110 kPa.
        var value = fields.Number(Value, "value", 0, Math.Round(110_000 / unit.Pascals(), 2));
        var behaviour = fields.Word<VacuumBehaviour>(Result, "result");
        if (value is null && behaviour is null && fields.Problems.Count == 0)
        {
            fields.Add("value", "Type what the gauge read, or say what the needle did.");
        }
        return new ManifoldVacuumTest { Unit = unit, Value = value, Behaviour = behaviour };
    }

    private OilUseCheck OilUse(TypedFields fields)
    {
        var litres = fields.Number(Litres, "litres", 0, 1000);
        var distance = fields.Number(Distance, "distance", 0, 10_000_000);
        if (litres is null && !fields.Problems.ContainsKey("litres"))
        {
            fields.Add("litres", "Type how much oil went, in litres.");
        }
        if (distance is null or <= 0 && !fields.Problems.ContainsKey("distance"))
        {
            fields.Add("distance", "Type the distance it went over.");
        }
        return new OilUseCheck { Litres = litres, Distance = distance is { } d ? new Odometer { Value = d, Unit = RecordWords.Parse(DistanceUnit, Core.Records.DistanceUnit.Km) } : null };
    }

    private OilPressureTest OilPressure(TypedFields fields)
    {
        var unit = RecordWords.Parse(Unit, PressureUnit.Psi);
        var most = Math.Round(20e5 / unit.Pascals());
        var readings = new List<OilPressureReading>();
        for (var i = 0; i < Rows.Count; i++)
        {
            var row = Rows[i];
            var (rpm, value, least) = (fields.Number(row.Rpm, $"rpm{i}", 0, 20_000), fields.Number(row.Value, $"value{i}", 0, most), fields.Number(row.Minimum, $"minimum{i}", 0, most));
            var dash = fields.Number(row.Dash, $"dash{i}", 0, most);
            if (value is not null && rpm is null && !fields.Problems.ContainsKey($"rpm{i}"))
            {
                fields.Add($"rpm{i}", "At which speed was that read?");
            }
            if (value is null && (rpm is not null || dash is not null) && !fields.Problems.ContainsKey($"value{i}"))
            {
                fields.Add($"value{i}", "What did the gauge read at that speed?");
            }
            if (value is not null)
            {
                readings.Add(new OilPressureReading { Rpm = rpm, Value = value, Minimum = least, Dash = dash, OilTemperature = row.Temperature is "hot" or "cold" ? row.Temperature : null });
            }
        }
        if (readings.Count == 0 && fields.Problems.Count == 0)
        {
            fields.Add("value0", "Type at least one pressure with its speed.");
        }
        return new OilPressureTest { Unit = unit, Readings = readings };
    }

    private ValveClearanceCheck Clearances(EngineSheet engine, TypedFields fields)
    {
        var unit = RecordWords.Parse(Unit, ClearanceUnit.Mm);
        // A clearance of more than a centimetre is none.
        var most = unit == ClearanceUnit.Mm ? 10 : 400;
        var (inMin, inMax) = (fields.Number(IntakeMin, "intakeMin", 0, most), fields.Number(IntakeMax, "intakeMax", 0, most));
        var (exMin, exMax) = (fields.Number(ExhaustMin, "exhaustMin", 0, most), fields.Number(ExhaustMax, "exhaustMax", 0, most));
        if (inMin > inMax)
        {
            fields.Add("intakeMax", "The largest is below the smallest: check both.");
        }
        if (exMin > exMax)
        {
            fields.Add("exhaustMax", "The largest is below the smallest: check both.");
        }
        var readings = new List<ValveClearanceReading>();
        for (var i = 0; i < Math.Min(Rows.Count, engine.Cylinders); i++)
        {
            if (fields.Number(Rows[i].Intake, $"intake{i}", 0, most) is { } intake)
            {
                readings.Add(new ValveClearanceReading { Cylinder = i + 1, Valve = ValveSide.Intake, Value = intake, Minimum = inMin, Maximum = inMax });
            }
            if (fields.Number(Rows[i].Exhaust, $"exhaust{i}", 0, most) is { } exhaust)
            {
                readings.Add(new ValveClearanceReading { Cylinder = i + 1, Valve = ValveSide.Exhaust, Value = exhaust, Minimum = exMin, Maximum = exMax });
            }
        }
        if (readings.Count == 0 && !NotAdjustable && fields.Problems.Count == 0)
        {
            fields.Add("intake0", $"Type at least one clearance, in {RecordWords.Of(unit)}, or tick that they are not adjustable.");
        }
        return new ValveClearanceCheck { Unit = unit, Adjustable = NotAdjustable ? false : null, Readings = readings.Count > 0 ? readings : null };
    }
}
