using MathNet.Numerics.Statistics;
using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Running;
using Zandrik.Core.Units;

namespace Zandrik.Core.Diagnosis;

/// <summary>Everything that was found on a job, made comparable: sections 1 and 2 of docs/diagnosis.md.</summary>
public sealed partial class JobEvidence
{
    private static readonly double Psi = PressureUnit.Psi.Pascals();

    private readonly JudgedTests judged;

    private JobEvidence(JudgedTests tests) => judged = tests;

    /// <summary>The tests it stands on.</summary>
    public JudgedTests Tests => judged;

    /// <summary>The record.</summary>
    public TestRecord Record => judged.Record;

    /// <summary>The unit of the figures in its sentences; absent for each test's own.</summary>
    public PressureUnit? Shown => judged.Shown;

    /// <summary>The engine.</summary>
    public EngineSheet Engine => Record.Engine;

    /// <summary>The engine without what was already ruled out: what can still fool a sign.</summary>
    public EngineSheet Suspected => suspected ??= RuledOutList.Engine(Record);

    private EngineSheet? suspected;

    /// <summary>True for a diesel.</summary>
    public bool Diesel => Engine.Fuel == Fuel.Diesel;

    /// <summary>Cylinders 1 to N.</summary>
    public IReadOnlyList<CylinderEvidence> Cylinders { get; private set; } = [];

    /// <summary>Banks as indices into <see cref="Cylinders"/>, front first.</summary>
    public IReadOnlyList<int[]> Banks { get; private set; } = [];

    /// <summary>ln of the level that is expected of a sound cylinder, psi.</summary>
    public double ExpectedLn { get; private set; }

    /// <summary>Standard deviation of <see cref="ExpectedLn"/>, ln.</summary>
    public double ExpectedSpread { get; private set; }

    /// <summary>What every hypothesis expects less, ln, and its spread: a cold engine, plugs one at a time.</summary>
    public (double Shift, double Spread) Everywhere { get; private set; }

    /// <summary>Shift of a recorded slip, ln, and its spread; absent when none is recorded.</summary>
    public (double Shift, double Spread)? Slip { get; private set; }

    /// <summary>ln of the level that the dry readings themselves take for sound, psi; absent without any.</summary>
    public double? ReferenceLn => Dry?.ReferencePa is { } pa and > 0 ? Math.Log(pa / Psi) : null;

    /// <summary>
    /// True where the dry readings reach what is expected of a sound engine of this kind: within 7 % of it, or for a minimum alone a tenth above it. A slip that lowers all alike explains nothing then. False without a
    /// dry reading or a figure to hold it against.
    /// </summary>
    public bool LevelIsGood => ReferenceLn is { } level && (Engine.Spec?.Nominal ?? Engine.Spec?.Minimum ?? Engine.CompressionRatio) is not null
        && level >= (Engine.Spec is { Nominal: null, Minimum: { } minimum } ? Math.Log(1.1 * minimum * (Engine.Spec.Unit ?? PressureUnit.Psi).Pascals() / Psi) : ExpectedLn - 0.073);

    /// <summary>True where nothing but dry readings speaks for the level, and no maker's figure: an engine worn evenly reads as even.</summary>
    public bool LevelIsUnproven => Dry is { Measured: > 0 } && Engine.Spec?.Nominal is null && Engine.Spec?.Minimum is null && Cylinders.Any(c => c.Leak?.LnRatio is null);

    /// <summary>True where an engine that does not start, or starts badly, has compression that explains it: half of its cylinders and more under 100 psi (55 % of the expected where the ratio is under 8.5), a diesel's under 300.</summary>
    public bool IsTooLowToStart
    {
        get
        {
            if (!Seen.Contains(Observation.NoStart) && !Seen.Contains(Observation.HardStart))
            {
                return false;
            }
            var read = Cylinders.Where(c => c.LnDry is not null).ToList();
            var least = Math.Log(Diesel ? 300 : JudgingRules.For(Engine).TooLowPa / Psi);
            return read.Count > 1 && 2 * read.Count(c => c.LnDry < least) >= read.Count && read.Count * 2 >= Cylinders.Count;
        }
    }

