using System.Globalization;
using Zandrik.Core.Checks;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Running;

namespace Zandrik.Core.Reports;

/// <summary>
/// What was found, for the owner of the vehicle: no unit, no method, no abbreviation, and no more said than was
/// measured. A reading that is not used is not told as a finding.
/// </summary>
public static class OwnerParagraph
{
    /// <summary>The paragraph: a few plain sentences.</summary>
    /// <param name="judged">The tests of the job; what it says of them here is what every page says.</param>
    /// <returns>The paragraph; never empty.</returns>
    public static string Of(JudgedTests judged)
    {
        var record = judged.Record;
        var tests = record.Tests ?? [];
        var says = new List<string>();
        if (judged.Relative is { } relative)
        {
            Relative(relative, CaptureQuestion.LimitOf(record.JudgeBy), says);
        }
        if (judged.Dry is { } dry)
        {
            Dry(dry, record.Engine.Cylinders, says);
        }
        if (judged.LeakDown is { } leak)
        {
            LeakDown(leak, says);
        }
        if (judged.Wet is { } wet)
        {
            Wet(wet, says);
        }
        if (judged.Running is { } running)
        {
            Running(running, says);
        }
        Fluids(record, says);
        foreach (var test in tests.Where(t => SupportingCheck.KindOf(t) is not null).GroupBy(SupportingCheck.KindOf).Select(g => g.Last()))
        {
            if (test is CombustionGasTest { Result: CombustionGasResult.Positive })
            {
                says.Add("The coolant contains combustion gas, so a cylinder leaks into the cooling system.");
            }
            else if (test is CombustionGasTest { Result: CombustionGasResult.Negative })
            {
                says.Add("No combustion gas was found in the coolant.");
            }
            else if (test is CombustionGasTest { Result: CombustionGasResult.Unclear })
            {
                says.Add("Whether there is combustion gas in the coolant was not clear.");
            }
            else if (test is ValveClearanceCheck clearances)
            {
                Clearances(clearances, says);
            }
        }
        Plugs([.. tests.OfType<PlugInspection>().SelectMany(t => t.Readings ?? []).Where(r => r.SupersededBy is null).GroupBy(r => r.Cylinder).Select(g => g.Last())], record.Engine.Fuel == Fuel.Diesel, says);
        if (says.Count == 0)
        {
            says.Add("No compression reading has been taken yet.");
        }
        if (judged.DryTest is not null)
        {
            says.Add("Nothing was taken apart for these tests: what exactly is worn or broken is certain only when the engine is open.");
        }
        return string.Join(" ", says);
    }

    private static void Plugs(List<PlugReading> read, bool diesel, List<string> says)
    {
        if (read.Count == 0)
        {
            return;
        }
        List<string> told = [];
        foreach (var (sign, word) in new[] { (PlugSign.OilWet, "wet with oil"), (PlugSign.FuelWet, "wet with fuel"), (PlugSign.WetUnknown, "wet, the liquid not known yet"), (PlugSign.CoolantCleaned, "washed clean, as by coolant"), (PlugSign.Broken, "broken") })
        {
            var of = read.Where(r => r.Signs?.Contains(sign) == true).Select(r => r.Cylinder).Order().ToList();
            if (of.Count > 0)
            {
                told.Add($"{Named(of, lower: true)} {word}");
            }
        }
        says.Add($"The {(diesel ? "glow " : "spark ")}plugs of {Named([.. read.Select(r => r.Cylinder).Order()], lower: true)} were checked{(told.Count > 0 ? $": {string.Join("; ", told)}" : "")}.");
    }

    private static void Clearances(ValveClearanceCheck check, List<string> says)
    {
        var read = (check.Readings ?? []).Where(r => r is { SupersededBy: null, Value: not null }).ToList();
        var tight = read.Where(r => r.Value < r.Minimum).Select(r => r.Cylinder).Distinct().Order().ToList();
        var wide = read.Where(r => r.Value > r.Maximum).Select(r => r.Cylinder).Distinct().Order().ToList();
        if (read.Count > 0)
        {
            says.Add($"The valve clearances of {Named([.. read.Select(r => r.Cylinder).Distinct().Order()], lower: true)} were measured"
                + (tight.Count > 0 ? $"; in {Named(tight, lower: true)} one is too small" : "") + (wide.Count > 0 ? $"; in {Named(wide, lower: true)} one is too large" : "") + ".");
        }
    }

