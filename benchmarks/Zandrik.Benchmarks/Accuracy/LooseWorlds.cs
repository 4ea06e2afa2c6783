using System.Globalization;
using System.Text;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>The judge in worlds it does not reckon with: off in one thing each, with something wrong in the test, and with its own advice followed.</summary>
internal static class LooseWorlds
{
    // From here on a fault is moderate: a third of the way from mild to severe.
    private const double Moderate = 1.0 / 3;

    private static readonly Fault[] Leaks = [Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketAdjacent, Fault.GasketCoolant];

    /// <summary>Writes the sections.</summary>
    public static void Write(StringBuilder text, int engines, int seed)
    {
        Worlds(text, engines / 2, seed);
        Slips(text, Math.Max(20, engines / 10), seed);
        Advice(text, engines, seed);
    }

    private static readonly bool[] Noted = [true, false];

    private static T[] Each<T>(int count, Func<int, T> make)
    {
        var found = new T[count];
        Parallel.For(0, count, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, i => found[i] = make(i));
        return found;
    }

    private static string Share(double share) => double.IsNaN(share) ? "–" : share.ToString(".000", CultureInfo.InvariantCulture);

    private static EngineDiagnosis Said(TestRecord record) => EngineDiagnosis.Of(record, ledger: false);

    private static bool Accuses(CylinderDiagnosis c) => RepairKinds.Of(c.Leading.Fault) != RepairKind.Nothing;

    private static void Worlds(StringBuilder text, int count, int seed)
    {
        text.Append(CultureInfo.InvariantCulture, $"""

            ## Loose worlds

            {count} engines in each. *Leaks right*: the leading answer where rings, piston, a valve or the gasket leak moderately or worse (from a third of the way between mild and severe). *Accused*: sound cylinders.

            | world | leaks right (c) | leaks right (d) | repair right (d) | accused (c) | accused (d) |
            |---|---|---|---|---|---|

            """);
        foreach (var (name, world) in SampledWorld.Loose.Prepend(("its own", SampledWorld.Own)))
        {
            var counted = Each(count, i =>
            {
                var engine = SampledEngine.Draw(seed + i, world);
                return "cd".Select(stage =>
                {
                    var said = Said(engine.Record(stage)).Cylinders;
                    var leaking = said.Where(c => Leaks.Contains(engine.Truth(c.Cylinder)) && engine.SeverityOf(c.Cylinder) >= Moderate).ToList();
                    var sound = said.Where(c => engine.Truth(c.Cylinder) == Fault.Sound).ToList();
                    return (Leaking: leaking.Count, Right: leaking.Count(c => c.Leading.Fault == engine.Truth(c.Cylinder)), Repair: leaking.Count(c => RepairKinds.Of(c.Leading.Fault) == RepairKinds.Of(engine.Truth(c.Cylinder))), Sound: sound.Count, Accused: sound.Count(Accuses));
                }).ToArray();
            });
            double Of(int stage, Func<(int Leaking, int Right, int Repair, int Sound, int Accused), int> some, Func<(int Leaking, int Right, int Repair, int Sound, int Accused), int> all) => (double)counted.Sum(c => some(c[stage])) / counted.Sum(c => all(c[stage]));
            text.Append(CultureInfo.InvariantCulture, $"| {name} | {Share(Of(0, c => c.Right, c => c.Leaking))} | {Share(Of(1, c => c.Right, c => c.Leaking))} | {Share(Of(1, c => c.Repair, c => c.Leaking))} | {Share(Of(0, c => c.Accused, c => c.Sound))} | {Share(Of(1, c => c.Accused, c => c.Sound))} |\n");
            Console.Error.WriteLine($"loose: {name}");
        }
    }

    private static void Slips(StringBuilder text, int count, int seed)
    {
        text.Append(CultureInfo.InvariantCulture, $"""

            ## Something wrong in the test, on sound engines

            {count} engines each, read dry. Share of cylinders that are accused (the leading answer, more likely than not), and of engines called faulty.

            | what | noted: cylinders, engines | nobody noted it: cylinders, engines |
            |---|---|---|

            """);
        foreach (var slip in Enum.GetValues<TestSlip>())
        {
            var cells = Noted.Select(noted =>
            {
                var said = Each(count, i => Said(SampledEngine.Draw(seed + i, SampledWorld.NothingWrong).With(slip, noted)));
                return $"{Share((double)said.Sum(s => s.Cylinders.Count(c => Accuses(c) && c.Leading.Probability > 0.5)) / said.Sum(s => s.Cylinders.Count))}, {Share((double)said.Count(s => s.State == EngineState.Faulty) / count)}";
            });
            text.Append(CultureInfo.InvariantCulture, $"| {slip switch { TestSlip.ThrottleShut => "throttle shut", TestSlip.Cold => "engine cold", TestSlip.FewCompressions => "two compressions each", TestSlip.ValveInHead => "check valve in the gauge", TestSlip.NeedleOff => "needle off zero", _ => "battery that tires" }} | {string.Join(" | ", cells)} |\n");
        }
    }

