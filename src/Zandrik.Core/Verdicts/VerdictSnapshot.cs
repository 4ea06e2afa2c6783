using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Reports;
using Zandrik.Core.Units;

namespace Zandrik.Core.Verdicts;

/// <summary>A method of spread as it stood when a verdict was signed, in words.</summary>
/// <param name="Name">What the shop floor calls it.</param>
/// <param name="Value">Its figure with its unit.</param>
/// <param name="Limits">Its limits with their unit: good up to, marginal up to.</param>
/// <param name="Verdict">What it says.</param>
/// <param name="Deciding">True for the one that decides.</param>
public sealed record MethodSays(string Name, string Value, string Limits, SpreadVerdict Verdict, bool Deciding);

/// <summary>What was read at a cylinder, in words.</summary>
/// <param name="Test">The test.</param>
/// <param name="Says">The figure with its unit, and what was heard.</param>
public sealed record ReadingSays(StepKind Test, string Says);

/// <summary>The cylinder as a verdict draws it.</summary>
/// <param name="Cylinder">Its number.</param>
/// <param name="Readings">What was read there, in the order of the tests.</param>
/// <param name="Level">How full its glass is drawn, 0 to 1: dry against the highest of the engine; without a dry reading relative percent or held air; absent for none.</param>
/// <param name="Figure">The figure above it.</param>
public sealed record CylinderShown(int Cylinder, IReadOnlyList<ReadingSays> Readings, double? Level, string Figure);

/// <summary>
/// Everything a verdict stands on and says, as it was when it was signed. It is kept as it is: a later change of the engine's sheet, of the shop's rules or of this program changes nothing in it.
/// </summary>
public sealed record VerdictSnapshot
{
    /// <summary>Everything measured, the engine and the rules it was judged by; without what was found later.</summary>
    public required TestRecord Record { get; init; }

    /// <summary>The unit of its figures.</summary>
    public required PressureUnit Unit { get; init; }

    /// <summary>What is said of the engine.</summary>
    public required EngineState State { get; init; }

    /// <summary>One plain sentence.</summary>
    public required string Headline { get; init; }

    /// <summary>Causes of the whole engine, most likely first.</summary>
    public required IReadOnlyList<EngineSuspect> Suspects { get; init; }

    /// <summary>Cylinders 1 to N with their suspects and the evidence for and against each.</summary>
    public required IReadOnlyList<CylinderDiagnosis> Cylinders { get; init; }

    /// <summary>The same as they are drawn.</summary>
    public required IReadOnlyList<CylinderShown> Shown { get; init; }

    /// <summary>What the glasses of <see cref="Shown"/> show, with its unit.</summary>
    public required string ShownIn { get; init; }

    /// <summary>Every method of spread.</summary>
    public required IReadOnlyList<MethodSays> Methods { get; init; }

    /// <summary>What the way of testing did to the numbers.</summary>
    public required IReadOnlyList<ValidityNote> Validity { get; init; }

    /// <summary>What could have settled more.</summary>
    public required IReadOnlyList<NextTest> Next { get; init; }

    /// <summary>What to open, and what to look at and measure then.</summary>
    public required IReadOnlyList<ActionAdvice> Actions { get; init; }

    /// <summary>What can hurt whoever does it.</summary>
    public required IReadOnlyList<string> Cautions { get; init; }

    /// <summary>For the owner of the vehicle.</summary>
    public required string Owner { get; init; }

    /// <summary>The verdict as things stand now.</summary>
    /// <param name="job">The job; figures are in the unit it is shown in.</param>
    /// <returns>The snapshot; the same for the same job.</returns>
    public static VerdictSnapshot Of(JobAssessment job)
    {
        // What is found later must not tell what was said before.
        var record = job.Record with { Found = null };
        var unit = job.Progress.Shown ?? RecordRules.UnitOf(job.Tests.DryTest?.Unit, record.Engine);
        var said = job.Diagnosis;
        var (shown, shownIn) = Draw(job.Tests, unit);
        return new VerdictSnapshot
        {
            Record = record,
            Unit = unit,
            State = said.State,
            Headline = said.Headline,
            Suspects = said.Suspects,
            Cylinders = said.Cylinders,
            Shown = shown,
            ShownIn = shownIn,
            Methods = [.. said.Spread.Select(s => new MethodSays(SpreadFinding.NameOf(s.Method), s.ValueText(unit), s.LimitsText(unit), s.Verdict, s.Deciding))],
            Validity = said.Validity,
            Next = [.. job.Next.Select(n => new NextTest(n.Kind, n.Cylinders, n.Minutes, n.GainBits, n.Why))],
            Actions = said.Actions,
            Cautions = OpeningCautions.For(record.Engine, said.Actions.Select(a => a.Action)),
            Owner = OwnerParagraph.Of(job.Tests) + " " + OwnerVerdict.Of(VerdictAnswer.Of(said), overruled: false, said.State) + (said.Evidence.IsTooLowToStart ? $" With so little pressure the engine cannot be expected to {said.Evidence.HowItStarts}." : ""),
        };
    }

