using System.Globalization;
using Zandrik.Core.Units;

namespace Zandrik.Core.Records;

/// <summary>The rules of a record that go beyond the shape of single fields.</summary>
public static class RecordRules
{
    /// <summary>Most tests of a job: more than anybody does on one engine, and few enough to be judged and printed while somebody waits.</summary>
    public const int MostTests = 200;

    /// <summary>Most readings of a job, all its tests together.</summary>
    public const int MostReadings = 3000;

    /// <summary>What keeps a job from taking that many tests and readings; absent for nothing.</summary>
    /// <returns>One sentence; null where it may take them.</returns>
    public static string? TooMany(int tests, int readings) =>
        tests > MostTests ? $"A job takes up to {MostTests} tests; these would be {tests}. Open another job for the rest."
        : readings > MostReadings ? $"A job takes up to {MostReadings} readings; these would be {readings}. Open another job for the rest."
        : null;

    /// <summary>The readings of a test, of whatever kind.</summary>
    /// <returns>How many, 0 or more; 0 for a test that has none.</returns>
    public static int ReadingsOf(TestEntry test) => test switch
    {
        DryCompressionTest t => t.Readings?.Count ?? 0,
        WetCompressionTest t => t.Readings?.Count ?? 0,
        LeakDownTest t => t.Readings?.Count ?? 0,
        RunningCompressionTest t => t.Readings?.Count ?? 0,
        RelativeCompressionTest t => (t.Readings?.Count ?? 0) + (t.Slots?.Count ?? 0),
        PlugInspection t => t.Readings?.Count ?? 0,
        OilPressureTest t => t.Readings?.Count ?? 0,
        ValveClearanceCheck t => t.Readings?.Count ?? 0,
        _ => 0,
    };

    /// <summary>Checks a record whose fields are sound one by one; answers every problem with its JSON pointer.</summary>
    /// <returns>The problems in the order of the record; empty for a sound one.</returns>
    public static List<FieldProblem> Check(TestRecord record)
    {
        var problems = new List<FieldProblem>();
        if (record.Format != TestRecord.FormatName)
        {
            problems.Add(new FieldProblem("/format", $"Write \"{TestRecord.FormatName}\"."));
        }
        problems.AddRange(EngineRules.Check(record.Engine).Select(p => p with { Pointer = "/engine" + p.Pointer }));
        if (problems.Count > 0)
        {
            return problems;
        }
        if (TooMany(record.Tests?.Count ?? 0, record.Tests?.Sum(ReadingsOf) ?? 0) is { } many)
        {
            problems.Add(new FieldProblem("/tests", many));
            return problems;
        }
        var cylinders = record.Engine.Cylinders;
        for (var i = 0; i < (record.Tests?.Count ?? 0); i++)
        {
            CheckTest(record.Tests![i], record.Engine, $"/tests/{i}", problems);
        }
        for (var i = 0; i < (record.Found?.Count ?? 0); i++)
        {
            OnEngine(record.Found![i].Cylinder, cylinders, $"/found/{i}/cylinder", problems);
            OnEngine(record.Found[i].With, cylinders, $"/found/{i}/with", problems);
        }
        foreach (var (method, limits) in record.JudgeBy?.Limits ?? new Dictionary<SpreadMethod, IReadOnlyList<double>>())
        {
            var falling = method == SpreadMethod.LowestToHighest;
            if (limits.Count != 2 || limits.Any(l => l <= 0) || (falling ? limits[1] > limits[0] : limits[1] < limits[0]))
            {
                problems.Add(new FieldProblem($"/judgeBy/limits/{RecordWords.Of(method)}",
                    $"Give two limits above 0: good up to, marginal up to{(falling ? ", falling" : "")}."));
            }
        }
        return problems;
    }

