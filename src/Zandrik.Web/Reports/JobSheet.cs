using System.Globalization;
using Zandrik.Core.Checks;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Plugs;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Reports;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Reports;

/// <summary>One part of a job sheet: what a test said, how it was done, and its numbers.</summary>
/// <param name="Title">What it is.</param>
/// <param name="Says">Its headline.</param>
/// <param name="How">How it was done: conditions, tester, person, day.</param>
/// <param name="Headers">Headers of its table; empty for none.</param>
/// <param name="Rows">Rows of its table.</param>
/// <param name="Notes">What has to be known to read it.</param>
/// <param name="Picture">Its cylinders; absent for none.</param>
public sealed record SheetPart(
    string Title, string Says, string How, IReadOnlyList<string> Headers, IReadOnlyList<IReadOnlyList<string>> Rows, IReadOnlyList<string> Notes, ColumnsPicture? Picture = null);

/// <summary>
/// A whole job on paper: what the price of an engine is argued with. Page and PDF are made from it, so that they
/// cannot say different things.
/// </summary>
public sealed record JobSheet
{
    public required string Shop { get; init; }

    public required string Number { get; init; }

    public required string Vehicle { get; init; }

    public required string Engine { get; init; }

    /// <summary>Facts about the job, name and value.</summary>
    public required IReadOnlyList<(string Name, string Value)> Facts { get; init; }

    /// <summary>What the owner is told.</summary>
    public required string Owner { get; init; }

    public required IReadOnlyList<SheetPart> Parts { get; init; }

    /// <summary>When it was made.</summary>
    public required string Made { get; init; }

    public const string Caution = "Made from readings taken as noted. The maker's service information and local rules come first; a licensed technician decides.";

    /// <summary>The sheet of a job.</summary>
    /// <param name="state">The job as it stands.</param>
    /// <param name="who">The shop and person.</param>
    /// <param name="now">The time.</param>
    /// <param name="verdict">The verdict that stands; absent while none is signed.</param>
    public static JobSheet Of(JobState state, ShopPerson who, DateTimeOffset now, KeptVerdict? verdict = null)
    {
        var (job, tests) = (state.Job, state.Assessment.Tests);
        var record = job.Record;
        var engine = record.Engine;
        var spec = engine.Spec;
        var unit = job.Unit;
        string Pressure(double? value) => value is { } v ? new GaugePressure(v, spec?.Unit ?? PressureUnit.Psi).Text(unit) : "";
        (string, string)[] facts =
        [
            ("Odometer", ShopText.Odometer(record.Vehicle?.Odometer)),
            ("Complaint", record.Complaint ?? ""),
            ("Noticed", string.Join(", ", (record.Observations ?? []).Select(ShopText.Words))),
            ("Ruled out", string.Join("; ", (record.RuledOut ?? []).Select(r => $"{RuledOutList.Name(r)}{(r.How is null ? "" : $" ({r.How})")}"))),
            ("Firing order", CylinderList.Text(engine.FiringOrder)),
            ("Maker's figures", string.Join(", ", new[]
            {
                spec?.Nominal is null ? "" : $"nominal {Pressure(spec.Nominal)}", spec?.Minimum is null ? "" : $"minimum {Pressure(spec.Minimum)}",
                spec?.MaxDifference is null ? "" : $"difference up to {Pressure(spec.MaxDifference)}",
            }.Where(t => t.Length > 0)) is { Length: > 0 } figures ? $"{figures} {unit.Symbol()}" : "none on the sheet"),
            ("Opened", $"{ShopText.Day(job.OpenedAt, who)}, {job.OpenedBy}"),
        ];
        return new JobSheet
        {
            Shop = who.Shop,
            Number = job.Number.ToString("0000", CultureInfo.InvariantCulture),
            Vehicle = job.Title,
            Engine = ShopText.Engine(engine),
            Facts = [.. facts.Where(f => f.Item2.Length > 0)],
            Owner = verdict?.Snapshot.Owner ?? OwnerParagraph.Of(tests),
            Parts = [.. verdict is null ? [] : new[] { Verdict(verdict, who) }, .. PartsOf(job, tests, who, state.Assessment.BegunAnewSays)],
            Made = ShopText.Time(now, who),
        };
    }

