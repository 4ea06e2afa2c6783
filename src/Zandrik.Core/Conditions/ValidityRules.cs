using System.Globalization;
using Zandrik.Core.Engines;
using Zandrik.Core.Preparation;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Conditions;

/// <summary>
/// Checks the test before the engine: what the way of testing did to the numbers. A slip shifts all
/// readings and withholds absolute limits; the comparison between cylinders stays.
/// </summary>
internal sealed class ValidityRules
{
    private readonly List<ValidityNote> notes = [];
    private readonly JudgingRules rules;
    private readonly IReadOnlyList<DryReading> readings;
    private readonly TestConditions testConditions;

    private ValidityRules(JudgingRules rules, IReadOnlyList<DryReading> readings, TestConditions testConditions)
    {
        this.rules = rules;
        this.readings = readings;
        this.testConditions = testConditions;
    }

    internal IReadOnlyList<ValidityNote> Notes => notes;

    internal IReadOnlyList<UnitQuestion> Questions { get; private set; } = [];

    internal AbsoluteLimits Limits { get; private set; } = AbsoluteLimits.Apply;

    internal FallWithOrder? Fall { get; private set; }

    /// <summary>True when the fall is a slip of the test, not merely noted: with the battery on a charger it is something else.</summary>
    internal bool FallIsASlip { get; private set; }

    /// <summary>Cylinders whose readings do not repeat.</summary>
    internal IReadOnlyList<int> NotRepeating { get; private set; } = [];

    /// <summary>Cylinders that held test oil when they were read.</summary>
    internal IReadOnlyList<int> OverOil { get; private set; } = [];

    /// <summary>Cylinders whose reading is not used.</summary>
    internal IReadOnlyList<int> NotUsed { get; private set; } = [];

    internal static ValidityRules Check(
        JudgingRules rules, DryCompressionTest test, IReadOnlyList<DryReading> readings, JudgeBy? judgeBy, PressureUnit shown)
    {
        var check = new ValidityRules(rules, readings, test.Conditions ?? new TestConditions());
        check.ReadingsThatCannotBe(shown);
        check.HowItWasDone();
        check.HowItWasCounted();
        check.WhatRepeats();
        check.Order();
        check.WhatNobodyTicked();
        check.WhatIsMissing(judgeBy);
        return check;
    }

    private void ReadingsThatCannotBe(PressureUnit shown)
    {
        Questions = UnitQuestion.Ask(readings, rules);
        var notUsed = new List<int>();
        if (Questions.Count > 0)
        {
            notUsed.AddRange(Questions.Select(q => q.Reading.Cylinder).Order());
            var q = Questions[0];
            Add(ValidityCode.UnitDoubtful, Severity.Caution,
                $"{q.Reading.Value.Text(q.Reading.Value.Unit)} {q.Reading.Value.Unit.Symbol()} would make sense in {q.Likely.Symbol()}. Not used until you say which it was.",
                notUsed.ToArray());
        }
        // More than any engine of the fuel can pump: a mistyped figure or a gauge holding pressure.
        var highest = rules.HighestPossiblePa;
        var impossible = Where(r => Limit.IsBeyond(r.Value.Pascals, highest));
        if (impossible.Count > 0)
        {
            Add(ValidityCode.ImplausibleReading, Severity.Invalid,
                $"Over {GaugePressure.Figure(highest, shown)} {shown.Symbol()} no {(rules.IsDiesel ? "diesel" : "petrol engine")} reads. Not used: check the figure, or measure again.",
                impossible);
            notUsed.AddRange(impossible.Except(notUsed));
        }
        OverOil = [.. Where(r => r.IsOverOil).Except(notUsed)];
        if (OverOil.Count > 0)
        {
            Add(ValidityCode.OilBeforeDry, Severity.Caution, "Read over test oil: it reads high. Not used. Run the engine until the oil is burnt off, then read it dry again.", OverOil);
            notUsed.AddRange(OverOil);
        }
        NotUsed = notUsed;
    }

