using Zandrik.Core.Records;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>
/// The baseline: rules of thumb one after the other, as they stand on many a workshop wall. More than a tenth below the highest is bad; oil that brings more than 5 % is rings; otherwise the place
/// where air is loudest; idle over two thirds of the own cranking or a snap under 70 % of it is a valve that does not open.
/// </summary>
internal static class ThresholdJudge
{
    public static IReadOnlyList<Fault> Of(TestRecord record)
    {
        var engine = record.Engine;
        var dry = record.Tests!.OfType<DryCompressionTest>().Last().Readings!.ToDictionary(r => r.Cylinder, r => r.Value!.Value);
        var wet = record.Tests!.OfType<WetCompressionTest>().LastOrDefault()?.Readings?.ToDictionary(r => r.Cylinder, r => r.Value!.Value) ?? [];
        var leak = record.Tests!.OfType<LeakDownTest>().LastOrDefault()?.Readings?.ToDictionary(r => r.Cylinder) ?? [];
        var running = record.Tests!.OfType<RunningCompressionTest>().LastOrDefault()?.Readings?.ToDictionary(r => r.Cylinder) ?? [];
        var highest = dry.Values.Max();
        bool Low(int c) => dry[c] < 0.9 * highest;
        return [.. Enumerable.Range(1, engine.Cylinders).Select(c =>
        {
            var beside = Core.LeakDown.Neighbours.Of(engine, c);
            if (leak.TryGetValue(c, out var l) && l.LeakPercent > 20)
            {
                var loudest = (l.Heard ?? []).Where(h => h.Strength is not null).OrderByDescending(h => h.Strength).FirstOrDefault();
                return loudest?.At switch
                {
                    ListeningPlace.Intake => Fault.IntakeValve,
                    ListeningPlace.Exhaust => Fault.ExhaustValve,
                    ListeningPlace.Coolant => Fault.GasketCoolant,
                    ListeningPlace.AdjacentPlugHole => Fault.GasketAdjacent,
                    _ => Fault.Rings,
                };
            }
            if (running.TryGetValue(c, out var r) && dry[c] > 0 && !Low(c))
            {
                if (r.Idle > 0.66 * dry[c])
                {
                    return Fault.ExhaustNotOpening;
                }
                if (r.Snap < 0.7 * dry[c])
                {
                    return Fault.IntakeNotOpening;
                }
            }
            if (!Low(c))
            {
                return Fault.Sound;
            }
            if (wet.TryGetValue(c, out var oiled) && dry[c] > 0)
            {
                return oiled / dry[c] > 1.09 ? Fault.Rings : Pair() ? Fault.GasketAdjacent : Fault.ExhaustValve;
            }
            return leak.ContainsKey(c) ? Fault.ShortStroke : Pair() ? Fault.GasketAdjacent : Fault.Rings;
            bool Pair() => new[] { beside.Before, beside.Behind }.OfType<int>().Any(b => Low(b) && Math.Abs(dry[b] - dry[c]) < 0.05 * highest);
        })];
    }
}
