using System.Globalization;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Diagnosis;

/// <summary>One step on the way to a figure.</summary>
/// <param name="Says">What it is.</param>
/// <param name="Sum">The formula with this engine's values filled in.</param>
public sealed record ExplainedStep(string Says, string Sum);

/// <summary>How a figure comes about.</summary>
/// <param name="Title">The figure.</param>
/// <param name="Steps">From what was read, or reckoned with, to the figure.</param>
/// <param name="Source">Where the formula stands.</param>
public sealed record Explanation(string Title, IReadOnlyList<ExplainedStep> Steps, string Source)
{
    /// <summary>What to ask for the probability of a suspect of a cylinder.</summary>
    /// <returns>A word for an address; stable as long as the suspect is there.</returns>
    public static string Ask(CylinderSuspect suspect) => $"suspect:{RecordWords.Of(suspect.Fault)}{(suspect.With is { } w ? $":{w}" : "")}";

    /// <summary>What to ask for a line of a suspect's ledger.</summary>
    /// <returns>A word for an address; stable as long as the line is there.</returns>
    public static string Ask(CylinderSuspect suspect, EvidenceLine line) => $"line:{line.Finding}:{RecordWords.Of(suspect.Fault)}{(suspect.With is { } w ? $":{w}" : "")}";

    /// <summary>What to ask for the probability of a cause of the engine.</summary>
    /// <returns>A word for an address; stable as long as the cause is there.</returns>
    public static string Ask(EngineSuspect suspect) => $"engine:{RecordWords.Of(suspect.Fault)}{(suspect.Bank is { } b ? $":{b}" : "")}";

    /// <summary>What to ask for a method of spread.</summary>
    /// <returns>A word for an address.</returns>
    public static string Ask(SpreadFinding method) => $"spread:{RecordWords.Of(method.Method)}";

    /// <summary>What to ask for a test that is worth doing.</summary>
    /// <returns>A word for an address; stable as long as the test is offered.</returns>
    public static string Ask(NextTest test) => $"next:{RecordWords.Of(test.Kind)}";

    /// <summary>Explains a figure of a diagnosis.</summary>
    /// <param name="said">The diagnosis, with its ledger.</param>
    /// <param name="what">What is asked, as <c>Ask</c> writes it.</param>
    /// <param name="cylinder">The cylinder it is about.</param>
    /// <returns>Absent where the diagnosis has no such figure.</returns>
    public static Explanation? Of(EngineDiagnosis said, string? what, int cylinder)
    {
        var parts = (what ?? "").Split(':');
        if (cylinder < 1 || cylinder > said.Cylinders.Count)
        {
            return null;
        }
        var of = said.Cylinders[cylinder - 1];
        CylinderSuspect? Suspect(int at) => of.Suspects.FirstOrDefault(s => Ask(s) == "suspect:" + string.Join(':', parts[at..]));
        return parts[0] switch
        {
            "suspect" when Suspect(1) is { } s => OfSuspect(of, s),
            "line" when parts.Length > 2 && Suspect(2) is { } s && s.Evidence.FirstOrDefault(e => e.Finding == parts[1]) is { } line => OfLine(said.Evidence, of, s, line),
            "engine" when said.Suspects.FirstOrDefault(s => Ask(s) == what) is { } s => OfCause(said.Evidence, s),
            "spread" when said.Spread.FirstOrDefault(s => Ask(s) == what) is { } s => OfMethod(said.Evidence, s, said.SpreadUnit),
            "next" when said.Next.FirstOrDefault(t => Ask(t) == what) is { } t => OfNext(said, t),
            _ => null,
        };
    }

    private static string Text(double x, string format = "0.##") => x.ToString(format, CultureInfo.CurrentCulture).Replace('-', '−');

    private static string Percent(double p) => Text(100 * p, p is < 0.01 or > 0.99 ? "0.00" : "0.0") + " %";

    private static string Db(double db) => (db > 0 ? "+" : "") + Text(db) + " dB";

    private static double Odds(double db) => Math.Pow(10, db / 10);

    private static string Name(CylinderSuspect s, CylinderDiagnosis of) => $"{of.NameOf(s)}, cylinder {of.Cylinder}";