    private static void CheckTest(TestEntry test, EngineSheet engine, string at, List<FieldProblem> problems)
    {
        if (test.Tester?.CheckPoints is { } points && GaugeCorrection.Problem(points) is { } contradiction)
        {
            problems.Add(new FieldProblem($"{at}/tester/checkPoints", contradiction));
        }
        switch (test)
        {
            case DryCompressionTest dry:
                if (dry.TestOrder is { } order && EngineRules.Once(order, engine.Cylinders) is { } wrong)
                {
                    problems.Add(new FieldProblem($"{at}/testOrder", $"Name each of the {engine.Cylinders} cylinders once: {wrong}."));
                }
                CheckCompression(dry.Readings, UnitOf(dry.Unit, engine), engine, at, problems);
                break;
            case WetCompressionTest wet:
                CheckCompression(wet.Readings, UnitOf(wet.Unit, engine), engine, at, problems);
                break;
            case LeakDownTest leak:
                CheckLeakDown(leak, engine, at, problems);
                break;
            case RunningCompressionTest running:
                CheckCylinders(running.Readings, engine, at, once: true, problems);
                for (var j = 0; j < (running.Readings?.Count ?? 0); j++)
                {
                    Possible(running.Readings![j].Idle, UnitOf(running.Unit, engine), $"{at}/readings/{j}/idle", problems);
                    Possible(running.Readings[j].Snap, UnitOf(running.Unit, engine), $"{at}/readings/{j}/snap", problems);
                }
                break;
            case RelativeCompressionTest relative:
                CheckCylinders(relative.Readings, engine, at, once: true, problems);
                CheckSlots(relative, engine, $"{at}/slots", problems);
                break;
            case PlugInspection plugs:
                CheckCylinders(plugs.Readings, engine, at, once: false, problems);
                break;
            case ValveClearanceCheck clearances:
                CheckCylinders(clearances.Readings, engine, at, once: false, problems);
                break;
        }
    }

    /// <summary>The unit pressures of a test are in: its own, else the spec's, else psi.</summary>
    /// <returns>The unit; always one.</returns>
    public static PressureUnit UnitOf(PressureUnit? own, EngineSheet engine) => own ?? engine.Spec?.Unit ?? PressureUnit.Psi;

    private static void CheckCompression(
        IReadOnlyList<CompressionReading>? readings, PressureUnit unit, EngineSheet engine, string at, List<FieldProblem> problems)
    {
        CheckCylinders(readings, engine, at, once: true, problems);
        for (var j = 0; j < (readings?.Count ?? 0); j++)
        {
            var reading = readings![j];
            var here = $"{at}/readings/{j}";
            if (reading.Tester?.CheckPoints is { } points && GaugeCorrection.Problem(points) is { } contradiction)
            {
                problems.Add(new FieldProblem($"{here}/tester/checkPoints", contradiction));
            }
            for (var k = 0; k < (reading.PulseValues?.Count ?? 0); k++)
            {
                Possible(reading.PulseValues![k], unit, $"{here}/pulseValues/{k}", problems);
            }
            Possible(reading.Value, unit, $"{here}/value", problems);
            Possible(reading.FirstPulse, unit, $"{here}/firstPulse", problems);
            for (var k = 0; k < (reading.Repeats?.Count ?? 0); k++)
            {
                Possible(reading.Repeats![k].Value, unit, $"{here}/repeats/{k}", problems);
                Possible(reading.Repeats[k].FirstPulse, unit, $"{here}/repeats/{k}/firstPulse", problems);
                for (var p = 0; p < (reading.Repeats[k].PulseValues?.Count ?? 0); p++)
                {
                    Possible(reading.Repeats[k].PulseValues![p], unit, $"{here}/repeats/{k}/pulseValues/{p}", problems);
                }
            }
            if (reading.AsRead is { } read && !(reading.Value is { } value && IsSame(read, value, unit)))
            {
                problems.Add(new FieldProblem($"{here}/asRead", "This is not the same pressure as value: correct one of the two, or leave asRead out."));
            }
            if (reading.RepeatsAsRead is { } repeats
                && !(repeats.Count == (reading.Repeats?.Count ?? 0) && repeats.Zip(reading.Repeats ?? []).All(r => IsSame(r.First, r.Second.Value, unit))))
            {
                problems.Add(new FieldProblem($"{here}/repeatsAsRead", "These are not the same pressures as repeats, one for one: correct one of the two, or leave repeatsAsRead out."));
            }
        }
    }