    /// <summary>What compression that is too low does to the start, as it was noticed: the end of a sentence, after "too low to".</summary>
    public string HowItStarts => Seen.Contains(Observation.NoStart) ? "start" : "start well";

    /// <summary>What was noticed.</summary>
    public IReadOnlySet<Observation> Seen { get; private set; } = new HashSet<Observation>();

    /// <summary>True where coolant stands in the intake: on an engine whose manifold is heated by it, the way it came by.</summary>
    public bool CoolantInIntake { get; private set; }

    /// <summary>Causes outside the cylinders that were ruled out: spark, fuel.</summary>
    public int RuledOut { get; private set; }

    /// <summary>dB on wear and cam timing from oil pressure and vacuum.</summary>
    public (double Wear, double Cam) Gauges { get; private set; }

    /// <summary>True where valve clearances of this engine cannot be set: hydraulic lifters, or somebody looked and said so.</summary>
    public bool ValvesAreFixed => Engine.Lifters == Lifters.Hydraulic || (Record.Tests ?? []).OfType<ValveClearanceCheck>().Any(t => t.Adjustable == false);

    /// <summary>The answer of the test fluid; absent without.</summary>
    public CombustionGasResult? Gas { get; private set; }

    /// <summary>Settings of the nodes.</summary>
    public NodeSetting Nodes { get; private set; } = new(false, 0.04, 1);

    /// <summary>Offset of this tester and this engine's age in leak-down, ln; taken off but under wear and washed walls.</summary>
    public double LeakOffset { get; private set; }

    /// <summary>True when wet and dry were not read with one gauge.</summary>
    public bool OtherGauge { get; private set; }

    /// <summary>True where one cylinder alone was read running: it has nothing to be compared with but rules of thumb.</summary>
    public bool RunningAlone { get; private set; }

    /// <summary>Cylinders read running.</summary>
    public int RanCylinders { get; private set; }

    /// <summary>True when fuel was on: it washes walls.</summary>
    public bool FuelOn { get; private set; }

    /// <summary>What the way of testing did to the numbers, of all tests.</summary>
    public IReadOnlyList<ValidityNote> Validity { get; private set; } = [];

    /// <summary>The judged dry test; absent without one.</summary>
    public DryJudgement? Dry { get; private set; }

    /// <summary>The judged leak-down; absent without one.</summary>
    public LeakDownJudgement? LeakDown { get; private set; }

    /// <summary>The severities of this engine's faults.</summary>
    internal NodeTable Table => field ??= NodeTable.Of(Nodes);

    /// <summary>The curves of the table.</summary>
    internal JobCurves Curves => field ??= new JobCurves(this);

    /// <summary>Reads a record.</summary>
    /// <param name="record">The job, with what was read over oil marked.</param>
    /// <param name="shown">The unit of the figures in its sentences; absent for each test's own.</param>
    /// <returns>The evidence; empty for a record without readings and observations.</returns>
    public static JobEvidence Of(TestRecord record, PressureUnit? shown = null) => Of(JudgedTests.Of(record, shown));

    /// <summary>Reads tests that are judged already.</summary>
    /// <returns>The same as for the record the tests are of.</returns>
    public static JobEvidence Of(JudgedTests tests)
    {
        var record = tests.Record;
        var found = new JobEvidence(tests)
        {
            Cylinders = [.. Enumerable.Range(1, record.Engine.Cylinders).Select(c => new CylinderEvidence { Cylinder = c })],
            Banks = [.. CylinderLayout.Of(record.Engine).Banks.Select(b => b.Select(c => c - 1).ToArray())],
        };
        var notes = new List<ValidityNote>();
        found.ReadDry(notes);
        found.ReadRelative();
        found.ReadLeakDown(notes);
        found.ReadWet(notes);
        found.ReadRunning(notes);
        found.ReadSigns();
        found.Validity = [.. notes.GroupBy(n => (n.Code, n.Says)).Select(g => g.First())];
        return found;
    }