    private static void Fluids(TestRecord record, List<string> says)
    {
        var found = (record.Tests ?? []).OfType<FluidsCheck>().SelectMany(t => t.Findings ?? []).ToHashSet();
        bool Noticed(Observation seen, FluidFinding? finding = null) => record.Observations?.Contains(seen) == true || (finding is { } f && found.Contains(f));
        if (Noticed(Observation.MilkyOil, FluidFinding.MilkyOil) && !(found.Contains(FluidFinding.NoCoolantInOil) && !found.Contains(FluidFinding.MilkyOil)))
        {
            says.Add("There are signs of coolant in the oil.");
        }
        if (Noticed(Observation.OilInCoolant, FluidFinding.OilInCoolant) && !(found.Contains(FluidFinding.NoOilInCoolant) && !found.Contains(FluidFinding.OilInCoolant)))
        {
            says.Add("There is oil in the coolant.");
        }
        if (Noticed(Observation.CoolantBubbles, FluidFinding.CoolantBubbles))
        {
            says.Add("Bubbles rise in the coolant.");
        }
        var wet = (record.Tests ?? []).OfType<PlugInspection>().SelectMany(t => t.Readings ?? []).Where(r => r.SupersededBy is null && r.Signs?.Contains(PlugSign.CoolantWet) == true).Select(r => r.Cylinder).Distinct().Order().ToList();
        if (wet.Count > 0)
        {
            says.Add($"Coolant was found in {Named(wet, lower: true)}.");
        }
        else if (Noticed(Observation.CoolantInCylinder, FluidFinding.CoolantInCylinder))
        {
            says.Add("Coolant was found in a cylinder.");
        }
        if (found.Contains(FluidFinding.CoolantInIntake) || (record.Tests ?? []).OfType<FluidsCheck>().LastOrDefault(t => t.CoolantInIntake is not null)?.CoolantInIntake == true)
        {
            says.Add("Coolant was found in the intake.");
        }
        if ((record.Tests ?? []).OfType<FluidsCheck>().Any(t => t.BlowBy is BlowBy.Much or BlowBy.Puffing) || found.Contains(FluidFinding.BlowByMuch))
        {
            says.Add("More gas than usual goes past the pistons.");
        }
    }

    private static void Relative(RelativeCompressionTest test, double limitPercent, List<string> says)
    {
        says.Add("From the current that the starter draws we compared the cylinders with each other.");
        if (test.Readings?.Any(r => r.SupersededBy is null) != true)
        {
            says.Add(RelativeHeadline.LowSlots(test, limitPercent) switch
            {
                0 => "None is surely weaker than the best of them. Whether all are worn alike this cannot show.",
                1 => "One of them builds up clearly less than the best of them; which one it is, this does not show.",
                _ => "Some of them build up clearly less than the best of them; which ones, this does not show.",
            });
            return;
        }
        var low = test.Readings!.Where(r => r.SupersededBy is null && RelativeHeadline.VerdictOf(r, limitPercent) is RelativeVerdict.Low or RelativeVerdict.Dead).Select(r => r.Cylinder).Order().ToList();
        says.Add(low.Count > 0 ? $"{Named(low)} {(low.Count == 1 ? "builds" : "build")} up clearly less than the best of them."
            : "None is surely weaker than the best of them. Whether all are worn alike this cannot show.");
    }