    // As it was signed: nothing here is judged anew.
    private static SheetPart Verdict(KeptVerdict kept, ShopPerson who)
    {
        var (line, said) = (kept.Line, kept.Snapshot);
        return new SheetPart($"Verdict, version {line.Version}", said.Headline,
            $"Signed by {line.By}, {ShopText.Time(line.At, who)}{(line.Agrees ? "" : ", who sees it otherwise")}{(line.Reason is null ? "" : $": {line.Reason}")}{(kept.SameAsNow ? "" : ". Readings or engine have changed since")}",
            [.. new[] { "Cylinder", "State", "Most likely", "How likely", line.Agrees ? null : "Signed as" }.OfType<string>()],
            [.. kept.Said.Where(s => s.Program.Cylinder is not null).Select(s => (IReadOnlyList<string>)[.. new[]
            {
                $"{s.Program.Cylinder}", StateLook.Word(said.Cylinders[s.Program.Cylinder!.Value - 1].State), said.Cylinders[s.Program.Cylinder.Value - 1].NameOf(new CylinderSuspect(s.Program.Fault, 0, s.Program.With)), $"{ShopText.Percent(s.Program.Probability ?? 0)} %", line.Agrees ? null : FaultWords.Of(s.People.Fault, s.People.With, s.People.Cylinder),
            }.OfType<string>()])],
            [.. said.Actions.Select(a => $"{ShopText.Action(a.Action)}: {a.Says}{(a.Checks.Count > 0 ? $" Then: {string.Join("; ", a.Checks)}." : "")}")]);
    }