    /// <summary>Whether there is anything to sign: something was measured, or noticed that has a cause of its own.</summary>
    /// <returns>False for a job on which nothing was measured and nothing points to a cause.</returns>
    public bool SaysSomething() => Shown.Any(s => s.Readings.Count > 0) || Suspects[0].Fault != Fault.None;

    /// <summary>The same verdict, told to the owner as the people of the shop see it.</summary>
    /// <param name="answers">What they say in its place.</param>
    /// <returns>The snapshot; everything but the owner's paragraph as it was.</returns>
    public VerdictSnapshot Overruled(IReadOnlyList<VerdictAnswer> answers) => this with { Owner = OwnerParagraph.Of(JudgedTests.Of(Record, Unit)) + " " + OwnerVerdict.Of(answers, overruled: true) };

    private static (IReadOnlyList<CylinderShown> Shown, string In) Draw(JudgedTests tests, PressureUnit unit)
    {
        var (dry, leak, wet, running) = (tests.Dry, tests.LeakDown, tests.Wet, tests.Running);
        var relative = tests.Relative?.Readings?.Where(x => x is { SupersededBy: null, RelativePercent: not null }).ToDictionary(x => x.Cylinder);
        string Pressure(GaugePressure p) => $"{p.Text(unit)} {unit.Symbol()}";
        string Percent(double p, string format = "0") => p.ToString(format, System.Globalization.CultureInfo.CurrentCulture) + " %";
        IEnumerable<ReadingSays> Readings(int c)
        {
            if (relative?.GetValueOrDefault(c) is { } rel)
            {
                yield return new(StepKind.Relative, $"{Percent(rel.RelativePercent!.Value, "0.0")} of the best{(rel.StandardErrorPercent is { } e ? $", ± {Percent(e, "0.0")}" : "")}");
            }
            if (dry?.Cylinders[c - 1].Value is { } read)
            {
                yield return new(StepKind.Dry, Pressure(read));
            }
            if (leak?.Cylinders[c - 1] is { Percent: { } lost } at)
            {
                yield return new(StepKind.LeakDown, $"{Percent(lost)} lost{(at.Air.Listened ? $", heard: {at.Air.Says}" : "")}{(at.Counts ? "" : ", not used")}");
            }
            if (wet?.Cylinders[c - 1].Wet is { } oiled)
            {
                yield return new(StepKind.Wet, Pressure(oiled));
            }
            if (running?.Cylinders[c - 1] is { } ran && (ran.Idle ?? ran.Snap) is not null)
            {
                yield return new(StepKind.Running, string.Join(", ", new[] { ran.Idle is { } i ? $"idle {Pressure(i)}" : null, ran.Snap is { } s ? $"snap {Pressure(s)}" : null }.OfType<string>()));
            }
        }
        // With every reading held back (a unit in doubt) there is no level to draw; the figures still stand.
        var highest = dry?.Cylinders.Where(c => !c.InQuestion).Select(c => c.LevelPa ?? 0).DefaultIfEmpty().Max() ?? 0;
        (double?, string) Glass(int c) => highest > 0 ? (dry!.Cylinders[c - 1] is { InQuestion: false, LevelPa: { } level } ? level / highest : null, dry!.Cylinders[c - 1].Value?.Text(unit) ?? "")
            : relative is not null ? (relative.GetValueOrDefault(c)?.RelativePercent / 100, relative.GetValueOrDefault(c)?.RelativePercent is { } p ? Percent(p) : "")
            : leak is not null ? (leak.Cylinders[c - 1].Percent is { } lost ? 1 - lost / 100 : null, leak.Cylinders[c - 1].Percent is { } x ? Percent(100 - x) : "")
            : (null, dry?.Cylinders[c - 1].Value?.Text(unit) ?? "");
        return ([.. Enumerable.Range(1, tests.Record.Engine.Cylinders).Select(c => new CylinderShown(c, [.. Readings(c)], Glass(c).Item1, Glass(c).Item2))],
            highest > 0 ? $"dry, {unit.Symbol()}" : relative is not null ? "relative compression, % of the best" : leak is not null ? "air held in the leak-down, %" : dry?.Cylinders.Any(c => c.Value is not null) == true ? $"dry, {unit.Symbol()}, held back" : "nothing measured");
    }
}
