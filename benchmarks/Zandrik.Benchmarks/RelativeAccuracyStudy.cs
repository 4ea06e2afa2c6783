using System.Globalization;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Benchmarks;

/// <summary>How near the analysis of starter current comes to the truth, over many varied captures.</summary>
public static class RelativeAccuracyStudy
{
    public static int Run(int count, int firstSeed, bool each, bool other)
    {
        var results = new (VariedCapture Case, RelativeAnswer Answer)[count];
        var done = 0;
        Parallel.For(0, count, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, i =>
        {
            var varied = VariedCapture.Draw(firstSeed + i, other);
            results[i] = (varied, RelativeAnalysis.Of(varied.Trace(), varied.Question));
            var now = Interlocked.Increment(ref done);
            if (now % 20 == 0 && !Console.IsOutputRedirected)
            {
                Console.Error.Write($"\r{now}/{count} [{new string('#', 40 * now / count)}{new string('.', 40 - 40 * now / count)}]");
            }
        });
        Console.Error.WriteLine();
        var judged = results.Where(r => r.Answer.Refused is null).ToList();
        Print("all", judged, count);
        foreach (var group in judged.GroupBy(r => r.Case.Engine.Cylinders).OrderBy(g => g.Key))
        {
            Print($"{group.Key} cyl", [.. group], results.Count(r => r.Case.Engine.Cylinders == group.Key));
        }
        foreach (var group in judged.GroupBy(r => r.Case.Ailment).OrderBy(g => g.Key))
        {
            Print(group.Key.ToString(), [.. group], results.Count(r => r.Case.Ailment == group.Key));
        }
        foreach (var what in other ? Kinds : [])
        {
            Print(what, [.. judged.Where(r => r.Case.Kind.Contains(what, StringComparison.Ordinal))], results.Count(r => r.Case.Kind.Contains(what, StringComparison.Ordinal)));
        }
        foreach (var group in judged.GroupBy(r => r.Answer.Confidence).OrderBy(g => g.Key))
        {
            Print($"confidence {group.Key}", [.. group], group.Count());
        }
        foreach (var group in judged.GroupBy(r => Array.FindIndex(Bands, b => r.Answer.Unexplained < b)).OrderBy(g => g.Key))
        {
            Print(string.Create(CultureInfo.InvariantCulture, $"unexpl. < {Bands[group.Key]:0.###}"), [.. group], group.Count());
        }
        Print("with sync", [.. judged.Where(r => r.Answer.Synchronised)], results.Count(r => r.Case.Question.Sync != SyncKind.None));
        foreach (var refusal in results.Where(r => r.Answer.Refused is not null).GroupBy(r => r.Answer.Refused!.Code))
        {
            Console.WriteLine($"refused {refusal.Key}: {refusal.Count()}");
        }
        foreach (var code in judged.SelectMany(r => r.Answer.Warnings.Select(w => w.Code)).GroupBy(c => c).OrderByDescending(c => c.Count()))
        {
            Console.WriteLine($"warned {code.Key}: {code.Count()}");
        }
        if (each)
        {
            for (var i = 0; i < count; i++)
            {
                var (c, a) = results[i];
                if (a.Refused is not null)
                {
                    Console.WriteLine($"{firstSeed + i} {c.Engine.Name} {c.Ailment} refused {a.Refused.Code} rpm {c.MeanRpm:0} rate {c.Recipe.SampleRateHz:0} lead {c.Recipe.LeadS:0.00}");
                    continue;
                }
                var errors = Errors(c, a);
                if (errors.Max(e => Math.Abs(e.Error)) > 6 || !WorstRight(c, a) || FalseAlarm(c, a))
                {
                    Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{firstSeed + i} {c.Engine.Name} {c.Ailment} {a.Confidence} sync {a.Synchronised} rpm {a.CrankingRpm:0}/{c.MeanRpm:0} cycles {a.Cycles} unexplained {a.Unexplained:0.000} zero {c.Recipe.LeadS:0.00} off {c.Recipe.OffsetA:0} rate {c.Recipe.SampleRateHz:0}: {string.Join(" ", errors.Select(e => $"{e.Truth:0}{(e.Error < 0 ? "" : "+")}{e.Error:0.0}±{e.Stated:0.0}"))} worst {(WorstRight(c, a) ? "ok" : "WRONG")} {(FalseAlarm(c, a) ? "ALARM" : "")}"));
                }
            }
        }
        return 0;
    }