    private static IEnumerable<SheetPart> PartsOf(Job job, JudgedTests judged, ShopPerson who, string? begunAnew)
    {
        var tests = job.Record.Tests ?? [];
        // Tests of another capture come after each other; the last one counts.
        if (tests.OfType<RelativeCompressionTest>().LastOrDefault() is { } relative)
        {
            yield return Relative(job, relative, who);
        }
        var dry = job.DryTests.Select(t => t.Test).Where(t => t.Readings?.Any(r => r.Value is not null) == true).ToList();
        foreach (var test in dry)
        {
            var part = Dry(job, judged, test, who);
            yield return begunAnew is not null && test == dry.Last(t => t.Role is null) ? part with { Notes = [begunAnew, .. part.Notes] } : part;
        }
        foreach (var test in tests.OfType<LeakDownTest>().Where(t => t.Readings is { Count: > 0 }))
        {
            yield return LeakDown(job, judged, test, who);
        }
        foreach (var test in tests.OfType<WetCompressionTest>().Where(t => t.Readings is { Count: > 0 }))
        {
            yield return Wet(job, judged, test, who);
        }
        foreach (var test in tests.OfType<RunningCompressionTest>().Where(t => t.Readings is { Count: > 0 }))
        {
            yield return Running(job, judged, test, who);
        }
        var plugs = tests.OfType<PlugInspection>().SelectMany(t => t.Readings ?? []).Where(r => r.SupersededBy is null).GroupBy(r => r.Cylinder).Select(g => g.Last()).OrderBy(r => r.Cylinder).ToList();
        if (plugs.Count > 0)
        {
            yield return new SheetPart("Plugs", "", "", ["Cylinder", "Looked like", "Smelt of", "Plug"],
                [.. plugs.Select(p => (IReadOnlyList<string>)[$"{p.Cylinder}", string.Join(", ", (p.Signs ?? []).Select(s => PlugSignMeaning.Of(s).Name)), p.Smell ?? "", p.Keep switch { true => "keep", false => "replace", _ => "" }])], []);
        }
        var checks = tests.Select(t => (Check: SupportingCheck.KindOf(t) is { } kind ? SupportingCheck.Of(kind) : null, Test: t)).Where(t => t.Check is not null)
            .Select(t => (t.Check!.Name, Says: CheckFinding.Of(t.Test, RuledOutList.Engine(job.Record))?.Says, t.Test)).Where(t => t.Says is not null && t.Test is not (OilPressureTest { Readings.Count: > 0 } or ValveClearanceCheck { Readings.Count: > 0 })).ToList();
        foreach (var oil in tests.OfType<OilPressureTest>().Where(t => t.Readings is { Count: > 0 }))
        {
            var unit = oil.Unit ?? PressureUnit.Psi;
            string Figure(double? v) => v is { } x ? new GaugePressure(x, unit).Text(unit) : "–";
            yield return new SheetPart($"Oil pressure, {unit.Symbol()}", CheckFinding.Of(oil, job.Record.Engine)?.Says ?? "", How(oil, who), ["Speed, rpm", "Oil", "Mechanical gauge", "Dash gauge", "Maker's minimum"],
                [.. oil.Readings!.Select(r => (IReadOnlyList<string>)[TypedFields.Text(r.Rpm) is { Length: > 0 } rpm ? rpm : "–", r.OilTemperature ?? "–", Figure(r.Value), Figure(r.Dash), Figure(r.Minimum)])], []);
        }
        foreach (var clearances in tests.OfType<ValveClearanceCheck>().Where(t => t.Readings is { Count: > 0 }))
        {
            var unit = RecordWords.Of(clearances.Unit ?? ClearanceUnit.Mm);
            string Figure(double? v) => TypedFields.Text(v) is { Length: > 0 } text ? text : "–";
            yield return new SheetPart($"Valve clearances, {unit}", CheckFinding.Of(clearances, job.Record.Engine)?.Says ?? "", How(clearances, who), ["Cylinder", "Valve", "Clearance", "From", "To"],
                [.. clearances.Readings!.Where(r => r.SupersededBy is null).Select(r => (IReadOnlyList<string>)[$"{r.Cylinder}", r.Valve is { } v ? RecordWords.Of(v) : "–", Figure(r.Value), Figure(r.Minimum), Figure(r.Maximum)])], []);
        }
        if (checks.Count > 0)
        {
            yield return new SheetPart("Other checks", "", "", ["Check", "Says", "By"], [.. checks.Select(c => (IReadOnlyList<string>)[c.Name, c.Says!, Person(c.Test, who)])], []);
        }
    }

    private static SheetPart Dry(Job job, JudgedTests tests, DryCompressionTest test, ShopPerson who)
    {
        var (engine, unit) = (job.Record.Engine, job.Unit);
        var judged = tests.Of(test);
        var corrected = judged.Cylinders.Any(c => c.IsCorrected(unit));
        var readings = (test.Readings ?? []).Where(r => r.SupersededBy is null).ToDictionary(r => r.Cylinder);
        var testUnit = RecordRules.UnitOf(test.Unit, engine);
        var methods = judged.Spread.Select(s => $"{SpreadFinding.NameOf(s.Method)}: {s.ValueText(unit)}, {RecordWords.Of(s.Verdict)}{(s.Deciding ? " (decides)" : "")}");
        return new SheetPart($"Dry compression, {unit.Symbol()}{(judged.IsGaugeCheck ? ": gauge check" : "")}", judged.Headline, How(test, who),
            [.. new[] { "Cylinder", unit.Symbol(), corrected ? "Corrected" : null, "Again", "State", "Why" }.OfType<string>()],
            [.. judged.Cylinders.Select(c => (IReadOnlyList<string>)[.. new[]
            {
                $"{c.Cylinder}", c.Value?.Text(unit) ?? "–", corrected ? c.JudgedPa is { } pa ? GaugePressure.Figure(pa, unit) : "–" : null,
                readings.TryGetValue(c.Cylinder, out var r) ? string.Join("; ", TakenReading.All(r, testUnit).Where((t, i) => i > 0 || t.IsStruck).Select(t => Again(t, unit))) : "",
                StateLook.Word(c), c.Says,
            }.OfType<string>()])],
            [.. methods, .. judged.Validity.Select(v => v.Says + Where(v.Cylinders))],
            DryPicture.Of(engine, test, judged, unit));
    }

