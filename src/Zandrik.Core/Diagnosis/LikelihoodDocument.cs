using System.Globalization;
using System.Text;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>The likelihood table as a page: finding by finding, fault by fault, from the numbers the diagnosis uses. docs/likelihood-table.md is its output.</summary>
public static class LikelihoodDocument
{
    /// <summary>The page, as Markdown.</summary>
    /// <returns>Markdown with line ends of one character.</returns>
    public static string Make()
    {
        var page = new StringBuilder();
        void Line(string text = "") => page.Append(text).Append('\n');
        Line("# The likelihood table");
        Line();
        Line("Made from the code (`LikelihoodDocument`); a test keeps it so. What a fault of a severity predicts, how far a reading may be from it, and what observations weigh. *rule*: shop practice or judgement. *physics*: fitted to or checked against the crank-angle model. None of it was calibrated on real vehicles.");
        Line();
        Line("## Curves");
        Line("Each measured curve is (1 − f)·N(distance from the prediction; s) + f/range.");
        Line();
        Line("| finding | measured | s | floor f | range | why | origin |");
        Line("| --- | --- | --- | --- | --- | --- | --- |");
        foreach (var l in LikelihoodTable.Lines)
        {
            Line($"| {l.Finding} | {l.Measured} | {l.Spread} | {Number(l.Floor)} | {Number(l.Range)} | {l.Reason} | {RecordWords.Of(l.Origin)} |");
        }
        Line();
        Line("## Base odds");
        Line("Against a sound cylinder = 1, for engines that come to a compression test (*rule*). gasket-adjacent is for each web between two neighbours.");
        Line();
        Line("| fault | petrol, gas | diesel |");
        Line("| --- | --- | --- |");
        foreach (var f in FaultOdds.Local.Append(Fault.GasketAdjacent))
        {
            Line($"| {RecordWords.Of(f)} | {Number(FaultOdds.Of(f, false))} | {Number(FaultOdds.Of(f, true))} |");
        }
        Line();
        Line("| cause of the engine | petrol, gas | diesel | with a slip recorded |");
        Line("| --- | --- | --- | --- |");
        foreach (var c in FaultOdds.Causes)
        {
            Line($"| {RecordWords.Of(c)} | {Number(FaultOdds.OfCause(c, false, false))} | {Number(FaultOdds.OfCause(c, true, false))} | {Number(FaultOdds.OfCause(c, false, true))} |");
        }
        Line($"| oil-control, where oil is used (where only smoke was blue: {Number(FaultOdds.OilControlWhereBlue)}; else 0) | {Number(FaultOdds.OilControlWhereUsed)} | {Number(FaultOdds.OilControlWhereUsed)} | {Number(FaultOdds.OilControlWhereUsed)} |");
        Line();
        Line("## What each severity predicts");
        Line("Petrol, 9 ml of oil, sound gain 4 %, as the diagnosis uses it. Areas in mm² for half a litre; dry, wet, relative, idle and snap as factors against a sound cylinder (wet: over dry). *physics*: half by hand, half estimated from the model (see below); but the piston's wet gain, slips and sound cylinders, which are rules. Pairs of leaks in one cylinder are left out here. The mildest and the severest leak, web, exhaust lobe, stroke, wash and deposit weigh a quarter of those in the middle third (*rule*); intake lobes, slips and sound cylinders have weights of their own.");
        Line();
        Line("| fault | weight | area | dry | wet | relative | idle | snap |");
        Line("| --- | --- | --- | --- | --- | --- | --- | --- |");
        var setting = new NodeSetting(false, 0.04, 0.48 + 0.52 * Math.Exp(-9.0 / 5));
        foreach (var k in SeverityNodes.Local(setting).Where(k => !k.Paired).Concat(SeverityNodes.WebAreas.Zip(SeverityNodes.WebWeights, (a, w) => SeverityNodes.Web(setting, a, 0) with { Weight = w })))
        {
            var area = k.Rings + k.Crown + k.Intake + k.Exhaust + k.Coolant + k.Front;
            Line($"| {RecordWords.Of(k.Fault)} | {Number(Math.Round(k.Weight, 3))} | {(area > 0 ? Number(Math.Round(area, 2)) : "")} | {Factor(k.Dry)} | {Factor(k.Wet)} | {Factor(k.Relative)} | {Factor(k.Idle)} | {Factor(k.Snap)} |");
        }
        Line();
        Estimates(Line);
        Line("## Observations");
        Line("Decibans on the odds before any reading (*rule*). Several that speak for one thing: the strongest, and four tenths of the rest, from −6 to 14 (25 for coolant, 18 for coolant elsewhere). An oil cooler, a heated intake and a diesel's white smoke change some: `ObservationWeights`.");
        Line();
        Line("| seen | for | dB |");
        Line("| --- | --- | --- |");
        foreach (var w in ObservationWeights.All)
        {
            Line($"| {RecordWords.Of(w.Seen)} | {RecordWords.Of(w.Fault)}{(w.For == EvidenceTarget.Engine ? " (engine)" : "")} | {Number(w.Db)} |");
        }
        Line();
        Line("## Plugs, clearance, test fluid");
        Line("Decibans (*rule*).");
        Line();
        Line("| sign | fault | dB |");
        Line("| --- | --- | --- |");
        foreach (var sign in Enum.GetValues<PlugSign>())
        {
            foreach (var f in FaultOdds.Local.Where(f => LikelihoodTable.Plug(sign, f) != 0))
            {
                Line($"| plug {RecordWords.Of(sign)} | {RecordWords.Of(f)} | {Number(LikelihoodTable.Plug(sign, f))} |");
            }
        }
        Line("| clearance under the minimum | that valve | 6 |");
        Line("| clearance over the maximum | that valve not opening | 4 |");
        Line("| clearance inside | that valve | -1 |");
        foreach (var gas in Enum.GetValues<CombustionGasResult>())
        {
            var (c, e) = LikelihoodTable.Gas(gas, egrCooler: false);
            var (cooledC, cooledE) = LikelihoodTable.Gas(gas, egrCooler: true);
            Line($"| combustion gas {RecordWords.Of(gas)} | gasket-coolant; coolant elsewhere | {Number(c)}; {Number(e)} (with an exhaust-gas cooler {Number(cooledC)}; {Number(cooledE)}) |");
        }
        return page.ToString();
    }

