using System.Globalization;
using Zandrik.Core.Plugs;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// Evidence line by line. Stages are added in a fixed order; the weight of a stage is what it did to the odds of the fault against all its rivals as they then stood, so the lines sum exactly
/// from the base rate to the answer, severity and correlation included. Section 4.3 of docs/diagnosis.md.
/// </summary>
internal sealed class Ledger
{
    // Lines lighter than this are gathered into one.
    private const double Small = 0.3;
    private const double MostOdds = 1e4;

    private readonly JobEvidence job;
    private readonly List<(EvidenceStage Stage, Posterior After)> stages = [];
    private readonly Dictionary<(EvidenceStage, int), (string, string, int?)> words = [];

    public Ledger(NodeLikelihoods read, Posterior end)
    {
        job = read.Job;
        var after = Inference.Of(read, EvidenceStage.None);
        stages.Add((EvidenceStage.None, after));
        var last = Enum.GetValues<EvidenceStage>().Where(Any).DefaultIfEmpty(EvidenceStage.None).Max();
        foreach (var stage in Enum.GetValues<EvidenceStage>().Where(s => s != EvidenceStage.None && Any(s)))
        {
            stages.Add((stage, stage == last ? end : Inference.Of(read, stage)));
        }
    }

    /// <summary>The lines of one answer for one cylinder, base rate first.</summary>
    public IReadOnlyList<EvidenceLine> Lines(int index, int answer)
    {
        var lines = new List<EvidenceLine>();
        var before = Db(stages[0].After.Cylinders[index][answer]);
        lines.Add(new EvidenceLine("base-rate", "how common this fault is", Round(before)));
        double small = 0;
        var exact = before;
        for (var s = 1; s < stages.Count; s++)
        {
            var now = Db(stages[s].After.Cylinders[index][answer]);
            var weight = now - exact;
            exact = now;
            if (Math.Abs(weight) < Small)
            {
                small += weight;
                continue;
            }
            var (finding, says, test) = ReadOnce(stages[s].Stage, index);
            lines.Add(new EvidenceLine(finding, says, Round(weight), test));
        }
        if (Math.Abs(small) >= 0.005)
        {
            lines.Add(new EvidenceLine("small-findings", "small findings together", Round(small)));
        }
        return lines;
    }

    private static double Round(double db) => Math.Round(db, 2);

    private static double Db(double p) => 10 * Math.Log10(Math.Clamp(p / Math.Max(1 - p, 1e-300), 1 / MostOdds, MostOdds));

    private bool Any(EvidenceStage stage) => stage switch
    {
        EvidenceStage.Observations => job.Seen.Count > 0 || job.RuledOut > 0 || job.Gauges != (0, 0),
        EvidenceStage.Dry => job.Dry is not null && (job.Cylinders.Any(c => c.LnDry is not null) || job.Slip is not null || job.FuelOn),
        EvidenceStage.Relative => job.Cylinders.Any(c => c.Relative is not null),
        EvidenceStage.LeakDownAmount => job.Cylinders.Any(c => c.Leak?.LnRatio is not null),
        EvidenceStage.LeakDownHeard => job.Cylinders.Any(c => c.Leak?.Heard.Any(h => h is not null) == true),
        EvidenceStage.Wet => job.Cylinders.Any(c => c.LnWet is not null),
        EvidenceStage.Running => job.Cylinders.Any(c => c.LnIdle is not null || c.LnSnap is not null),
        EvidenceStage.PlugsAndClearance => job.Cylinders.Any(c => c.Plug.Count > 0 || c.Clearances.Count > 0),
        EvidenceStage.CombustionGas => job.Gas is not null,
        _ => false,
    };

    private (string Finding, string Says, int? Test) ReadOnce(EvidenceStage stage, int index)
    {
        if (!words.TryGetValue((stage, index), out var found))
        {
            words[(stage, index)] = found = Read(stage, index);
        }
        return found;
    }