    private static bool IsSame(PressureAsRead read, double value, PressureUnit unit) =>
        PressureEntry.IsPossible(read.Value, read.Unit)
        && Math.Abs(read.Value * read.Unit.Pascals() - value * unit.Pascals()) <= 1e-6 * (1 + value * unit.Pascals());

    private static void CheckLeakDown(LeakDownTest test, EngineSheet engine, string at, List<FieldProblem> problems)
    {
        CheckCylinders(test.Readings, engine, at, once: false, problems);
        var unit = UnitOf(test.Unit, engine);
        Possible(test.Supply, unit, $"{at}/supply", problems);
        for (var j = 0; j < (test.Readings?.Count ?? 0); j++)
        {
            var reading = test.Readings![j];
            var here = $"{at}/readings/{j}";
            Possible(reading.Held, unit, $"{here}/held", problems);
            if ((reading.Supply ?? test.Supply) is { } supply && supply > 0 && reading.Held is { } held)
            {
                var lost = 100 * (supply - held) / supply;
                if (reading.LeakPercent is { } said && Math.Abs(lost - said) > 1)
                {
                    problems.Add(new FieldProblem($"{here}/leakPercent", string.Create(CultureInfo.InvariantCulture,
                        $"{held} held of {supply} is a loss of {lost:0.#} %, not {said}: correct one, or give only one of the two.")));
                }
            }
            for (var k = 0; k < (reading.Heard?.Count ?? 0); k++)
            {
                OnEngine(reading.Heard![k].Cylinder, engine.Cylinders, $"{here}/heard/{k}/cylinder", problems);
            }
        }
    }

    private static void CheckCylinders(
        IReadOnlyList<CylinderReading>? readings, EngineSheet engine, string at, bool once, List<FieldProblem> problems)
    {
        var seen = new HashSet<int>();
        for (var j = 0; j < (readings?.Count ?? 0); j++)
        {
            // Superseded readings share a cylinder with the one that took their place.
            if (readings![j].SupersededBy is not null)
            {
                continue;
            }
            var cylinder = readings[j].Cylinder;
            OnEngine(cylinder, engine.Cylinders, $"{at}/readings/{j}/cylinder", problems);
            if (!seen.Add(cylinder) && once)
            {
                problems.Add(new FieldProblem($"{at}/readings/{j}/cylinder",
                    $"Cylinder {cylinder} stands twice in this test: put further compression readings into repeats, or into a test of their own."));
            }
        }
    }

    // A hump that is missing would leave the others where they are not.
    private static void CheckSlots(RelativeCompressionTest test, EngineSheet engine, string at, List<FieldProblem> problems)
    {
        if (test.Slots is not { } slots)
        {
            return;
        }
        if (test.Readings?.Any(r => r.SupersededBy is null) == true)
        {
            problems.Add(new FieldProblem(at, "Leave slots out where readings name the cylinders."));
        }
        if (EngineRules.Once([.. slots.Select(s => s.Slot)], engine.Cylinders) is { } wrong)
        {
            problems.Add(new FieldProblem(at, $"Name each of the {engine.Cylinders} slots once: {wrong}."));
        }
    }

    private static void OnEngine(int? cylinder, int cylinders, string pointer, List<FieldProblem> problems)
    {
        if (cylinder is { } c && c > cylinders)
        {
            problems.Add(new FieldProblem(pointer, $"This engine has cylinders 1 to {cylinders}."));
        }
    }

    private static void Possible(double? value, PressureUnit unit, string pointer, List<FieldProblem> problems)
    {
        if (value is { } v && !PressureEntry.IsPossible(v, unit))
        {
            problems.Add(new FieldProblem(pointer, $"Write a gauge pressure from 0 to 100 bar, in {unit.Symbol()}."));
        }
    }
}