    private static string Again(TakenReading taken, PressureUnit unit) => taken.Figure.Text(unit) + (ReadingNotes.Of(taken.Noted) is { Length: > 0 } noted ? $" ({noted})" : "");

    private static SheetPart Relative(Job job, RelativeCompressionTest test, ShopPerson who)
    {
        var limit = CaptureQuestion.LimitOf(job.Record.JudgeBy);
        var read = (test.Readings ?? []).Where(r => r.SupersededBy is null && r.RelativePercent is not null).OrderBy(r => r.Cylinder).ToList();
        return new SheetPart("Relative compression", RelativeHeadline.OfRecord(test, limit), $"{How(test, who)}; low below {TypedFields.Text(limit)} % of the best cylinder",
            read.Count == 0 ? [] : ["Cylinder", "% of the best", "±", "Says"],
            [.. read.Select(r => (IReadOnlyList<string>)[$"{r.Cylinder}", r.RelativePercent!.Value.ToString("0.0", CultureInfo.CurrentCulture), r.StandardErrorPercent?.ToString("0.0", CultureInfo.CurrentCulture) ?? "–", RecordWords.Of(RelativeHeadline.VerdictOf(r, limit))])],
            [], read.Count == 0 ? null : RelativeLook.Picture(job.Record.Engine, test, limit));
    }

    private static SheetPart LeakDown(Job job, JudgedTests tests, LeakDownTest test, ShopPerson who)
    {
        var unit = job.Unit;
        var judged = tests.Of(test);
        var limits = judged.Limits.IsMakers ? "the maker's figure, and twice it" : $"{RecordWords.Of(judged.Limits.Method)} method";
        return new SheetPart("Leak-down", judged.Headline,
            $"{How(test, who)}; restriction {TypedFields.Text(judged.RestrictionMm)} mm{(judged.RestrictionAssumed ? " assumed" : "")}; good up to {TypedFields.Text(judged.Limits.Good)} %, watch up to {TypedFields.Text(judged.Limits.Watch)} % ({limits})",
            ["Cylinder", $"Supply, {unit.Symbol()}", $"Held, {unit.Symbol()}", "Lost", "Leak area", "Heard, strongest first", "State"],
            [.. judged.Cylinders.Where(c => c.State != LeakState.Untested).Select(c => (IReadOnlyList<string>)
            [
                $"{c.Cylinder}", c.Supply?.Text(unit) ?? "–", c.Held?.Text(unit) ?? "–", c.Percent is { } p ? p.ToString("0", CultureInfo.CurrentCulture) + " %" : "–",
                c.AreaMm2 is { } a ? $"{(c.IsMoreThanArea ? "over " : "")}{a.ToString("0.00", CultureInfo.CurrentCulture)} mm²" : "–", c.Air.Listened ? c.Air.Says : "not listened", LeakLook.Word(c.State),
            ])],
            [.. judged.Cylinders.Where(c => c.Doubt is not null || (c.State == LeakState.Untested && c.Taken.Count > 0)).Select(c => $"{c.Cylinder}: {c.Says}"),
                .. judged.Cylinders.Where(c => c.Taken.Count > 1).Select(c => $"Cylinder {c.Cylinder} was read {c.Taken.Count} times: {string.Join("; ", c.Taken.Select(t => LeakRead(t, who)))}."), .. judged.Validity.Select(v => v.Says + Where(v.Cylinders))],
            LeakLook.Picture(job.Record.Engine, judged));
    }

    private static string LeakRead(LeakDownTaken taken, ShopPerson who) =>
        $"{(taken.Percent is { } p ? p.ToString("0", CultureInfo.CurrentCulture) + " %" : "–")}{(taken.Reading.At is { } at ? " at " + ShopText.Clock(at, who) : "")}{(taken.AfterOil ? " with oil" : "")}{(taken.IsJudged ? " (judged)" : $" ({taken.WhyNot})")}";