    /// <summary>True when anything was measured at all.</summary>
    public bool AnythingMeasured => Cylinders.Any(c => c.LnDry is not null || c.Relative is not null || c.Leak is not null || c.LnWet is not null || c.LnIdle is not null || c.LnSnap is not null);

    private void ReadRelative()
    {
        foreach (var (cylinder, relative) in judged.Relative is { } test ? RelativeEvidence.Of(test, Record, Dry) : [])
        {
            Cylinders[cylinder - 1].Relative = relative;
        }
    }

    private void ReadWet(List<ValidityNote> notes)
    {
        var usual = Diesel ? 0.05 : 0.04;
        var oil = OilAmount.For(Engine).Ml;
        if (CountingTests.Wet(Record) is { } test)
        {
            var wet = judged.Of(test);
            notes.AddRange(wet.Validity);
            OtherGauge = wet.Validity.Any(v => v.Code == ValidityCode.MixedTesters);
            usual = Math.Log(1 + wet.SoundGain);
            oil = (test.Readings ?? []).Where(r => r.SupersededBy is null).Select(r => r.OilMl).FirstOrDefault(ml => ml is not null) ?? test.OilMl ?? oil;
            foreach (var f in wet.Cylinders.Where(f => f is { Gain: > -0.99, IsImplausible: false }))
            {
                var c = Cylinders[f.Cylinder - 1];
                (c.LnWet, c.NearlyDead) = (Math.Log(1 + f.Gain!.Value), f.Dry is { } dry && dry.Pascals / Psi < 60);
            }
        }
        var left = 0.48 + 0.52 * Math.Exp(-oil / 5);
        Nodes = new NodeSetting(Diesel, usual, WetRules.IsWeak(Engine) ? (left + 1) / 2 : left) { Estimates = judged.Estimates };
    }

    private void ReadRunning(List<ValidityNote> notes)
    {
        if (judged.Running is not { } running)
        {
            return;
        }
        notes.AddRange(running.Validity);
        var read = running.Cylinders.Where(f => f.Breathing != Breathing.Trapped && (f.Idle is { Pascals: > 0 } || f.Snap is { Pascals: > 0 })).ToList();
        RunningAlone = read.Count == 1;
        RanCylinders = read.Count;
        double? Idle(RunningFinding f) => f.Idle is { Pascals: > 0 } p ? Math.Log(p.Pascals / Psi / 0.53) : null;
        double? Snap(RunningFinding f) => f.Snap is { Pascals: > 0 } p ? Math.Log(p.Pascals / Psi / 0.86) : null;
        if (Diesel || Engine.Throttle == ThrottleControl.None)
        {
            if (read.Count < 2)
            {
                return;
            }
            foreach (var f in read)
            {
                var others = read.Where(o => o != f).ToList();
                var c = Cylinders[f.Cylinder - 1];
                c.LnIdle = Idle(f) - MedianOf(others.Select(Idle));
                c.LnSnap = Snap(f) - MedianOf(others.Select(Snap));
            }
            return;
        }
        var level = Dry?.ReferencePa is { } reference and > 0 ? Math.Log(reference / Psi)
            : Engine.Spec is not null || Engine.CompressionRatio is not null ? ExpectedLn
            : MedianOf(read.SelectMany(f => new[] { Idle(f), Snap(f) })) ?? ExpectedLn;
        // The others of this engine before any rule: rules of thumb alone where fewer than three were read. What is off in all of them by more than that is a finding.
        double Off(Func<RunningFinding, double?> of, double most) => read.Select(f => of(f) - level).OfType<double>().ToList() is { Count: >= 3 } off ? Math.Clamp(0.6 * Median(off), -most, most) : 0;
        var (idles, snaps) = (Off(Idle, 0.08), Off(Snap, 0.04));
        foreach (var f in read)
        {
            var c = Cylinders[f.Cylinder - 1];
            (c.LnIdle, c.LnSnap) = (Idle(f) - level - idles, Snap(f) - level - snaps);
        }
    }