    // What was read in this cylinder, or that the others' readings weigh here.
    private (string Finding, string Says, int? Test) Read(EvidenceStage stage, int index)
    {
        var c = job.Cylinders[index];
        string Ratio(double ln) => FaultWords.Percent(Math.Exp(ln));
        switch (stage)
        {
            case EvidenceStage.Observations:
                return ("observations", string.Join(", ", job.Seen.Order().Select(ObservationWords.Of).Concat(job.RuledOut > 0 ? ["spark or fuel ruled out"] : [])), null);
            case EvidenceStage.Dry:
                var reference = job.Dry?.ReferencePa;
                return c.LnDry is { } ln && reference is { } r and > 0
                    ? ("dry", $"dry, {Ratio(ln - Math.Log(r / PressureUnit.Psi.Pascals()))} of the reference{Slips()}", Place<DryCompressionTest>())
                    : ("dry", c.LnDry is not null ? $"dry reading{Slips()}" : $"dry of the others{Slips()}", Place<DryCompressionTest>());
            case EvidenceStage.Relative:
                return ("relative", c.Relative is { LowestHump: { } lowest } ? $"relative compression even, lowest hump {lowest.ToString("0", CultureInfo.InvariantCulture)} %" : c.Relative is { } rel ? $"relative compression {rel.Percent.ToString("0", CultureInfo.InvariantCulture)} %" : "relative compression of the others", Place<RelativeCompressionTest>());
            case EvidenceStage.LeakDownAmount:
                return ("leak-down-amount", c.Leak is { LnRatio: not null } leak ? string.Create(CultureInfo.InvariantCulture, $"leak-down, {leak.LossPercent:0} % lost") : "leak-down of the others", Place<LeakDownTest>());
            case EvidenceStage.LeakDownHeard:
                var air = job.LeakDown?.Cylinders[index].Air;
                return ("leak-down-heard", air is { Listened: true } ? air.Says : "heard at the others", Place<LeakDownTest>());
            case EvidenceStage.Wet:
                return ("wet-excess-gain", c.LnWet is { } wet ? OilRaised(Math.Exp(wet) - Math.Exp(job.Nodes.SoundGain)) : "wet of the others", Place<WetCompressionTest>());
            case EvidenceStage.Running:
                return ("running", c.LnIdle is not null || c.LnSnap is not null
                    ? string.Join(", ", new[] { c.LnIdle is { } i ? $"idle {Ratio(i)}" : null, c.LnSnap is { } s ? $"snap {Ratio(s)}" : null }.OfType<string>()) + " of what a sound cylinder gives"
                    : "running of the others", Place<RunningCompressionTest>());
            case EvidenceStage.PlugsAndClearance:
                return ("plug", c.Plug.Count > 0 ? "plug " + string.Join(", ", c.Plug.Select(p => PlugSignMeaning.Of(p).Name)) : c.Clearances.Count > 0 ? "valve clearance" : "plugs of the others",
                    c.Plug.Count > 0 ? Place<PlugInspection>() : Place<ValveClearanceCheck>());
            default:
                return ("combustion-gas", $"combustion gas in the coolant: {RecordWords.Of(job.Gas!.Value)}", Place<CombustionGasTest>());
        }
    }

    private static string OilRaised(double more) => FaultWords.Percent(Math.Abs(more)) is var by && by == FaultWords.Percent(0) ? "oil raised it as much as a sound cylinder" : $"oil raised it {by} {(more > 0 ? "more" : "less")} than a sound cylinder";

    private string Slips() => job.Slip is null ? "" : ", weighed with the test error on record";

    private int? Place<T>()
        where T : TestEntry
    {
        var tests = job.Record.Tests ?? [];
        for (var i = tests.Count - 1; i >= 0; i--)
        {
            if (tests[i] is T)
            {
                return i;
            }
        }
        return null;
    }
}
