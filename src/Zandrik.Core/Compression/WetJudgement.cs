using System.Globalization;
using MathNet.Numerics.Statistics;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>What oil says about the rings of a cylinder.</summary>
public enum RingsTakePart
{
    /// <summary>No wet reading that counts, or no dry one beside it.</summary>
    Unknown,

    /// <summary>An excess gain under 2 percent.</summary>
    Unlikely,

    /// <summary>Between 2 and 5 percent: repeat both readings.</summary>
    Unclear,

    /// <summary>5 percent and more.</summary>
    Yes,
}

/// <summary>One oiled cylinder.</summary>
public sealed record WetFinding
{
    /// <summary>The cylinder.</summary>
    public required int Cylinder { get; init; }

    /// <summary>The wet reading that counts, as read; absent when there is none.</summary>
    public GaugePressure? Wet { get; init; }

    /// <summary>The dry reading beside it, as read; absent when there is none that counts.</summary>
    public GaugePressure? Dry { get; init; }

    /// <summary>(wet − dry)/dry; absent without both, and for a dry reading of 0, to which nothing compares.</summary>
    public double? Gain { get; init; }

    /// <summary>The gain beyond that of a sound cylinder oiled alike; absent without a gain.</summary>
    public double? ExcessGain { get; init; }

    /// <summary>(wet − dry)/(reference − dry), where more than 10 percent is missing; else absent.</summary>
    public double? Recovery { get; init; }

    /// <summary>What rings alone would bring back of such a deficit; absent without a recovery.</summary>
    public double? RingsAloneRecovery { get; init; }

    /// <summary>About what the gauge would read wet, as it reads, if the rings alone leaked; absent without a recovery.</summary>
    public GaugePressure? RingsAlone { get; init; }

    /// <summary>What the excess gain says.</summary>
    public RingsTakePart Rings { get; init; }

    /// <summary>True for a reading that cannot be: kept out.</summary>
    public bool IsImplausible { get; init; }

    /// <summary>One or two short sentences.</summary>
    public string Says { get; init; } = "";
}

/// <summary>Everything one wet test says, read against the dry test before it.</summary>
public sealed record WetJudgement
{
    /// <summary>Excess gain from which rings or bore take part. Rule of the trade.</summary>
    public const double TakesPart = 0.05;

    /// <summary>Excess gain under which they are unlikely to. Rule of the trade.</summary>
    public const double HardlyTakesPart = 0.02;

    /// <summary>A share missing from the reference from which recovery means something.</summary>
    public const double EnoughMissing = 0.10;

    // A wet reading this far under the dry one was not taken the same way.
    private const double LeastOfDry = 0.82;

    // The better cylinders reach this share of what the engine should give, or they may be worn too.
    private const double NotWorn = 0.92;

    // What oil does for a sound cylinder, by taking up chamber volume: the middle of 3 to 6 percent.
    private const double SoundGainPetrol = 0.04, SoundGainDiesel = 0.05;

    /// <summary>One plain sentence.</summary>
    public required string Headline { get; init; }

    /// <summary>Cylinders 1 to N, in order.</summary>
    public required IReadOnlyList<WetFinding> Cylinders { get; init; }

    /// <summary>What oil does for a sound cylinder of this engine, as a gain.</summary>
    public required double SoundGain { get; init; }

    /// <summary>True when that was measured on sound cylinders of this test, false for the rule of the trade.</summary>
    public required bool SoundGainMeasured { get; init; }

    /// <summary>True where oil does not reach the whole ring.</summary>
    public required bool IsWeak { get; init; }

    /// <summary>What the way of testing did to the numbers.</summary>
    public required IReadOnlyList<ValidityNote> Validity { get; init; }

    /// <summary>Judges a wet test against the job's latest dry test.</summary>
    /// <param name="record">The whole job.</param>
    /// <param name="test">The wet test; it may be empty.</param>
    /// <param name="shown">The unit of the figures in the sentences; absent for the test's own.</param>
    /// <returns>The gain of each cylinder and what it says; of an empty test that it waits.</returns>
    public static WetJudgement Of(TestRecord record, WetCompressionTest test, PressureUnit? shown = null)
    {
        var measured = LatestDryTest.Of(record);
        return Of(record.Engine, test, measured, measured is null ? null : DryJudgement.Of(record.Engine, measured, record.JudgeBy, shown), shown);
    }