    private void ReadSigns()
    {
        var tests = Record.Tests ?? [];
        var seen = (Record.Observations ?? []).ToHashSet();
        foreach (var f in tests.OfType<FluidsCheck>().SelectMany(t => t.Findings ?? []))
        {
            if (RecordWords.TryParse<Observation>(RecordWords.Of(f), out var same))
            {
                seen.Add(same);
            }
        }
        if (tests.OfType<FluidsCheck>().Any(t => t.BlowBy is BlowBy.Much or BlowBy.Puffing || t.Findings?.Contains(FluidFinding.BlowByMuch) == true))
        {
            seen.Add(Observation.BlowBy);
        }
        if (tests.OfType<CrankSoundCheck>().LastOrDefault()?.Result == CrankSoundResult.Uneven)
        {
            seen.Add(Observation.UnevenCrank);
        }
        if (tests.OfType<OilUseCheck>().LastOrDefault() is { Litres: { } litres, Distance: { Unit: not DistanceUnit.H, Value: > 0 } way } && litres / (way.Value * (way.Unit == DistanceUnit.Mi ? 1.609344 : 1)) * 1000 > Checks.CheckFinding.MuchOilLitresPer1000Km)
        {
            seen.Add(Observation.OilUse);
        }
        CoolantInIntake = tests.OfType<FluidsCheck>().LastOrDefault(t => t.CoolantInIntake is not null || t.Findings?.Contains(FluidFinding.CoolantInIntake) == true) is { } intake && (intake.CoolantInIntake ?? true);
        Seen = seen;
        // What was looked at later wins over what was noticed before.
        var looked = tests.OfType<FluidsCheck>().SelectMany(t => t.Findings ?? []).ToList();
        if (looked.Contains(FluidFinding.NoCoolantInOil) && !looked.Contains(FluidFinding.MilkyOil))
        {
            seen.Remove(Observation.MilkyOil);
        }
        if (looked.Contains(FluidFinding.NoOilInCoolant) && !looked.Contains(FluidFinding.OilInCoolant))
        {
            seen.Remove(Observation.OilInCoolant);
        }
        if (RuledOutList.Has(Record, RuledOutItem.CapOrHose))
        {
            seen.Remove(Observation.CapOrHoseDamaged);
        }
        RuledOut = (RuledOutList.Has(Record, RuledOutItem.Spark) ? 1 : 0) + (RuledOutList.Has(Record, RuledOutItem.Fuel) || RuledOutList.Has(Record, RuledOutItem.Injector) ? 1 : 0);
        // A gauge on the engine decides; what the dash shows alone is half of it, and nothing against a gauge.
        var oil = tests.OfType<OilPressureTest>().LastOrDefault()?.Readings ?? [];
        var low = oil.Any(r => r is { Value: { } v, Minimum: { } min } && v < min) ? 3.0 : oil.Any(r => r is { Value: null, Dash: { } dash, Minimum: { } least } && dash < least) ? 1.5 : 0;
        var vacuum = tests.OfType<ManifoldVacuumTest>().LastOrDefault()?.Behaviour == VacuumBehaviour.Low;
        Gauges = (low + (vacuum ? 2 : 0), vacuum ? 2 : 0);
        Gas = tests.OfType<CombustionGasTest>().LastOrDefault(t => t.Result is not null)?.Result;
        foreach (var g in tests.OfType<PlugInspection>().SelectMany(t => t.Readings ?? []).Where(r => r.SupersededBy is null).GroupBy(r => r.Cylinder))
        {
            Cylinders[g.Key - 1].Plug = g.Last().Signs ?? [];
        }
        foreach (var g in tests.OfType<ValveClearanceCheck>().SelectMany(t => t.Readings ?? []).Where(r => r.SupersededBy is null).GroupBy(r => r.Cylinder))
        {
            Cylinders[g.Key - 1].Clearances = [.. g];
        }
    }

    private static double Median(IEnumerable<double> values) => values.ToList().Median();

    private static double? MedianOf(IEnumerable<double?> values) => values.OfType<double>().ToList() is { Count: > 0 } some ? some.Median() : null;
}