    private static SheetPart Wet(Job job, JudgedTests tests, WetCompressionTest test, ShopPerson who)
    {
        var unit = job.Unit;
        var judged = tests.Of(test);
        return new SheetPart($"Wet compression, {unit.Symbol()}", judged.Headline, $"{How(test, who)}{(test.OilMl is { } ml ? $"; {TypedFields.Text(ml)} ml of oil" : "")}; a sound cylinder gains {ShopText.Share(judged.SoundGain)}",
            ["Cylinder", "Dry", "Wet", "Gain", "Excess", "Rings alone would give", "Result"],
            [.. judged.Cylinders.Where(c => c.Wet is not null).Select(c => (IReadOnlyList<string>)
            [
                $"{c.Cylinder}", c.Dry?.Text(unit) ?? "–", c.Wet?.Text(unit) ?? "–", ShopText.Share(c.Gain), ShopText.Share(c.ExcessGain), c.RingsAlone is { } alone ? $"about {alone.Text(unit)}" : "–", c.Says,
            ])],
            [.. judged.Validity.Select(v => v.Says + Where(v.Cylinders))],
            tests.DryTest is { } dry ? DryPicture.WithWet(DryPicture.Of(job.Record.Engine, dry, tests.Of(dry), unit), judged, unit) : null);
    }

    private static SheetPart Running(Job job, JudgedTests tests, RunningCompressionTest test, ShopPerson who)
    {
        var unit = job.Unit;
        var judged = tests.Of(test);
        return new SheetPart($"Running and snap compression, {unit.Symbol()}", judged.Headline, How(test, who),
            ["Cylinder", "Idle", "of the others", "Snap", "of the others", "Held, spark", "Result"],
            [.. judged.Cylinders.Where(c => c.Idle is not null || c.Snap is not null || c.Spark is not null).Select(c => (IReadOnlyList<string>)
            [
                $"{c.Cylinder}", c.Idle?.Text(unit) ?? "–", ShopText.Share(c.IdleToOthers), c.Snap?.Text(unit) ?? "–", ShopText.Share(c.SnapToOthers),
                string.Join(", ", new[] { c.HeldThrottle?.Text(unit), c.Spark is { } s ? $"spark {RecordWords.Of(s)}" : null }.OfType<string>()), c.Says,
            ])],
            [.. judged.Validity.Select(v => v.Says + Where(v.Cylinders))]);
    }

    private static string Where(IReadOnlyList<int> cylinders) => cylinders.Count > 0 ? $" ({CylinderList.Sentence(cylinders)})" : "";

    private static string Person(TestEntry test, ShopPerson who) => string.Join(", ", new[] { test.By, test.At is { } at ? ShopText.Day(at, who) : null }.OfType<string>());

    // Who, when, with what, and every condition that was noted.
    private static string How(TestEntry test, ShopPerson who)
    {
        var c = test.Conditions;
        return string.Join("; ", new[]
        {
            Person(test, who), test.Tester?.Label is { } label ? $"with {label}{(test.Tester.LastChecked is { } day ? $", checked {ShopText.Day(day, who)}" : "")}" : null,
            c?.EngineTemperature is { } warm ? $"engine {RecordWords.Of(warm)}" : null, c?.Throttle is { } throttle ? $"throttle {RecordWords.Of(throttle)}" : null,
            c?.Plugs is { } plugs ? $"plugs {ShopText.Words(plugs)}" : null, c?.Fuel is { } fuel ? $"fuel {RecordWords.Of(fuel)}" : null, c?.Ignition is { } ignition ? $"ignition {RecordWords.Of(ignition)}" : null,
            c?.Battery is { } battery ? $"battery {(battery == BatteryState.Charger ? "on a charger" : RecordWords.Of(battery))}" : null, c?.BarometricKPa is { } kPa ? $"barometer {TypedFields.Text(kPa)} kPa" : null,
        }.Where(t => !string.IsNullOrEmpty(t)));
    }
}
