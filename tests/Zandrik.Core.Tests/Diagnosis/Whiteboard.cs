using System.Globalization;
using Zandrik.Core.Assessment;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>
/// Jobs as a technician writes them down, parts apart by semicolons: "petrol 4; nominal 190; dry 190 188 131 191; wet 3 160; leak 3 85 exhaust 3 crankcase 1; run 1 100 165; rel 100 99 71 100; fires 1 3 4 2; slots 100 71 99 100;
/// with throttle-closed; repeat 3 150; seen misfire; plug 3 oil-wet; gas positive; clearance 3 exhaust 0.1 0.2 0.3". Pressures in psi; heard 1 faint, 2 clear, 3 strong, a dash for what was not read.
/// "only throttle battery" keeps those conditions alone; "leak 3 40+oil crankcase 1" was read over oil.
/// </summary>
internal static class Whiteboard
{
    /// <summary>The verdict of a record as it stands, in a unit.</summary>
    public static VerdictSnapshot Verdict(this TestRecord record, PressureUnit unit) => VerdictSnapshot.Of(JobAssessment.Of(record, progress: new JobProgress { Shown = unit }));

    public static TestRecord Job(string text)
    {
        var engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol, Layout = CylinderArrangement.Inline, Throttle = ThrottleControl.Cable, DisplacementCc = 2000, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } };
        var conditions = Cases.Proper;
        var (dry, wet, leak, run, rel, plugs, clearances) = (new List<CompressionReading>(), new List<CompressionReading>(), new List<LeakDownReading>(), new List<RunningReading>(), new List<RelativeReading>(), new List<PlugReading>(), new List<ValveClearanceReading>());
        var (seen, ruledOut) = (new List<Observation>(), new List<RuledOut>());
        var checks = new List<TestEntry>();
        List<RelativeSlotReading>? slots = null;
        CombustionGasResult? gas = null;
        foreach (var part in text.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var words = part.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            double Figure(int i) => double.Parse(words[i], CultureInfo.InvariantCulture);
            int Whole(int i) => int.Parse(words[i], CultureInfo.InvariantCulture);
            T Word<T>(string word) where T : struct, Enum => RecordWords.TryParse<T>(word, out var value) ? value : throw new ArgumentException($"{word} is no {typeof(T).Name}");
            switch (words[0])
            {
                case "petrol" or "diesel":
                    var diesel = words[0] == "diesel";
                    engine = engine with { Fuel = diesel ? Fuel.Diesel : Fuel.Petrol, Cylinders = Whole(1), DisplacementCc = Whole(1) * 500, Throttle = diesel ? ThrottleControl.None : ThrottleControl.Cable, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = diesel ? 420 : 190 } };
                    if (words.Length > 2)
                    {
                        engine = engine with { Layout = Word<CylinderArrangement>(words[2]), Banks = [.. words[3].Split('/').Select(b => (IReadOnlyList<int>)[.. b.Split('-').Select(c => int.Parse(c, CultureInfo.InvariantCulture))])] };
                    }
                    break;
                case "nominal":
                    engine = engine with { Spec = (engine.Spec ?? new EngineSpec { Unit = PressureUnit.Psi }) with { Nominal = Figure(1) } };
                    break;
                case "minimum":
                    engine = engine with { Spec = (engine.Spec ?? new EngineSpec { Unit = PressureUnit.Psi }) with { Minimum = Figure(1) } };
                    break;
                case "ratio":
                    engine = engine with { Spec = null, CompressionRatio = Figure(1) };
                    break;
                case "fuel":
                    engine = engine with { Fuel = Word<Fuel>(words[1]) };
                    break;
                case "lifters":
                    engine = engine with { Lifters = Word<Lifters>(words[1]) };
                    break;
                case "only":
                    bool Keeps(string what) => words.Contains(what);
                    conditions = new TestConditions
                    {
                        EngineTemperature = Keeps("warm") ? EngineTemperature.Warm : null, Throttle = Keeps("throttle") ? ThrottlePlate.Open : null, Plugs = Keeps("plugs") ? PlugsRemoved.AllOut : null,
                        Fuel = Keeps("fuel") ? Supply.Off : null, Ignition = Keeps("ignition") ? Supply.Off : null, Battery = Keeps("battery") ? BatteryState.Charger : null, NeedleAtZero = Keeps("needle") ? true : null,
                    };
                    break;
                case "nofigures":
                    engine = engine with { Spec = null };
                    break;
                case "has":
                    engine = engine with { Features = [.. words[1..].Select(Word<EngineFeature>)] };
                    break;
                case "wetallowed":
                    engine = engine with { Spec = engine.Spec! with { WetAllowed = true } };
                    break;
                case "with":
                    foreach (var w in words[1..])
                    {
                        conditions = w switch
                        {
                            "throttle-closed" => conditions with { Throttle = ThrottlePlate.Closed },
                            "throttle-unverified" => conditions with { Throttle = ThrottlePlate.Unverified },
                            "cold" => conditions with { EngineTemperature = EngineTemperature.Cold },
                            "battery-weak" => conditions with { Battery = BatteryState.Weak },
                            "head-valve" => conditions with { CheckValve = CheckValvePlace.GaugeHead },
                            "fuel-on" => conditions with { Fuel = Supply.On },
                            "one-at-a-time" => conditions with { Plugs = PlugsRemoved.OneAtATime },
                            "not-at-zero" => conditions with { NeedleAtZero = false },
                            _ => throw new ArgumentException(w),
                        };
                    }
                    break;
                case "dry":
                    dry.AddRange(words[1..].Select((w, i) => (w, i)).Where(x => x.w != "-").Select(x => new CompressionReading { Cylinder = x.i + 1, Value = double.Parse(x.w, CultureInfo.InvariantCulture), Order = x.i + 1 }));
                    break;
                case "pulses":
                    dry = [.. dry.Select(r => r with { Pulses = Whole(Math.Min(r.Cylinder, words.Length - 1)) })];
                    break;
                case "seconds":
                    dry = [.. dry.Select(r => r with { Seconds = Whole(Math.Min(r.Cylinder, words.Length - 1)) })];
                    break;
                case "order":
                    dry = [.. dry.Select(r => r with { Order = Array.IndexOf(words, r.Cylinder.ToString(CultureInfo.InvariantCulture), 1) })];
                    break;
                case "first":
                    dry = [.. dry.Select(r => r with { FirstPulse = Figure(r.Cylinder) })];
                    break;
                case "repeat":
                    dry = [.. dry.Select(r => r.Cylinder == Whole(1) ? r with { Repeats = [.. words[2..].Select(w => (RepeatReading)double.Parse(w, CultureInfo.InvariantCulture))] } : r)];
                    break;
                case "wet":
                    wet.AddRange(Enumerable.Range(0, (words.Length - 1) / 2).Select(i => new CompressionReading { Cylinder = Whole(1 + 2 * i), Value = Figure(2 + 2 * i) }));
                    break;
                case "leak":
                    leak.Add(new LeakDownReading
                    {
                        Cylinder = Whole(1), LeakPercent = words[2] == "-" ? null : double.Parse(words[2].Replace("+oil", ""), CultureInfo.InvariantCulture), Oiled = words[2].EndsWith("+oil", StringComparison.Ordinal) ? true : null, Heard = words.Length <= 3 ? null : words[3] == "nowhere" ? [new HeardAir { At = ListeningPlace.Nowhere }]
                            : [.. Enumerable.Range(0, (words.Length - 3) / 2).Select(i => Heard(words[3 + 2 * i], Whole(4 + 2 * i)))],
                    });
                    break;
                case "run":
                    run.Add(new RunningReading { Cylinder = Whole(1), Idle = words[2] == "-" ? null : Figure(2), Snap = words.Length > 3 ? Figure(3) : null, Purged = true });
                    break;
                case "rel":
                    rel.AddRange(words[1..].Select((w, i) => new RelativeReading { Cylinder = i + 1, RelativePercent = double.Parse(w, CultureInfo.InvariantCulture), StandardErrorPercent = 2 }));
                    break;
                case "slots":
                    slots = [.. words[1..].Select((w, i) => new RelativeSlotReading { Slot = i + 1, RelativePercent = double.Parse(w, CultureInfo.InvariantCulture), StandardErrorPercent = 2 })];
                    break;
                case "fires":
                    engine = engine with { FiringOrder = [.. words[1..].Select(w => int.Parse(w, CultureInfo.InvariantCulture))] };
                    break;
                case "seen":
                    seen.AddRange(words[1..].Select(Word<Observation>));
                    break;
                case "ruledout":
                    ruledOut.Add(new RuledOut { Item = Word<RuledOutItem>(words[1]), How = "swapped" });
                    break;
                case "plug":
                    plugs.Add(new PlugReading { Cylinder = Whole(1), Signs = [Word<PlugSign>(words[2])] });
                    break;
                case "clearance":
                    clearances.Add(new ValveClearanceReading { Cylinder = Whole(1), Valve = Word<ValveSide>(words[2]), Value = Figure(3), Minimum = Figure(4), Maximum = Figure(5) });
                    break;
                case "fluids":
                    checks.Add(new FluidsCheck { Findings = [.. words[1..].Select(Word<FluidFinding>)] });
                    break;
                case "blowby":
                    checks.Add(new FluidsCheck { BlowBy = Word<BlowBy>(words[1]) });
                    break;
                case "cranksound":
                    checks.Add(new CrankSoundCheck { Result = Word<CrankSoundResult>(words[1]) });
                    break;
                case "vacuum":
                    checks.Add(new ManifoldVacuumTest { Behaviour = Word<VacuumBehaviour>(words[1]) });
                    break;
                case "oilpressure":
                    checks.Add(new OilPressureTest { Unit = PressureUnit.Psi, Readings = [new OilPressureReading { Rpm = 3000, OilTemperature = "hot", Value = Figure(1), Minimum = Figure(2), Dash = words.Length > 3 ? Figure(3) : null }] });
                    break;
                case "gas":
                    gas = Word<CombustionGasResult>(words[1]);
                    break;
                default:
                    throw new ArgumentException($"What is \"{part}\"?");
            }
        }
        var tests = new List<TestEntry>(checks);
        if (slots is not null)
        {
            tests.Add(new RelativeCompressionTest { Slots = slots });
        }
        if (rel.Count > 0)
        {
            tests.Add(new RelativeCompressionTest { Readings = rel });
        }
        if (dry.Count > 0 || conditions != Cases.Proper)
        {
            tests.Add(new DryCompressionTest { Unit = PressureUnit.Psi, Conditions = conditions, Readings = dry });
        }
        if (leak.Count > 0)
        {
            tests.Add(new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings = leak, Tester = new Tester { RestrictionMm = 1.0 } });
        }
        if (wet.Count > 0)
        {
            tests.Add(new WetCompressionTest { Unit = PressureUnit.Psi, Readings = wet });
        }
        if (run.Count > 0)
        {
            tests.Add(new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = run });
        }
        if (plugs.Count > 0)
        {
            tests.Add(new PlugInspection { Readings = plugs });
        }
        if (clearances.Count > 0)
        {
            tests.Add(new ValveClearanceCheck { Readings = clearances });
        }
        if (gas is not null)
        {
            tests.Add(new CombustionGasTest { Result = gas });
        }
        return new TestRecord { Engine = engine, Observations = seen, RuledOut = ruledOut, Tests = tests };
    }

    private static HeardAir Heard(string place, int strength)
    {
        var loud = (HeardStrength)(strength - 1);
        return place.StartsWith("plughole", StringComparison.Ordinal)
            ? new HeardAir { At = ListeningPlace.AdjacentPlugHole, Strength = loud, Cylinder = int.Parse(place["plughole".Length..], CultureInfo.InvariantCulture) }
            : new HeardAir { At = place switch { "intake" => ListeningPlace.Intake, "exhaust" => ListeningPlace.Exhaust, "crankcase" => ListeningPlace.OilFiller, "coolant" => ListeningPlace.Coolant, _ => throw new ArgumentException(place) }, Strength = loud };
    }
}