    private void HowItWasDone()
    {
        if (Recorded(c => c.EngineTemperature == EngineTemperature.Cold) is { } cold)
        {
            Add(ValidityCode.EngineCold, Severity.Note, "Tested cold: compare with cold tests only. The minimum is indicative; the spread still counts.", cold);
            Limits = AbsoluteLimits.Indicative;
        }
        if (rules.IsThrottled && Recorded(c => c.Throttle == ThrottlePlate.Closed) is { } shut)
        {
            Slip(ValidityCode.ThrottleClosed, "Throttle shut: everything reads 7 to 15 % low. The minimum is withheld; the spread still counts.", shut);
        }
        if (rules.IsThrottled && Recorded(c => c.Throttle == ThrottlePlate.Unverified) is { } unseen)
        {
            Slip(ValidityCode.ThrottleUnverified, "Nobody saw the throttle plate open: look at it. Until then it counts as shut and the minimum is withheld.", unseen);
        }
        if (Recorded(c => c.Plugs == PlugsRemoved.OneAtATime) is { } plugs)
        {
            var mixed = plugs.Count > 0 && plugs.Count < readings.Count;
            Add(ValidityCode.PlugsOneAtATime, Severity.Caution, mixed
                ? "Some cylinders were cranked with the other plugs in, some not: not the same test. Measure them alike."
                : "Cranked with the other plugs in: slower, so a little low. Fine for comparing, as every cylinder was tested so.", plugs);
        }
        if (Recorded(c => c.Fuel == Supply.On) is { } fuel)
        {
            Add(ValidityCode.FuelOn, Severity.Caution, "Fuel was on: it washes the bores and can look like rings. Shut it off and let the engine run or dry before repeating.", fuel);
        }
        if (Recorded(c => c.Ignition == Supply.On) is { } ignition)
        {
            Add(ValidityCode.IgnitionOn, Severity.Caution, "Ignition was on: coils, fingers and fuel vapour are at risk. Disable it before the next crank.", ignition);
        }
        if (Recorded(c => c.Battery == BatteryState.Weak) is { } battery)
        {
            Slip(ValidityCode.BatteryWeak, "Weak battery: slow cranking reads low, the last cylinders most. Put it on a charger and repeat.", battery);
        }
        if (Recorded(c => c.NeedleAtZero == false) is { } needle)
        {
            Slip(ValidityCode.GaugeNotZero, "The needle did not rest at zero: every reading is shifted. Set the gauge and repeat.", needle);
        }
        var head = Where(r => r.CheckValve == CheckValvePlace.GaugeHead);
        if (head.Count > 0 || (readings.Count == 0 && testConditions.CheckValve == CheckValvePlace.GaugeHead))
        {
            Slip(ValidityCode.CheckValveInHead, "Check valve in the gauge head: the hose adds to the chamber and reads 12 to 25 % low. The minimum is withheld.", AllOrSome(head));
        }
        var testers = readings.Select(r => r.TesterLabel).Where(l => l is not null).Distinct().Count();
        if (testers > 1)
        {
            Add(ValidityCode.MixedTesters, Severity.Caution, "Two gauges in one test: part of any difference may be theirs. Repeat with one.", []);
        }
    }

    private void HowItWasCounted()
    {
        TimesUnequal();
        var most = readings.Max(r => r.Pulses);
        if (most is not { } pulses)
        {
            return;
        }
        var enough = rules.IsDiesel ? 5 : 4;
        if (pulses < enough)
        {
            Slip(ValidityCode.PulsesFew, $"Only {pulses} compressions: the needle had not stopped climbing. Crank at least {enough}, the same for every cylinder.", []);
        }
        var fewer = Where(r => r.Pulses < pulses);
        if (fewer.Count > 0)
        {
            Add(ValidityCode.PulsesUnequal, Severity.Caution, string.Create(CultureInfo.InvariantCulture,
                $"Fewer compressions than the {pulses} of the others read low: repeat {CylinderList.Sentence(fewer)} with the same count."), fewer);
        }
    }

    // Cranked for a time instead of a count: as many seconds, as many compressions.
    private void TimesUnequal()
    {
        if (readings.Max(r => r.Seconds) is not { } longest || readings.Any(r => r.Pulses is not null))
        {
            return;
        }
        var shorter = Where(r => r.Seconds is { } s && Limit.IsUnder(s, 0.8 * longest));
        if (shorter.Count > 0)
        {
            Add(ValidityCode.PulsesUnequal, Severity.Caution, string.Create(CultureInfo.InvariantCulture,
                $"Cranked for less than the {longest:0.#} s of the others, so with fewer compressions: repeat {CylinderList.Sentence(shorter)} as long."), shorter);
        }
    }

