using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>Everything one dry test says: about itself, about the spread, and about each cylinder.</summary>
public sealed record DryJudgement
{
    /// <summary>One plain sentence, the most pressing thing first.</summary>
    public required string Headline { get; init; }

    /// <summary>Cylinders 1 to N, in order.</summary>
    public required IReadOnlyList<CylinderFinding> Cylinders { get; init; }

    /// <summary>Each method's answer; empty with fewer than two readings that count.</summary>
    public required IReadOnlyList<SpreadFinding> Spread { get; init; }

    /// <summary>Against the maker's minimum; absent without a figure or a reading.</summary>
    public MinimumFinding? Minimum { get; init; }

    /// <summary>What the places of the low or high cylinders have in common.</summary>
    public IReadOnlyList<DryPattern> Patterns { get; init; } = [];

    /// <summary>How the readings fall with the order of testing; absent when they do not.</summary>
    public FallWithOrder? Fall { get; init; }

    /// <summary>What the sound cylinders give, Pa; absent when it cannot be said.</summary>
    public double? ReferencePa { get; init; }

    /// <summary>How far below the reference the deciding method still calls good, Pa; absent without a reference, and where every reading is low.</summary>
    public double? GoodBandPa { get; init; }

    /// <summary>True where two and more are read and every one is under the minimum, or 15 % and more under the nominal; without either figure under what the trade wants explained.</summary>
    public bool IsLowAllOver { get; init; }

    /// <summary>What the way of testing did to the numbers.</summary>
    public required IReadOnlyList<ValidityNote> Validity { get; init; }

    /// <summary>Readings whose unit a person must confirm before they count.</summary>
    public required IReadOnlyList<UnitQuestion> Questions { get; init; }

    /// <summary>True where the test only compares gauges: its figures are shown, and no cylinder is judged by them.</summary>
    public bool IsGaugeCheck { get; init; }

    /// <summary>How many cylinders have a reading that counts.</summary>
    public int Measured => Cylinders.Count(c => c.State != CylinderState.Untested);

    /// <summary>The worst state on the engine; <see cref="CylinderState.Untested"/> when nothing is measured.</summary>
    public CylinderState Worst => Cylinders.Max(c => c.State);

    /// <summary>The cylinders that the tests after this one are asked about: low, dead or under watch; in order.</summary>
    public IReadOnlyList<CylinderFinding> InDoubt => [.. Cylinders.Where(c => c.State is CylinderState.Low or CylinderState.Dead or CylinderState.Watch)];

    /// <summary>What has to be done next for this test to be finished, in a few words.</summary>
    public string WaitsFor
    {
        get
        {
            var missing = Cylinders.Where(c => c is { State: CylinderState.Untested, InQuestion: false }).Select(c => c.Cylinder).ToList();
            var oiled = Cylinders.Where(c => c.IsOverOil).Select(c => c.Cylinder).ToList();
            return IsGaugeCheck ? "The dry test itself: this one compares gauges"
                : oiled.Count > 0 && missing.Count == 0 ? $"Run and clear, then dry reading of {CylinderList.Sentence(oiled)}"
                : Questions.Count > 0 ? $"A unit to confirm: {Questions[0].Reading.Value.Unit.Symbol()} or {Questions[0].Likely.Symbol()}?"
                : missing.Count == Cylinders.Count ? "The first reading"
                : missing.Count > 0 ? $"Dry reading of {CylinderList.Sentence(missing)}"
                : Minimum?.Limits == AbsoluteLimits.Withheld ? "The test again, without the error"
                : Worst == CylinderState.Sound ? "A look at the result"
                : "A decision";
        }
    }

    /// <summary>
    /// Judges a dry test. Deterministic; the order in which readings are listed does not matter beyond the
    /// order of testing that it stands for.
    /// </summary>
    /// <param name="engine">A sheet that passes <see cref="EngineRules"/>.</param>
    /// <param name="test">The test; it may be empty.</param>
    /// <param name="judgeBy">A shop's settings; absent for the defaults.</param>
    /// <param name="shown">The unit of the figures in the sentences; absent for the test's own.</param>
    /// <returns>States, spread by each method, notes and headline; of an empty test that it waits.</returns>
    public static DryJudgement Of(EngineSheet engine, DryCompressionTest test, JudgeBy? judgeBy = null, PressureUnit? shown = null)
    {
        var unit = shown ?? RecordRules.UnitOf(test.Unit, engine);
        var rules = JudgingRules.For(engine, judgeBy);
        var readings = DryReading.Of(test, engine);
        var validity = ValidityRules.Check(rules, test, readings, judgeBy, unit);
        var struck = (test.Readings ?? []).Where(r => r is { Value: not null, Struck: not null, SupersededBy: null }).Select(r => r.Cylinder).ToHashSet();
        return new DryJudge(engine, rules, readings, validity, unit, struck) { IsGaugeCheck = test.Role == TestRole.GaugeCheck }.Judge();
    }
}