    private static void Dry(DryJudgement judged, int cylinders, List<string> says)
    {
        List<int> In(params CylinderState[] states) => [.. judged.Cylinders.Where(c => states.Contains(c.State)).Select(c => c.Cylinder)];
        says.Add(cylinders == 1
            ? "We measured how much pressure the engine's cylinder builds up while the starter turns it."
            : $"We measured how much pressure each of the engine's {cylinders} cylinders builds up while the starter turns it.");
        // "As they should be" needs a limit that holds: an even engine may be evenly worn.
        var known = judged.Minimum?.Limits == AbsoluteLimits.Apply && judged.Fall is null;
        string Good(List<int> sound) => sound.Count == cylinders && cylinders > 1
            ? known ? "All of them are as they should be." : "None of them stands out; whether all are as high as they should be is not judged."
            : known ? $"{Named(sound)} {(sound.Count == 1 ? "is as it" : "are as they")} should be." : cylinders > 1 ? $"{Named(sound)} {(sound.Count == 1 ? "does" : "do")} not stand out." : "Whether it is as high as it should be is not judged.";
        var (low, watch, sound, high, missing) = (In(CylinderState.Low, CylinderState.Dead), In(CylinderState.Watch), In(CylinderState.Sound), In(CylinderState.High), In(CylinderState.Untested));
        if (judged.Minimum?.Limits == AbsoluteLimits.Withheld || judged.Fall is not null)
        {
            says.Add("Something in the way of testing held all the readings down, so they are compared with each other only, and the test should be repeated.");
        }
        if (cylinders > 1 && judged.Measured == 1 && low.Count == 0)
        {
            says.Add($"So far only {Named([judged.Cylinders.First(c => c.State != CylinderState.Untested).Cylinder], lower: true)} has been measured, so there is nothing to compare it with.");
            return;
        }
        if (low.Count == 0 && watch.Count == 0 && high.Count == 0 && sound.Count > 0)
        {
            says.Add(Good(sound));
        }
        else
        {
            // Close to the others and yet under the limit: then the limit says it, and not the others.
            var lowestSound = judged.Cylinders.Where(c => c.State == CylinderState.Sound).Min(c => c.JudgedPa);
            var under = judged.Cylinders.Where(c => c.UnderMinimum && low.Contains(c.Cylinder) && !(c.JudgedPa < 0.9 * lowestSound)).Select(c => c.Cylinder).ToList();
            var dead = In(CylinderState.Dead);
            var less = low.Except(under).Except(dead).ToList();
            if (dead.Count > 0)
            {
                says.Add($"{Named(dead)} {(dead.Count == 1 ? "builds" : "build")} up next to nothing.");
            }
            if (under.Count > 0)
            {
                says.Add($"{Named(under)} {(under.Count == 1 ? "builds" : "build")} up less than the maker's minimum.");
            }
            if (less.Count > 0)
            {
                says.Add($"{Named(less)} {(less.Count == 1 ? "builds" : "build")} up clearly less than {(sound.Count > 0 ? "the others" : less.Count == 1 ? "it should" : "they should")}.");
            }
            if (judged.IsLowAllOver && watch.Count > 0)
            {
                says.Add(watch.Count == cylinders ? "All of them build up less than they should." : $"{Named(watch)} {(watch.Count == 1 ? "builds" : "build")} up less than {(watch.Count == 1 ? "it" : "they")} should.");
            }
            else if (watch.Count > 0)
            {
                says.Add($"{Named(watch)} {(watch.Count == 1 ? "is" : "are")} a little behind and should be watched.");
            }
            if (high.Count > 0)
            {
                says.Add($"{Named(high)} {(high.Count == 1 ? "reads" : "read")} higher than the others, as with deposits in the cylinder.");
            }
            if (sound.Count > 0)
            {
                says.Add(Good(sound));
            }
        }
        if (missing.Count > 0)
        {
            says.Add($"{Named(missing)} {(missing.Count == 1 ? "has" : "have")} no reading that counts yet.");
        }
    }

    private static void LeakDown(LeakDownJudgement judged, List<string> says)
    {
        var found = judged.Cylinders.Where(f => f.State is LeakState.Watch or LeakState.Bad).ToList();
        foreach (var f in found)
        {
            if (f.Disagrees)
            {
                says.Add($"The air test of cylinder {f.Cylinder} gave very different results each time, so it has to be repeated before it says anything.");
                continue;
            }
            var share = Math.Round(f.Percent!.Value / 5) * 5;
            var text = $"{(share >= 95 ? "Nearly all" : $"About {share.ToString("0", CultureInfo.CurrentCulture)} percent")} of the compressed air put into cylinder {f.Cylinder} leaked out";
            says.Add(f.Air.Places.Count > 0 ? $"{text}, heard most at {string.Join(" and ", f.Air.Places.Where(p => p.Strength == f.Air.Places[0].Strength).Select(p => Where(f, p)))}." : text + ".");
        }
        // Little is lost, and yet it goes where it should not.
        var next = judged.Cylinders.Where(f => f.State == LeakState.Good && f.Air.Places.Any(p => p.At == ListeningPlace.AdjacentPlugHole)).Select(f => f.Cylinder).ToList();
        if (next.Count > 0)
        {
            says.Add($"{Named(next)} lost little air, but it was heard at a neighbouring cylinder, which points to the head gasket.");
        }
        var good = judged.Cylinders.Where(f => f.State == LeakState.Good).Select(f => f.Cylinder).Except(next).ToList();
        if (good.Count > 0)
        {
            says.Add($"{Named(good)} {(good.Count == 1 ? "holds compressed air as it should" : "hold compressed air as they should")}.");
        }
        var doubted = judged.Cylinders.Where(f => f.State == LeakState.NotUsed).Select(f => f.Cylinder).ToList();
        if (doubted.Count > 0)
        {
            says.Add($"The air test of {Named(doubted, lower: true)} gave a reading that cannot be right, so it has to be repeated.");
        }
    }