    private static Explanation OfSuspect(CylinderDiagnosis of, CylinderSuspect s)
    {
        var sum = s.Evidence.Sum(e => e.WeightDb);
        return new Explanation($"{Name(s, of)}: {Percent(s.Probability)}",
        [
            .. s.Evidence.Select(e => new ExplainedStep(e.Says, Db(e.WeightDb))),
            new("together", $"{string.Join(" ", s.Evidence.Select((e, i) => $"{(e.WeightDb < 0 ? "−" : i > 0 ? "+" : "")} {Text(Math.Abs(e.WeightDb))}".Trim()))} = {Db(sum)}"),
            new("odds, one to", $"10^({Text(sum)} / 10) = {Text(Odds(sum), "0.####")}"),
            new("probability", $"{Text(Odds(sum), "0.####")} / (1 + {Text(Odds(sum), "0.####")}) = {Percent(Odds(sum) / (1 + Odds(sum)))}"),
        ], "docs/diagnosis.md, section 4");
    }

    private static Explanation OfLine(JobEvidence job, CylinderDiagnosis of, CylinderSuspect s, EvidenceLine line)
    {
        var before = s.Evidence.TakeWhile(e => e != line).Sum(e => e.WeightDb);
        var after = before + line.WeightDb;
        var steps = new List<ExplainedStep>();
        if (line.Finding == "base-rate")
        {
            var odds = FaultOdds.Of(s.Fault, job.Diesel);
            steps.Add(new("odds against a sound cylinder, before anything is known", $"{Text(odds, "0.####")} to 1{(s.Fault is Fault.Rings or Fault.IntakeValve or Fault.ExhaustValve ? ", and a twentieth more together with another leak" : "")}"));
            steps.Add(new("odds against everything else", $"10^({Text(after)} / 10) = {Text(Odds(after), "0.####")}"));
        }
        else
        {
            steps.AddRange(Read(job, job.Cylinders[of.Cylinder - 1], s, line.Finding));
            steps.Add(new("odds before this line", $"10^({Text(before)} / 10) = {Text(Odds(before), "0.####")}, that is {Percent(Odds(before) / (1 + Odds(before)))}"));
            steps.Add(new("odds after it, summed over all severities, levels and neighbours", $"10^({Text(after)} / 10) = {Text(Odds(after), "0.####")}, that is {Percent(Odds(after) / (1 + Odds(after)))}"));
            steps.Add(new("weight", $"10 · log10({Text(Odds(after), "0.####")} / {Text(Odds(before), "0.####")}) = {Db(line.WeightDb)}"));
        }
        return new Explanation($"{line.Says}: {Db(line.WeightDb)} for {Name(s, of)}", steps, "docs/diagnosis.md, section 4; docs/likelihood-table.md");
    }

    // What was read against what the fault and a sound cylinder would have given: the severity that fits best, by itself.
    private static IEnumerable<ExplainedStep> Read(JobEvidence job, CylinderEvidence c, CylinderSuspect s, string finding)
    {
        var level = job.ReferenceLn ?? job.ExpectedLn;
        var curves = job.Curves;
        IEnumerable<ExplainedStep> Against(string reading, double ln, FindingCurve curve, string how)
        {
            yield return new(reading, how);
            foreach (var (fault, at) in new[] { (s.Fault, Best(job.Table, s.Fault, curve, ln)), (Fault.Sound, Best(job.Table, Fault.Sound, curve, ln)) }.Where(x => x.Item2 >= 0).DistinctBy(x => x.Item1))
            {
                yield return new($"{FaultWords.Of(fault)}, at the severity that fits best", $"predicts {Text(curve.Predicted(at), "0.000")} ± {Text(curve.Spread(at), "0.000")}: likelihood {Text(curve.At(at, ln), "0.###")}");
            }
        }
        switch (finding)
        {
            case "dry" when c.LnDry is { } ln:
                return Against($"ln of dry{(c.DryReadings > 1 ? $", the mean of {c.DryReadings} readings," : "")} over the level of a sound cylinder", ln - level, curves.Dry(c.DrySpread), $"ln({Text(Math.Exp(ln), "0.0")} / {Text(Math.Exp(level), "0.0")} psi) = {Text(ln - level, "0.000")}");
            case "relative" when c.Relative is { } r:
                return Against("ln of relative percent over that of the better half", r.Ln, curves.Relative(r.ErrorPercent), r.Ln <= SeverityNodes.LowestDry ? $"{Text(r.Percent, "0.0")} %: below {Text(100 * Math.Exp(r.Ln), "0.0")} % nothing more is told, ln {Text(r.Ln, "0.000")}" : $"ln({Text(r.Percent, "0.0")} / {Text(r.Percent / Math.Exp(r.Ln), "0.0")}) = {Text(r.Ln, "0.000")}");
            case "wet-excess-gain" when c.LnWet is { } wet:
                return Against("ln of wet over dry; of a sound cylinder " + Text(job.Nodes.SoundGain, "0.000"), wet, curves.Wet((0, 0), c.NearlyDead), $"ln({Text(Math.Exp(wet), "0.000")}) = {Text(wet, "0.000")}");
            case "running":
                return [
                    .. c.LnIdle is { } idle ? Against("ln of idle over what a sound cylinder gives", idle, curves.Idle(0, null), $"ln({Text(Math.Exp(idle), "0.000")}) = {Text(idle, "0.000")}") : [],
                    .. c.LnSnap is { } snap ? Against("ln of snap over what a sound cylinder gives", snap, curves.Snap(0, null), $"ln({Text(Math.Exp(snap), "0.000")}) = {Text(snap, "0.000")}") : [],
                ];
            case "leak-down-amount" when c.Leak is { LnRatio: { } ln } leak:
                var area = Math.Exp(ln) * leak.RestrictionMm2;
                return
                [
                    new("leak area against the restriction, by compressible flow", $"{Text(leak.LossPercent, "0.0")} % lost: {Text(Math.Exp(ln), "0.000")} times {Text(leak.RestrictionMm2, "0.000")} mm² = {Text(area, "0.00")} mm²; ln = {Text(ln, "0.00")} ± {Text(leak.Spread, "0.00")} where a fault leaks, ± {Text(leak.SpreadOfSound, "0.00")} where it is sound"),
                    new("a used sound cylinder of this size", $"ln = {Text(LikelihoodTable.SoundLnRatio(leak.Size, leak.RestrictionMm2), "0.00")}{(job.LeakOffset != 0 ? $", this engine and tester {Text(job.LeakOffset, "0.00")} off that" : "")}"),
                ];
            case "leak-down-heard" when c.Leak is { } heard:
                return
                [
                    new("air through the restriction", $"{Text(heard.FlowGramsPerS, "0.00")} g/s, shared out by leak area; 20 · log10(flow / 0.1 g/s): faint from 0, clear from 7, strong from 15 dB, an ear errs by 5 dB"),
                    new("the ear of this job", heard.EarSpreadDb < LikelihoodTable.EarUnknownDb ? $"{Text(heard.EarDb, "+0;−0;0")} dB, from the cylinders that hold; {Text(heard.EarSpreadDb, "0")} dB may be left" : $"not known, no cylinder that holds was listened to: {Text(heard.EarSpreadDb, "0")} dB either way"),
                ];
            default:
                return [];
        }
    }

    private static int Best(NodeTable nodes, Fault fault, FindingCurve curve, double reading)
    {
        (int From, int To) range = fault == Fault.GasketAdjacent ? (nodes.Pair(0, 1), nodes.Pair(0, BankChain.States)) : FaultOdds.Local.Contains(fault) ? nodes.OfFault[Posterior.IndexOf(fault)] : (0, 0);
        return range.To > range.From ? Enumerable.Range(range.From, range.To - range.From).MaxBy(k => curve.At(k, reading)) : -1;
    }

    private static Explanation OfCause(JobEvidence job, EngineSuspect s)
    {
        var steps = new List<ExplainedStep>
        {
            new("level expected of a sound cylinder", $"{Text(Math.Exp(job.ExpectedLn), "0")} psi ± {Percent(job.ExpectedSpread)}{(job.Everywhere.Shift != 0 ? $"; this way of testing {Percent(Math.Exp(job.Everywhere.Shift) - 1)} under every cause" : "")}"),
        };
        if (job.ReferenceLn is { } level)
        {
            steps.Add(new("level of the better readings", $"{Text(Math.Exp(level), "0")} psi, {Percent(Math.Exp(level - job.ExpectedLn))} of it"));
        }
        if (job.Slip is { } slip)
        {
            steps.Add(new("slips that were noted", $"shift the level by {Percent(Math.Exp(slip.Shift) - 1)} ± {Percent(slip.Spread)}"));
        }
        steps.Add(new("weight before anything is read, against 1 for none", s.Fault switch
        {
            Fault.GasketCoolant => $"that of a leak to the coolant in some cylinder, or {Text(FaultOdds.CoolantNotLocated)} where no cylinder shows it, times what was noticed of the coolant",
            Fault.CoolantPathElsewhere => $"{Text(FaultOdds.CoolantElsewhere)}, times what was noticed of the coolant",
            Fault.OilControl => Text(job.Seen.Contains(Observation.OilUse) ? FaultOdds.OilControlWhereUsed : FaultOdds.OilControlWhereBlue) + ", because oil is used",
            _ => Text(FaultOdds.OfCause(s.Fault, job.Diesel, job.Slip is not null), "0.####"),
        }));
        steps.Add(new("weight after it", "weight before · Σ over levels of p(level under this cause) · Π over banks of Σ over every fault, severity and web of p(all readings)"));
        steps.Add(new("probability", $"weight after it / Σ over all causes = {Percent(s.Probability)}"));
        return new Explanation($"{FaultWords.Of(s.Fault)}{(s.Bank is { } b ? $" of bank {b}" : "")}: {Percent(s.Probability)}", steps, "docs/diagnosis.md, sections 2 and 3");
    }

    private static Explanation OfMethod(JobEvidence job, SpreadFinding s, PressureUnit unit)
    {
        var read = job.Dry!.Cylinders.Where(c => c is { InQuestion: false, LevelPa: not null }).Select(c => c.LevelPa!.Value).Order().ToList();
        string Figure(double pa) => GaugePressure.Figure(pa, unit);
        var (low, high, mean) = (read[0], read[^1], read.Average());
        var sum = s.Method switch
        {
            SpreadMethod.PercentOfHighest => $"(highest − lowest) / highest = ({Figure(high)} − {Figure(low)}) / {Figure(high)} = {s.ValueText(unit)}",
            SpreadMethod.LowestToHighest => $"lowest / highest = {Figure(low)} / {Figure(high)} = {s.ValueText(unit)}",
            SpreadMethod.AroundTheMean => $"furthest from the mean / mean = |{Figure(high - mean > mean - low ? high : low)} − {Figure(mean)}| / {Figure(mean)} = {s.ValueText(unit)}",
            _ => $"highest − lowest = {Figure(high)} − {Figure(low)} = {s.ValueText(unit)}",
        };
        return new Explanation($"{SpreadFinding.NameOf(s.Method)}: {s.ValueText(unit)}", [new("figure", sum), new("good, marginal up to", s.LimitsText(unit)), new("says", SpreadFinding.Word(s.Verdict))], "docs/dry-test.md");
    }

    private static Explanation OfNext(EngineDiagnosis said, NextTest t)
    {
        double Entropy(int c) => -said.Cylinders[c - 1].Suspects.Where(x => x.Probability > 0).Sum(x => x.Probability * Math.Log2(x.Probability));
        var steps = t.Cylinders.Order().Select(c => new ExplainedStep($"open of cylinder {c}, H = −Σ p · log2 p", $"{Text(Entropy(c), "0.00")} bit")).ToList();
        steps.Add(new("expected to be told by it", $"Σ over the cylinders of H(fault) + H(outcome) − H(both) = {Text(t.GainBits, "0.00")} bit"));
        steps.Add(new("for each minute", $"{Text(t.GainBits, "0.00")} bit / {Text(t.Minutes, "0")} min = {Text(t.GainBits / t.Minutes, "0.000")} bit a minute"));
        steps.Add(new("rank", "most bits a minute first; a reading that does not fit is repeated before that, and rules of order and safety come before both"));
        return new Explanation($"about {Text(t.Minutes, "0")} min for {Text(t.GainBits, "0.00")} bit", steps, "docs/diagnosis.md, section 5");
    }
}
