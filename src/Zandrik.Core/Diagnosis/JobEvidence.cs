using MathNet.Numerics.Statistics;
using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Physics;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Running;
using Zandrik.Core.Units;

namespace Zandrik.Core.Diagnosis;

/// <summary>Everything that was found on a job, made comparable: sections 1 and 2 of docs/diagnosis.md.</summary>
public sealed class JobEvidence
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

    private void ReadDry(List<ValidityNote> notes)
    {
        var rules = JudgingRules.For(Engine, Record.JudgeBy);
        ExpectedLn = Math.Log(ExpectedLevel.Pa(rules) / Psi);
        ExpectedSpread = rules switch { { NominalPa: not null } => 0.05, { MinimumPa: not null } => 0.08, { CompressionRatio: not null } => 0.12, _ => Diesel ? 0.16 : 0.14 };
        if (judged.DryTest is not { } test)
        {
            return;
        }
        Dry = judged.Of(test);
        notes.AddRange(Dry.Validity);
        var readings = DryReading.Of(test, Engine).ToDictionary(r => r.Cylinder);
        ValidityNote? Note(ValidityCode code) => Dry.Validity.FirstOrDefault(v => v.Code == code && v.Severity != Severity.Note);
        var odd = Note(ValidityCode.DoesNotRepeat)?.Cylinders ?? [];
        // Where nobody counted, the time says how many there were.
        var timed = readings.Values.All(r => r.Pulses is null);
        int? Given(DryReading r) => !timed ? r.Pulses : r.Seconds is { } s and > 0 ? CountedCompressions.AtLeastIn(s) : null;
        var most = readings.Values.Max(Given);
        foreach (var c in Cylinders)
        {
            var finding = Dry.Cylinders[c.Cylinder - 1];
            if (finding is { State: CylinderState.Untested } or { InQuestion: true } || !readings.TryGetValue(c.Cylinder, out var reading))
            {
                continue;
            }
            c.LnDry = Math.Log(Math.Max(1, (finding.ComparedPa ?? finding.LevelPa)!.Value / Psi));
            c.DrySpread = reading.Repeats.Count > 0 && !odd.Contains(c.Cylinder) ? LikelihoodTable.DrySpreadRepeated : LikelihoodTable.DrySpread;
            if (Note(ValidityCode.BatteryWeak) is not null)
            {
                c.DrySpread = Math.Sqrt(c.DrySpread * c.DrySpread + 0.02 * 0.02);
            }
            if (Note(ValidityCode.MixedTesters) is not null)
            {
                c.DrySpread += 0.05;
            }
            if (Note(ValidityCode.FallsWithOrder) is not null && Dry.Fall is { } fall)
            {
                c.DrySpread += 0.2 * fall.Fraction;
            }
            // No compression at all is a count nobody took.
            if (most is { } all && Given(reading) is { } pulses and > 0 && pulses < all)
            {
                var missed = CountedCompressions.MissedLn(all, pulses);
                c.DrySpread += 0.6 * missed + 0.005;
                c.TestErrorFactor *= missed > 0.02 ? 4 : 1;
            }
            if (odd.Contains(c.Cylinder))
            {
                var values = reading.Repeats.Append(reading.Value).Select(r => r.Pascals).ToList();
                c.DrySpread += (values.Max() - values.Min()) / values.Max() / 2;
                c.TestErrorFactor *= 8;
            }
            else if (reading.Repeats.Count > 0)
            {
                // Readings that agree count with their mean, and each makes a slip ten times less likely; a hose that leaks every time stays possible.
                var mean = reading.Repeats.Append(reading.Value).Average(r => r.Pascals);
                c.LnDry += reading.Value.Pascals > 0 && mean > 0 ? Math.Log(mean / reading.Value.Pascals) : 0;
                c.DryReadings = 1 + reading.Repeats.Count;
                c.TestErrorFactor *= Math.Pow(0.1, Math.Min(2, reading.Repeats.Count));
            }
        }
        // A cylinder that pumps as well as the others, and jumps further at the first compression, does not empty as they do. Leaks do that too: they lower the reading.
        var firsts = readings.Values.Where(r => r.FirstPa is > 0 && r.PressurePa > 0).ToDictionary(r => r.Cylinder, r => r.FirstPa!.Value / r.PressurePa);
        if (firsts.Count >= 3)
        {
            var usual = Median(firsts.Values);
            foreach (var c in Cylinders)
            {
                c.JumpsAtFirst = firsts.TryGetValue(c.Cylinder, out var first) && first > 1.10 * usual && c.LnDry is { } ln && ReferenceLn is { } level && ln > level - 0.06;
            }
        }
        ReadSlips(timed ? null : most);
    }

    private void ReadSlips(int? mostPulses)
    {
        double shift = 0, variance = 0;
        var any = false;
        void Slipped(double mu, double s) => (shift, variance, any) = (shift + mu, variance + s * s, true);
        foreach (var code in Dry!.Validity.Where(v => v.Severity != Severity.Note).Select(v => v.Code).Distinct())
        {
            switch (code)
            {
                case ValidityCode.ThrottleClosed:
                    Slipped(-0.09, 0.04);
                    break;
                case ValidityCode.ThrottleUnverified:
                    Slipped(-0.06, 0.05);
                    break;
                case ValidityCode.CheckValveInHead:
                    Slipped(-0.18, 0.05);
                    break;
                case ValidityCode.BatteryWeak:
                    Slipped(-0.06, 0.05);
                    break;
                case ValidityCode.GaugeNotZero:
                    Slipped(0, 0.06);
                    break;
                case ValidityCode.PulsesFew:
                    Slipped(mostPulses <= 2 ? -0.12 : -0.05, 0.05);
                    break;
                case ValidityCode.FallsWithOrder:
                    Slipped(0, 0.05);
                    break;
            }
        }
        Slip = any ? (shift, Math.Sqrt(variance)) : null;
        FuelOn = Dry.Validity.Any(v => v.Code == ValidityCode.FuelOn);
        var cold = Dry.Validity.Any(v => v.Code == ValidityCode.EngineCold);
        var plugs = Dry.Validity.Any(v => v.Code == ValidityCode.PlugsOneAtATime);
        Everywhere = ((cold ? -0.075 : 0) + (plugs ? -0.03 : 0), Math.Sqrt((cold ? 0.035 * 0.035 : 0) + (plugs ? 0.03 * 0.03 : 0)));
    }

    private void ReadRelative()
    {
        foreach (var (cylinder, relative) in judged.Relative is { } test ? RelativeEvidence.Of(test, Record, Dry) : [])
        {
            Cylinders[cylinder - 1].Relative = relative;
        }
    }

    private void ReadLeakDown(List<ValidityNote> notes)
    {
        LeakDown = judged.LeakDown;
        if (LeakDown is null)
        {
            return;
        }
        notes.AddRange(LeakDown.Validity);
        var swept = CylinderVolume.SweptCc(Engine);
        var size = swept / 500 ?? (Diesel ? 1.25 : 1);
        var restriction = LeakFlow.RestrictionAreaMm2(LeakDown.RestrictionMm);
        var unnoted = LeakDown.Cylinders.Count(f => f is { Counts: true, Percent: not null }) >= 3 ? 0.4 * 0.15 : 0.15;
        foreach (var f in LeakDown.Cylinders)
        {
            var heard = Heard(f);
            if (!(f.Counts && f.Percent is not null) && heard.All(h => h is null))
            {
                continue;
            }
            var counts = f is { Counts: true, Percent: not null };
            // A zero that stands was confirmed: half a percent.
            var loss = counts ? Math.Clamp(f.Percent!.Value, 0.5, 99.6) : 20;
            var supply = f.Supply?.Pascals is { } s and > 0 ? s : LeakFlow.StandardSupplyPa;
            double Ln(double percent) => Math.Log(LeakFlow.AreaRatio(percent, supply));
            var needle = (Ln(Math.Min(99.6, loss + 2.5)) - Ln(Math.Max(0.4, loss - 2.5))) / 2;
            if (!counts && f.Doubt is not null)
            {
                continue;
            }
            // The needle, the size of cylinder and restriction that nobody noted, oil, and readings of one cylinder that lie apart. What nobody noted
            // is the same for every cylinder: read three and more, and the most of it is known from them.
            double With(double spread) => Math.Sqrt(spread * spread + (swept is null ? unnoted * unnoted : 0) + (LeakDown.RestrictionAssumed ? unnoted * unnoted : 0) + needle * needle + (f.AfterOil ? 0.2 * 0.2 : 0))
                + (f.Disagrees ? LikelihoodTable.LeakDisagreesSpread : 0);
            Cylinders[f.Cylinder - 1].Leak = new LeakEvidence
            {
                LnRatio = counts ? Ln(loss) : null, LnRatioRead = Ln(loss), LossPercent = loss, RestrictionMm2 = restriction, Size = size, Oiled = f.AfterOil, FlowGramsPerS = LeakEvidence.Flow(restriction, supply, loss), Heard = heard,
                LnRatioWithOil = counts && f.WithOilPercent is { } oiled ? Ln(Math.Clamp(oiled, 0.5, 99.6)) : null, Agreeing = counts && !f.Disagrees ? f.Taken.Count(t => t.Reading.NotUsed is null && t.AfterOil == f.AfterOil && t.Percent is >= 0 && Math.Abs(t.Percent.Value - f.Percent!.Value) <= LeakDownJudgement.MostApart) : 1,
                Spread = With(LikelihoodTable.LeakSpread), SpreadOfSound = With(LikelihoodTable.LeakSpreadOfSound), PumpsWell = PumpsWell(Cylinders[f.Cylinder - 1]),
            };
            if (f.Disagrees)
            {
                Cylinders[f.Cylinder - 1].TestErrorFactor *= 8;
            }
        }
        var off = Cylinders.Select(c => c.Leak).OfType<LeakEvidence>().Where(l => l.LnRatio is not null && !l.IsHeardElsewhere).Select(l => l.LnRatio!.Value - LikelihoodTable.SoundLnRatio(size, restriction)).Order().ToList();
        var ears = Cylinders.Select(c => c.Leak).OfType<LeakEvidence>().Where(l => l.LnRatio is not null && l.LossPercent < LikelihoodTable.HoldsPercent).Select(LikelihoodTable.EarOffDb).OfType<double>().Order().ToList();
        if (ears.Count > 0)
        {
            var ear = Math.Clamp(0.7 * Median(ears), -LikelihoodTable.EarMostDb, LikelihoodTable.EarMostDb);
            foreach (var c in Cylinders)
            {
                c.Leak = c.Leak is { } leak ? leak with { EarDb = ear, EarSpreadDb = LikelihoodTable.EarLearntDb } : null;
            }
        }
        LeakOffset = off.Count >= 3 ? Math.Clamp(0.6 * Median(off.Take((off.Count + 1) / 2)), -0.5, 0.35) : 0;
    }

    private double PumpsWell(CylinderEvidence c)
    {
        double Of(double ln) => Math.Clamp((0.11 - (1 - Math.Exp(ln))) / 0.06, 0, 1);
        var dry = c.LnDry is { } d && ReferenceLn is { } reference ? Of(d - reference) : (double?)null;
        var relative = c.Relative is { } r ? Of(r.Ln) : (double?)null;
        return dry is null && relative is null ? LikelihoodTable.PumpsUnknown : Math.Max(dry ?? 0, relative ?? 0);
    }

    // Places in the order of the table: what came round by the manifold is one strength less, another hole than a neighbour's counts as intake, one strength less.
    private int?[] Heard(LeakDownFinding f)
    {
        var heard = new int?[LeakEvidence.Places];
        if (!f.Air.Listened)
        {
            return heard;
        }
        var neighbours = Neighbours.Of(Engine, f.Cylinder);
        int Strength(ListeningPlace at, int? cylinder = null) => f.Air.At(at, cylinder) is { } s ? (int)s + 1 : 0;
        var round = f.Air.Places.Where(p => p.At == ListeningPlace.OtherPlugHole).Select(p => (int)p.Strength).DefaultIfEmpty(0).Max();
        int? Place(int strength) => strength > 0 || f.Air.ListenedEverywhere ? strength : null;
        heard[LeakEvidence.Intake] = Place(Math.Max(Strength(ListeningPlace.Intake), round));
        heard[LeakEvidence.Exhaust] = Place(Strength(ListeningPlace.Exhaust));
        heard[LeakEvidence.Crankcase] = Place(Strength(ListeningPlace.OilFiller));
        heard[LeakEvidence.Coolant] = Place(Strength(ListeningPlace.Coolant));
        int? Side(int? neighbour)
        {
            if (neighbour is not { } n)
            {
                return null;
            }
            var strength = Strength(ListeningPlace.AdjacentPlugHole, n);
            // A record without the neighbour's number means either.
            strength = Math.Max(strength, Strength(ListeningPlace.AdjacentPlugHole));
            return Place(f.Air.ThroughManifold.Contains(n) ? Math.Max(0, strength - 1) : strength);
        }
        heard[LeakEvidence.Front] = Side(neighbours.Before);
        heard[LeakEvidence.Behind] = Side(neighbours.Behind);
        return heard;
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