    private void WhatRepeats()
    {
        var odd = Where(r =>
        {
            if (r.Repeats.Count == 0)
            {
                return false;
            }
            var highest = Math.Max(r.Value.Pascals, r.Repeats.Max(x => x.Pascals));
            var lowest = Math.Min(r.Value.Pascals, r.Repeats.Min(x => x.Pascals));
            return Limit.IsBeyond(highest - lowest, 0.07 * highest);
        });
        NotRepeating = odd;
        if (odd.Count > 0)
        {
            Add(ValidityCode.DoesNotRepeat, Severity.Caution, "Readings of the same cylinder differ by more than 7 %: a reading that does not repeat is not a reading. Check adapter, hose and count, and repeat.", odd);
        }
    }

    private void Order()
    {
        var used = NotUsed.Count == 0 ? readings : [.. readings.Where(r => !NotUsed.Contains(r.Cylinder))];
        if (FallWithOrder.Find(used) is not { } fall)
        {
            return;
        }
        Fall = fall;
        var charger = used.All(r => r.Conditions.Battery == BatteryState.Charger);
        var says = string.Create(CultureInfo.InvariantCulture,
            $"Readings fall by {100 * fall.Fraction:0} % in the order of testing; by accident that happens {Chance(fall.Chance)}. ");
        if (charger)
        {
            Add(ValidityCode.FallsWithOrder, Severity.Note, says + "The battery was on a charger, so look at the hose too.", []);
            return;
        }
        FallIsASlip = true;
        Slip(ValidityCode.FallsWithOrder, says + "A tiring battery does that: charge it, test in another order, and blame no cylinder before. The states are judged with the fall taken out.", []);
    }

    private static string Chance(double chance) => chance < 0.001
        ? "less than once in a thousand tests"
        : string.Create(CultureInfo.InvariantCulture, $"about once in {1 / chance:0} tests");

    private void WhatNobodyTicked()
    {
        foreach (var alike in readings.Where(r => r.NotPrepared.Count > 0).GroupBy(r => string.Join(", ", r.NotPrepared.Select(PreparationList.Short))))
        {
            var cylinders = alike.Select(r => r.Cylinder).Order().ToList();
            Add(ValidityCode.NotPrepared, Severity.Note, $"Not ticked when read: {alike.Key}.", cylinders.Count == readings.Count ? [] : cylinders);
        }
    }

    private void WhatIsMissing(JudgeBy? judgeBy)
    {
        if (rules.MinimumPa is null && rules.NominalPa is null)
        {
            Add(ValidityCode.SpecMissing, Severity.Note, "No maker's figure on the sheet: cylinders are compared with each other only.", []);
        }
        if (readings.Count > 0 && readings.Count < rules.Cylinders)
        {
            Add(ValidityCode.CylindersMissing, Severity.Note, "Not measured yet: the answer can still change.",
                [.. Enumerable.Range(1, rules.Cylinders).Except(readings.Select(r => r.Cylinder))]);
        }
        var barometer = readings.Count > 0 ? readings[0].Conditions.BarometricKPa : testConditions.BarometricKPa;
        // With the barometer known the readings are brought to sea level; by the altitude alone nobody knows the day's air.
        if (barometer is null && judgeBy?.AltitudeM > 300)
        {
            Add(ValidityCode.AltitudeUncorrected, Severity.Note, "Thinner air than at sea level: readings are about 3.5 % lower per 300 m. Note the barometer, and they are brought to sea level.", []);
        }
    }

    private void Slip(ValidityCode code, string says, IReadOnlyList<int> cylinders)
    {
        Add(code, Severity.Caution, says, cylinders);
        Limits = AbsoluteLimits.Withheld;
    }

    private void Add(ValidityCode code, Severity severity, string says, IReadOnlyList<int> cylinders) =>
        notes.Add(new ValidityNote(code, severity, says, cylinders));

    // Cylinders a condition was recorded for: empty for all of them, null for none. Before the first
    // reading the conditions of the test speak for it.
    private List<int>? Recorded(Func<TestConditions, bool> holds)
    {
        if (readings.Count == 0)
        {
            return holds(testConditions) ? [] : null;
        }
        var where = Where(r => holds(r.Conditions));
        return where.Count == 0 ? null : AllOrSome(where);
    }

    private List<int> AllOrSome(List<int> where) => where.Count == readings.Count ? [] : where;

    private List<int> Where(Func<DryReading, bool> holds)
    {
        var result = new List<int>();
        foreach (var reading in readings)
        {
            if (holds(reading))
            {
                result.Add(reading.Cylinder);
            }
        }
        result.Sort();
        return result;
    }
}