    private static readonly string[] Kinds = ["scaled losses", "shaped freely", "opens under pressure", "series", "500 Hz", "rippled", "cycle torque"];

    private static readonly double[] Bands = [0.001, 0.002, 0.004, 0.008, 0.016, 0.03, 1];

    /// <summary>Truth, error and stated error of each cylinder; without sync the slots are turned to where they fit best, as nobody can know which is which.</summary>
    private static (double Truth, double Error, double Stated, bool Faulty)[] Errors(VariedCapture c, RelativeAnswer a)
    {
        var n = c.Engine.Cylinders;
        var order = c.Engine.FiringOrder;
        var truth = order.Select(k => c.Truth[k - 1]).ToArray();
        if (a.Synchronised)
        {
            return [.. a.Slots.Select(s => (c.Truth[s.Cylinder!.Value - 1], s.RelativePercent - c.Truth[s.Cylinder.Value - 1], s.StandardErrorPercent, c.Faulty.Contains(s.Cylinder.Value)))];
        }
        var turn = Enumerable.Range(0, n).MinBy(r => Enumerable.Range(0, n).Sum(i => Math.Abs(a.Slots[i].RelativePercent - truth[(i + r) % n])));
        return [.. Enumerable.Range(0, n).Select(i => (truth[(i + turn) % n], a.Slots[i].RelativePercent - truth[(i + turn) % n], a.Slots[i].StandardErrorPercent, c.Faulty.Contains(order[(i + turn) % n])))];
    }

    private static bool WorstRight(VariedCapture c, RelativeAnswer a)
    {
        var errors = Errors(c, a);
        var worst = errors.MinBy(e => e.Truth);
        var said = errors.MinBy(e => e.Truth + e.Error);
        // Only where there is a worst one: two that are alike may change places.
        return worst.Truth > 92 || said.Truth - worst.Truth < 2;
    }

    // Where a fault was made that costs pressure: whether the one named as lowest is a cylinder that has it.
    private static bool? FaultNamed(VariedCapture c, RelativeAnswer a) => Errors(c, a) is var errors && errors.MinBy(e => e.Truth) is { Faulty: true, Truth: <= 92 } ? errors.MinBy(e => e.Truth + e.Error).Faulty : null;

    private static bool FalseAlarm(VariedCapture c, RelativeAnswer a) => c.Ailment == Ailment.None && a.Slots.Any(s => s.Verdict is RelativeVerdict.Low or RelativeVerdict.Dead);

    private static void Print(string name, IReadOnlyList<(VariedCapture Case, RelativeAnswer Answer)> judged, int of)
    {
        if (judged.Count == 0)
        {
            return;
        }
        var all = judged.SelectMany(r => Errors(r.Case, r.Answer)).ToList();
        var weak = all.Where(e => e.Truth < 90).ToList();
        var even = judged.Where(r => r.Case.Ailment == Ailment.None).ToList();
        var faulty = judged.Where(r => r.Case.Truth.Min() <= 92).ToList();
        var named = judged.Select(r => FaultNamed(r.Case, r.Answer)).OfType<bool>().ToList();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"{name,-16} {judged.Count,4}/{of,-4} MAE {all.Average(e => Math.Abs(e.Error)),5:0.00} bias {all.Average(e => e.Error),5:0.00} weak MAE {(weak.Count > 0 ? weak.Average(e => Math.Abs(e.Error)) : 0),5:0.00} bias {(weak.Count > 0 ? weak.Average(e => e.Error) : 0),6:0.00} ({weak.Count}) worst {(faulty.Count > 0 ? 100.0 * faulty.Count(r => WorstRight(r.Case, r.Answer)) / faulty.Count : 100),5:0.0} % fault named {(named.Count > 0 ? 100.0 * named.Count(x => x) / named.Count : 100):0.0} % of {named.Count} false {(even.Count > 0 ? 100.0 * even.Count(r => FalseAlarm(r.Case, r.Answer)) / even.Count : 0),4:0.0} % in2se {100.0 * all.Count(e => Math.Abs(e.Error) <= 2 * e.Stated) / all.Count,5:0.0} % weak {(weak.Count > 0 ? 100.0 * weak.Count(e => Math.Abs(e.Error) <= 2 * e.Stated) / weak.Count : 100),5:0.0} % se {all.Average(e => e.Stated):0.0}"));
    }
}