    private static string Where(LeakDownFinding f, AirPlace place) => place.At switch
    {
        ListeningPlace.Intake => "the intake, which points to an intake valve",
        ListeningPlace.Exhaust => "the exhaust, which points to an exhaust valve",
        ListeningPlace.OilFiller => "the oil filler, which points to the piston rings or the cylinder wall",
        ListeningPlace.Coolant => "the cooling system, which points to the head gasket or a crack",
        _ when place.Cylinder is { } c && f.Air.ThroughManifold.Contains(c) => "the intake, by way of another cylinder",
        _ => $"cylinder {place.Cylinder}, which points to the head gasket between the two",
    };

    private static void Wet(WetJudgement judged, List<string> says)
    {
        var yes = judged.Cylinders.Where(f => f.Rings == RingsTakePart.Yes).Select(f => f.Cylinder).ToList();
        var no = judged.Cylinders.Where(f => f.Rings == RingsTakePart.Unlikely && f.Recovery is not null).Select(f => f.Cylinder).ToList();
        if (yes.Count > 0)
        {
            says.Add($"A little oil in {Named(yes, lower: true)} brought pressure back, so worn piston rings or cylinder walls play a part there.");
        }
        var rest = judged.Cylinders.Where(f => f.Wet is not null && !yes.Contains(f.Cylinder) && !no.Contains(f.Cylinder)).Select(f => f.Cylinder).ToList();
        if (rest.Count > 0)
        {
            says.Add($"A little oil in {Named(rest, lower: true)} made too little difference to say anything on its own.");
        }
        if (no.Count > 0)
        {
            says.Add($"A little oil in {Named(no, lower: true)} changed nothing, so the piston rings are not the likely cause there.");
        }
    }

    private static void Running(RunningJudgement judged, List<string> says)
    {
        List<int> With(Breathing b) => [.. judged.Cylinders.Where(f => f.Breathing == b).Select(f => f.Cylinder)];
        var read = judged.Cylinders.Where(f => f.Breathing != Breathing.Trapped && (f.Idle is not null || f.Snap is not null)).Select(f => f.Cylinder).ToList();
        var trapped = With(Breathing.Trapped);
        if (trapped.Count > 0)
        {
            says.Add($"With the engine running, the reading of {Named(trapped, lower: true)} cannot be right, so it has to be measured again.");
        }
        if (judged.Cylinders.Count == 1 && read.Count == 1)
        {
            says.Add("With the engine running its pressure was measured too.");
        }
        if (read.Count == 1 && judged.Cylinders.Count > 1)
        {
            says.Add($"With the engine running only {Named(read, lower: true)} has been measured, so there is nothing to compare it with yet.");
            return;
        }
        if (read.Count > 1 && With(Breathing.CannotExhale).Count + With(Breathing.CannotInhale).Count == 0)
        {
            says.Add($"With the engine running, {Named(read, lower: true)} breathe alike.");
        }
        if (With(Breathing.CannotExhale) is { Count: > 0 } exhale)
        {
            says.Add($"With the engine running, {Named(exhale, lower: true)} cannot let the burnt gas out properly.");
        }
        if (With(Breathing.CannotInhale) is { Count: > 0 } inhale)
        {
            says.Add($"With the engine running, {Named(inhale, lower: true)} cannot draw in enough air.");
        }
    }

    private static string Named(IReadOnlyList<int> cylinders, bool lower = false) =>
        $"{(lower ? 'c' : 'C')}ylinder{(cylinders.Count == 1 ? "" : "s")} {CylinderList.Sentence(cylinders)}";
}