    /// <summary>Judges a wet test against a dry one that is judged already.</summary>
    internal static WetJudgement Of(EngineSheet engine, WetCompressionTest test, DryCompressionTest? measured, DryJudgement? dry, PressureUnit? shown)
    {
        var dryReadings = measured is null ? [] : DryReading.Of(measured, engine).ToDictionary(r => r.Cylinder);
        // A wet reading is taken as a dry one is: the same correction, barometer and unit rules.
        var wetReadings = DryReading.Of(new DryCompressionTest { Unit = test.Unit, Readings = test.Readings, Tester = test.Tester, Conditions = test.Conditions }, engine).ToDictionary(r => r.Cylinder);
        var unit = shown ?? RecordRules.UnitOf(test.Unit, engine);
        var notes = new List<ValidityNote>();

        var highest = JudgingRules.HighestPossible(engine.Fuel == Fuel.Diesel);
        bool Impossible(int c) => wetReadings.TryGetValue(c, out var w)
            && (w.Value.Pascals > highest || (dryReadings.TryGetValue(c, out var d) && DryCounts(dry, c) && Limit.IsUnder(w.Value.Pascals, LeastOfDry * d.Value.Pascals)));
        double? Gain(int c) => wetReadings.TryGetValue(c, out var w) && dryReadings.TryGetValue(c, out var d) && DryCounts(dry, c) && d.Value.Pascals > 0 && !Impossible(c)
            ? w.Value.Pascals / d.Value.Pascals - 1 : null;

        var usual = engine.Fuel == Fuel.Diesel ? SoundGainDiesel : SoundGainPetrol;
        var (soundGain, soundMeasured) = SoundGainOf(usual, dry, Gain, engine);
        var findings = Enumerable.Range(1, engine.Cylinders).Select(c => Finding(c)).ToList();

        Note(findings.Where(f => f.IsImplausible), ValidityCode.ImplausibleReading, Severity.Invalid, "Wet well under its own dry reading, or more than an engine pumps: not taken the same way. Not used: measure again.");
        var labels = wetReadings.Values.Concat(dryReadings.Values.Where(d => wetReadings.ContainsKey(d.Cylinder))).Select(r => r.TesterLabel).Where(l => l is not null).Distinct().Count();
        if (labels > 1)
        {
            notes.Add(new ValidityNote(ValidityCode.MixedTesters, Severity.Caution, "Wet and dry were not read with the same gauge: part of a gain may be the gauge's.", []));
        }
        Note(findings.Where(f => f.Wet is not null && f.Dry is null), ValidityCode.CylindersMissing, Severity.Note, "No dry reading that counts beside the wet one: a gain needs both.");

        return new WetJudgement
        {
            Headline = HeadlineOf(findings, WetRules.IsWeak(engine)),
            Cylinders = findings,
            SoundGain = soundGain,
            SoundGainMeasured = soundMeasured,
            IsWeak = WetRules.IsWeak(engine),
            Validity = notes,
        };

        void Note(IEnumerable<WetFinding> where, ValidityCode code, Severity severity, string says)
        {
            var cylinders = where.Select(f => f.Cylinder).ToList();
            if (cylinders.Count > 0)
            {
                notes.Add(new ValidityNote(code, severity, says, cylinders));
            }
        }

        WetFinding Finding(int c)
        {
            var finding = new WetFinding
            {
                Cylinder = c,
                Wet = wetReadings.TryGetValue(c, out var w) ? w.Value : null,
                Dry = dryReadings.TryGetValue(c, out var d) && DryCounts(dry, c) ? d.Value : null,
                IsImplausible = Impossible(c),
            };
            if (finding.Wet is not { } wet)
            {
                return finding;
            }
            if (finding.IsImplausible)
            {
                return finding with { Says = finding.Dry is { } under ? $"Not used: wet reads {wet.Text(unit)} under a dry {under.Text(unit)}. Measure again." : "Not used: more than an engine pumps." };
            }
            if (finding.Dry is not { } dryValue)
            {
                return finding with { Says = "No dry reading to compare with." };
            }
            if (Gain(c) is not { } gain)
            {
                return finding with { Says = wet.Pascals > 0 ? "It pumped nothing dry: oil brought some back, but a share of nothing says nothing. Leak-down decides." : "Nothing dry, nothing wet: oil seals no hole. Leak-down decides." };
            }
            var excess = gain - soundGain;
            var rings = excess >= TakesPart - 1e-9 ? RingsTakePart.Yes : excess < HardlyTakesPart - 1e-9 ? RingsTakePart.Unlikely : RingsTakePart.Unclear;
            finding = finding with { Gain = gain, ExcessGain = excess, Rings = rings };
            if (dry!.ReferencePa is { } reference && reference > 0 && Limit.IsBeyond(1 - dry.Cylinders[c - 1].LevelPa!.Value / reference, EnoughMissing))
            {
                var missing = 1 - d!.PressurePa / reference;
                var alone = RingsAlone(missing);
                // In the scale of this gauge, as the dry figure beside it: its check may have moved both.
                var onGauge = finding.Dry!.Value.Pascals / d.PressurePa;
                finding = finding with
                {
                    Recovery = (w!.PressurePa - d.PressurePa) / (reference - d.PressurePa),
                    RingsAloneRecovery = alone,
                    RingsAlone = new GaugePressure((d.PressurePa + alone * (reference - d.PressurePa)) * onGauge / PressureUnit.KPa.Pascals(), PressureUnit.KPa),
                };
            }
            return finding with { Says = Says(finding, WetRules.IsWeak(engine)) };
        }
    }

