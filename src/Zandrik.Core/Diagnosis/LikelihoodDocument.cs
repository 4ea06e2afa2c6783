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
        Line("Petrol, 9 ml of oil, sound gain 4 %. Areas in mm² for half a litre; dry, wet, relative, idle and snap as factors against a sound cylinder (wet: over dry). *physics*, but the piston's wet gain and the snap of an exhaust valve that does not open, which are rules. Pairs of leaks in one cylinder are left out here. The mildest and the severest leak, web, exhaust lobe, stroke, wash and deposit weigh a quarter of those in the middle third (*rule*); intake lobes, slips and sound cylinders have weights of their own.");
        Line();
        Line("| fault | weight | area | dry | wet | relative | idle | snap |");
        Line("| --- | --- | --- | --- | --- | --- | --- | --- |");
        var setting = new NodeSetting(false, 0.04, 0.48 + 0.52 * Math.Exp(-9.0 / 5));
        foreach (var k in SeverityNodes.Local(setting).Where(k => new[] { k.Rings, k.Intake, k.Exhaust }.Count(a => a > 0) < 2).Concat(SeverityNodes.WebAreas.Zip(SeverityNodes.WebWeights, (a, w) => SeverityNodes.Web(setting, a, 0) with { Weight = w })))
        {
            var area = k.Rings + k.Crown + k.Intake + k.Exhaust + k.Coolant + k.Front;
            Line($"| {RecordWords.Of(k.Fault)} | {Number(Math.Round(k.Weight, 3))} | {(area > 0 ? Number(Math.Round(area, 2)) : "")} | {Factor(k.Dry)} | {Factor(k.Wet)} | {Factor(k.Relative)} | {Factor(k.Idle)} | {Factor(k.Snap)} |");
        }
        Line();
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

    private static string Number(double x) => x.ToString("0.####", CultureInfo.InvariantCulture);

    private static string Factor(double ln) => Math.Exp(ln).ToString("0.00", CultureInfo.InvariantCulture);
}