    // What the model says, beside what stood by hand, and which of the two is the looser.
    private static void Estimates(Action<string> line)
    {
        var from = LikelihoodEstimates.CheckedIn;
        line("## Estimated from the engine model");
        line("");
        line(string.Create(CultureInfo.InvariantCulture, $"By `./calibrate`: {from.Engines} engines of seed {from.Seed}, simulated on {from.Date:yyyy-MM-dd} at {from.StepDeg}° of crank while cranking; every fault at every severity, petrol and diesel, engines drawn about the invented ones, cylinders as they are built (likelihoods.json)."));
        line("");
        line("Hand and estimate are each half believed: the mean lies between them, and the spread is the looser of the two and reaches to either mean. So where they differ, the looser one wins. *Fit*: the share of all differences that the severity explains. *Apart*: the largest difference of the means over the severities, ln. Spreads are those of the middle severity, ln, without the noise of a reading. A finding by hand that has no spread of its own (relative, idle, snap) has that of its curve above.");
        line("");
        line("Leak-down is listed to be compared (near all lost a tester no longer tells areas apart, hence the differences at the severest): what the model scatters is less than testers and ears do, so the curve above, the looser, stays as it is.");
        line("");
        line("| fault | fuel | finding | engines at the least | fit | spread by hand | estimated | apart | at | looser |");
        line("| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |");
        foreach (var c in from.Curves.Where(c => c.Fault != Fault.Sound && c.Spreads.Max() > 0))
        {
            var at = new NodeSetting(c.Diesel, 0.04, 0.48 + 0.52 * Math.Exp(-9.0 / 5)) { Estimates = LikelihoodEstimates.None };
            SeverityNode[] hand = c.Fault == Fault.GasketAdjacent ? [.. SeverityNodes.WebAreas.Select(a => SeverityNodes.Web(at, a, 0))] : [.. SeverityNodes.ByHand(at).Where(k => k.Fault == c.Fault && !k.Paired)];
            var (idle, snap) = LikelihoodTable.RunningSpread(4, c.Diesel);
            (double Mean, double Spread) By(SeverityNode k) => c.Finding switch
            {
                EstimatedFinding.Dry => (k.Dry, Math.Max(k.DrySpread, LikelihoodTable.DrySpread)),
                EstimatedFinding.Wet => ((k.Wet - at.SoundGain) / (1 - at.OilLeft), LikelihoodTable.WetSpread(k, k.Wet, 0, false, false, c.Diesel) / (1 - at.OilLeft)),
                EstimatedFinding.Relative => (k.Relative, 0.035),
                EstimatedFinding.Idle => (k.Idle, idle),
                EstimatedFinding.Snap => (k.Snap, snap),
                _ => (Math.Log(LikelihoodTable.AreasOf(k, 1).Sum() / LikelihoodTable.AreasOf(hand[0] with { Rings = 0, Crown = 0, Intake = 0, Exhaust = 0, Coolant = 0, Front = 0, Behind = 0 }, 1).Sum()), LikelihoodTable.LeakSpread),
            };
            var by = hand.Select(By).ToArray();
            var apart = by.Select((b, i) => c.Means[i] - b.Mean).ToArray();
            var (most, middle) = (Array.IndexOf(apart, apart.MaxBy(Math.Abs)), by.Length / 2);
            line($"| {RecordWords.Of(c.Fault)} | {(c.Diesel ? "diesel" : "petrol")} | {RecordWords.Of(c.Finding)} | {c.Engines.Min()} | {Number(c.Fit)} | {Number(Math.Round(by[middle].Spread, 3))} | {Number(Math.Round(c.Spreads[middle], 3))} | {Number(Math.Round(apart[most], 2))} | {most + 1} of {by.Length} | {(c.Finding == EstimatedFinding.LeakDown || by[middle].Spread >= c.Spreads[middle] ? "hand" : "estimate")} |");
        }
        line("");
        line("What stands out: with an exhaust valve that hardly opens the idle of **every** cylinder rises in the model, for the charge that does not leave goes back into the manifold, and the cylinder itself stands only a little over the others; by hand it stands far above them. Its snap falls below the others in both. Valves that do not seat at all lose more at idle in the model than by hand.");
        line("");
    }

    private static string Number(double x) => x.ToString("0.####", CultureInfo.InvariantCulture);

    private static string Factor(double ln) => Math.Exp(ln).ToString("0.00", CultureInfo.InvariantCulture);
}
