using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>An engine that reads the same whenever it is read, and need not make sense: what is lost may fit what is pumped, or not. The same seed gives the same.</summary>
internal sealed class AnyEngine
{
    private readonly Random draw;
    private readonly double[] dry, loss, gain, idle, snap;
    private readonly HeardAir[][] heard;
    private readonly bool diesel;

    /// <summary>Draws one, with its complaint.</summary>
    public AnyEngine(int seed)
    {
        draw = new Random(seed);
        var n = new[] { 1, 2, 3, 4, 4, 4, 5, 6, 6, 8 }[draw.Next(10)];
        diesel = draw.Next(4) == 0;
        var level = diesel ? 420 : 190;
        var low = draw.NextDouble() < 0.2 ? 0.55 + 0.3 * draw.NextDouble() : 1;
        bool[] bad = [.. Enumerable.Range(0, n).Select(_ => draw.NextDouble() < 0.3)];
        dry = [.. bad.Select(b => Math.Round(level * low * (b ? 0.1 + 0.95 * draw.NextDouble() : 0.97 + 0.05 * draw.NextDouble())))];
        loss = [.. bad.Select(b => Math.Round(b ? 5 + 93 * draw.NextDouble() : 5 + 15 * draw.NextDouble()))];
        gain = [.. bad.Select(b => b ? 0.6 * draw.NextDouble() : 0.04 + (1 - low) * draw.NextDouble())];
        idle = [.. bad.Select(b => Math.Round(level * (b ? 0.3 + 0.5 * draw.NextDouble() : 0.53)))];
        snap = [.. bad.Select(b => Math.Round(level * (b ? 0.4 + 0.5 * draw.NextDouble() : 0.86)))];
        ListeningPlace[] places = [ListeningPlace.Intake, ListeningPlace.Exhaust, ListeningPlace.OilFiller, ListeningPlace.Coolant, ListeningPlace.Nowhere];
        heard = [.. bad.Select(b => b ? [places[draw.Next(places.Length)] is var at && at == ListeningPlace.Nowhere ? new HeardAir { At = at } : new HeardAir { At = at, Strength = (HeardStrength)draw.Next(3) }] : new[] { new HeardAir { At = ListeningPlace.Nowhere } })];
        Observation[] complaints = [Observation.Misfire, Observation.NoStart, Observation.CoolantLoss, Observation.OilUse, Observation.LowPower, Observation.TimingJumped, Observation.MilkyOil];
        Record = Whiteboard.Job($"{(diesel ? "diesel" : "petrol")} {n}{(draw.Next(8) == 0 ? "; with throttle-closed" : draw.Next(8) == 0 ? "; with cold" : "")}") with { Observations = draw.Next(2) == 0 ? [] : [complaints[draw.Next(complaints.Length)]] };
        Record = Record with { Engine = Record.Engine with { Spec = Record.Engine.Spec! with { WetAllowed = true } }, Tests = [] };
    }

    /// <summary>What is on record.</summary>
    public TestRecord Record { get; private set; }

    /// <summary>Everything on record as the advice is followed, first line first: before anything, and after each test; as long as the end is not reached or a number of tests is done.</summary>
    public static IEnumerable<TestRecord> Followed(int seed, int most)
    {
        var engine = new AnyEngine(seed);
        yield return engine.Record;
        for (var i = 0; i < most && EngineDiagnosis.Of(engine.Record, ledger: false).Next is [var first, ..]; i++)
        {
            engine.Do(first);
            yield return engine.Record;
        }
    }

    /// <summary>Does a test and puts it on record.</summary>
    public void Do(NextTest test)
    {
        var cylinders = test.Cylinders.Select(c => c - 1).ToList();
        TestEntry done = test.Kind switch
        {
            StepKind.Dry => Dry(cylinders),
            StepKind.Wet => new WetCompressionTest { Unit = PressureUnit.Psi, Readings = [.. cylinders.Select(i => new CompressionReading { Cylinder = i + 1, Value = Math.Round(dry[i] * (1 + gain[i])) })] },
            StepKind.LeakDown => new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings = [.. cylinders.Select(i => new LeakDownReading { Cylinder = i + 1, LeakPercent = loss[i], Heard = heard[i] })] },
            StepKind.Running => new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [.. cylinders.Select(i => new RunningReading { Cylinder = i + 1, Idle = idle[i], Snap = snap[i], Purged = true })] },
            StepKind.Relative => new RelativeCompressionTest { Readings = [.. dry.Select((d, i) => new RelativeReading { Cylinder = i + 1, RelativePercent = Math.Round(100 * d / dry.Max()), StandardErrorPercent = 2 })] },
            StepKind.CombustionGas => new CombustionGasTest { Result = (CombustionGasResult)draw.Next(3) },
            StepKind.Plugs => new PlugInspection { Readings = [.. cylinders.Select(i => new PlugReading { Cylinder = i + 1, Signs = [PlugSign.Normal] })] },
            StepKind.ValveClearance => new ValveClearanceCheck { Readings = [.. cylinders.Select(i => new ValveClearanceReading { Cylinder = i + 1, Valve = ValveSide.Exhaust, Value = 0.25, Minimum = 0.2, Maximum = 0.3 })] },
            _ => throw new InvalidOperationException($"Nobody here knows how to do {test.Kind}."),
        };
        // One test of a kind is gone on with, as on a bench.
        var same = Record.Tests!.LastOrDefault(t => t.Kind == done.Kind);
        Record = Record with
        {
            Tests = (same, done) switch
            {
                (LeakDownTest a, LeakDownTest b) => [.. Record.Tests!.Where(t => t != same), a with { Readings = [.. a.Readings!, .. b.Readings!] }],
                (WetCompressionTest a, WetCompressionTest b) => [.. Record.Tests!.Where(t => t != same), a with { Readings = [.. a.Readings!.Where(r => !cylinders.Contains(r.Cylinder - 1)), .. b.Readings!] }],
                (RunningCompressionTest a, RunningCompressionTest b) => [.. Record.Tests!.Where(t => t != same), a with { Readings = [.. a.Readings!.Where(r => !cylinders.Contains(r.Cylinder - 1)), .. b.Readings!] }],
                (DryCompressionTest, DryCompressionTest) => [.. Record.Tests!.Where(t => t != same), done],
                _ => [.. Record.Tests!, done],
            },
        };
    }

    private DryCompressionTest Dry(List<int> cylinders)
    {
        var last = Record.Tests!.OfType<DryCompressionTest>().LastOrDefault();
        // All of them again is the way of testing put right.
        if (last is null || (last.Conditions != Cases.Proper && cylinders.Count == dry.Length))
        {
            var slips = last is null && draw.Next(8) == 0;
            return new DryCompressionTest { Unit = PressureUnit.Psi, Conditions = slips ? Cases.Proper with { Throttle = ThrottlePlate.Closed } : Cases.Proper, Readings = [.. cylinders.Select(Read)] };
        }
        var read = last.Readings!.ToDictionary(r => r.Cylinder);
        foreach (var i in cylinders)
        {
            read[i + 1] = read.TryGetValue(i + 1, out var before) ? before with { Repeats = [.. before.Repeats ?? [], (RepeatReading)Read(i).Value!.Value] } : Read(i);
        }
        return last with { Readings = [.. read.Values] };
    }

    private CompressionReading Read(int i) => new() { Cylinder = i + 1, Value = Math.Round(dry[i] * (1 + 0.02 * (draw.NextDouble() - 0.5))) };
}