    private static bool IsApart(Fault f) => f is Fault.IntakeNotOpening or Fault.ExhaustNotOpening or Fault.Carbon;

    private static void Advice(StringBuilder text, int count, int seed)
    {
        text.Append(CultureInfo.InvariantCulture, $"""

            ## The advice followed

            {count} engines each, from a complaint (four in five of those with something wrong have one): what is offered first is done, until nothing is offered. Beside it everything measured at every cylinder. *Right*: engines of which every cylinder leads to the repair it
            needs, and no other. *Faulty, right*: the same of those with something wrong. Worn lobes and deposits stand apart: only a running test shows the first, and only the level of one cylinder the others; on a diesel nothing
            here shows either.

            | world | rounds, mean and most | minutes, of all there are | right: advice / everything | faulty, right: advice / everything | lobes and deposits found | sound accused: advice / everything |
            |---|---|---|---|---|---|---|

            """);
        foreach (var (name, world) in new[] { ("its own", SampledWorld.Own), (SampledWorld.Loose[^1].Name, SampledWorld.Loose[^1].World) })
        {
            var paths = Each(count, i =>
            {
                var engine = SampledEngine.Draw(seed + i, world);
                var record = engine.Empty();
                var (rounds, minutes) = (0, 0.0);
                var said = Said(record);
                while (said.Next is [var first, ..] && rounds < 20)
                {
                    record = engine.Do(record, first);
                    (rounds, minutes, said) = (rounds + 1, minutes + first.Minutes, Said(record));
                }
                var all = Said(engine.Record('d') with { Observations = record.Observations });
                bool Right(EngineDiagnosis d) => d.Cylinders.All(c => IsApart(engine.Truth(c.Cylinder)) || RepairKinds.Of(c.Leading.Fault) == RepairKinds.Of(engine.Truth(c.Cylinder)));
                var truths = Enumerable.Range(1, engine.Cylinders).Select(engine.Truth).ToList();
                var sound = truths.Count(t => t == Fault.Sound);
                int Accused(EngineDiagnosis d) => d.Cylinders.Count(c => engine.Truth(c.Cylinder) == Fault.Sound && Accuses(c));
                (int Of, int Found, int All) apart = (truths.Count(IsApart), said.Cylinders.Count(c => IsApart(engine.Truth(c.Cylinder)) && RepairKinds.Of(c.Leading.Fault) == RepairKinds.Of(engine.Truth(c.Cylinder))),
                    all.Cylinders.Count(c => IsApart(engine.Truth(c.Cylinder)) && RepairKinds.Of(c.Leading.Fault) == RepairKinds.Of(engine.Truth(c.Cylinder))));
                return (Apart: apart, Rounds: rounds, Minutes: minutes / engine.MinutesOfAll, Right: Right(said), All: Right(all), Faulty: truths.Any(t => RepairKinds.Of(t) != RepairKind.Nothing && !IsApart(t)), Sound: sound, Accused: Accused(said), AllAccused: Accused(all));
            });
            var faulty = paths.Where(p => p.Faulty).ToList();
            double Of<T>(ICollection<T> some, Func<T, bool> is_) => (double)some.Count(is_) / some.Count;
            text.Append(CultureInfo.InvariantCulture, $"| {name} | {paths.Average(p => p.Rounds):0.0}, {paths.Max(p => p.Rounds)} | {Share(paths.Average(p => p.Minutes))} | {Share(Of(paths, p => p.Right))} / {Share(Of(paths, p => p.All))} | {Share(Of(faulty, p => p.Right))} / {Share(Of(faulty, p => p.All))} | {Share((double)paths.Sum(p => p.Apart.Found) / paths.Sum(p => p.Apart.Of))} / {Share((double)paths.Sum(p => p.Apart.All) / paths.Sum(p => p.Apart.Of))} | {Share((double)paths.Sum(p => p.Accused) / paths.Sum(p => p.Sound))} / {Share((double)paths.Sum(p => p.AllAccused) / paths.Sum(p => p.Sound))} |\n");
        }
    }
}