    /// <summary>
    /// What oil would bring back if rings alone were the cause: about 80 percent where 10 percent is missing, about
    /// 35 where two thirds are; a straight line between, and level beyond. Fitted to the engine model (docs/wet-test.md).
    /// </summary>
    /// <param name="missing">The share of the reference that is missing, 0 to 1.</param>
    /// <returns>A share of the dry reading, 0.80 down to 0.35; no unit.</returns>
    public static double RingsAlone(double missing) => 0.80 - (0.80 - 0.35) * (Math.Clamp(missing, 0.10, 2.0 / 3) - 0.10) / (2.0 / 3 - 0.10);

    private static bool DryCounts(DryJudgement? dry, int cylinder) =>
        dry?.Cylinders[cylinder - 1] is { State: not CylinderState.Untested, InQuestion: false };

    // The rule of the trade, moved three quarters of the way to what sound cylinders of this test gained, where
    // at least two were oiled. Cylinders that are alike and low may all be worn: what oil does for them says nothing of a sound one.
    private static (double Gain, bool Measured) SoundGainOf(double usual, DryJudgement? dry, Func<int, double?> gain, EngineSheet engine)
    {
        if (dry?.ReferencePa is not { } reference || Limit.IsUnder(reference, NotWorn * ExpectedLevel.Pa(JudgingRules.For(engine))))
        {
            return (usual, false);
        }
        var sound = Enumerable.Range(1, engine.Cylinders).Where(c => dry.Cylinders[c - 1].LevelPa > 0.93 * reference).Select(gain).OfType<double>().ToList();
        if (sound.Count < 2)
        {
            return (usual, false);
        }
        return (usual + Math.Clamp(0.75 * (sound.Median() - usual), -0.04, 0.05), true);
    }

    private static string Says(WetFinding f, bool weak)
    {
        var excess = Percent(f.ExcessGain!.Value);
        var says = f.Rings switch
        {
            RingsTakePart.Yes => $"Oil raised it {excess} more than a sound cylinder: rings or bore take part.",
            RingsTakePart.Unclear => $"Oil raised it {excess} more than a sound cylinder: too little to tell. Repeat dry and wet.",
            _ => f.Gain < 0 ? "Oil raised nothing: the rings are unlikely." : "Oil raised it no more than a sound cylinder: the rings are unlikely.",
        };
        if (f is { Recovery: { } back, RingsAloneRecovery: { } alone, Rings: RingsTakePart.Yes } && back < 0.6 * alone)
        {
            says += " Less than rings alone would give: rings, or rings and another leak. Leak-down decides.";
        }
        return weak ? says + " Weaker evidence: oil does not reach the whole ring of a flat or slanted engine." : says;
    }

    private static string HeadlineOf(List<WetFinding> findings, bool weak)
    {
        var oiled = findings.Where(f => f.Wet is not null).ToList();
        if (oiled.Count == 0)
        {
            return "No wet reading yet.";
        }
        List<int> With(RingsTakePart rings) => [.. oiled.Where(f => f.Rings == rings).Select(f => f.Cylinder)];
        var (yes, unclear, no) = (With(RingsTakePart.Yes), With(RingsTakePart.Unclear), With(RingsTakePart.Unlikely));
        var parts = new List<string>();
        if (yes.Count > 0)
        {
            parts.Add($"rings or bore take part in {CylinderList.Sentence(yes)}");
        }
        if (unclear.Count > 0)
        {
            parts.Add($"repeat {CylinderList.Sentence(unclear)}");
        }
        if (no.Count > 0)
        {
            parts.Add($"in {CylinderList.Sentence(no)} the rings are unlikely");
        }
        if (parts.Count == 0)
        {
            return "No gain to be worked out yet.";
        }
        var text = string.Join("; ", parts);
        return $"{char.ToUpperInvariant(text[0])}{text[1..]}{(weak ? ", as far as oil reaches the rings here" : "")}.";
    }

    private static string Percent(double share) => (100 * share).ToString("0;−0;0", CultureInfo.CurrentCulture) + " %";
}
