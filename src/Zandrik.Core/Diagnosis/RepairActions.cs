using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>What to do, least invasive first.</summary>
public enum RepairAction
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>Read the missing cylinders.</summary>
    CompleteTest,

    /// <summary>Repeat the test with the slip put right.</summary>
    RepeatTest,

    /// <summary>Measure more before anything is opened.</summary>
    MeasureMore,

    /// <summary>Retest later.</summary>
    Watch,

    /// <summary>Run it, clear it, test again.</summary>
    RunClearRetest,

    /// <summary>Cams and marks.</summary>
    CheckTiming,

    /// <summary>Back pressure.</summary>
    CheckExhaust,

    /// <summary>Coolers, hoses, cap.</summary>
    CheckCooling,

    /// <summary>Valve clearances.</summary>
    AdjustValves,

    /// <summary>Rings stuck from standing.</summary>
    FreeRings,

    /// <summary>Deposits.</summary>
    Decarbonise,

    /// <summary>Lift, followers, springs, cover off.</summary>
    InspectTopEnd,

    /// <summary>Head off.</summary>
    HeadOff,

    /// <summary>Overhaul.</summary>
    Overhaul,

    /// <summary>Another engine.</summary>
    ExchangeEngine,
}

/// <summary>An action with what confirms or overturns it.</summary>
/// <param name="Action">The action.</param>
/// <param name="Says">Why, and on which cylinders.</param>
/// <param name="Checks">What to look at and measure then; limits are the maker's.</param>
public sealed record ActionAdvice(RepairAction Action, string Says, IReadOnlyList<string> Checks);

/// <summary>What follows from a diagnosis: section 7 of docs/diagnosis.md. Rules of the trade; the maker's procedure comes first.</summary>
internal static class RepairActions
{
    // A suspect leads to an action only when it is more likely than not.
    private const double Leads = 0.5;

    // As likely as this fuel-washed cylinders are not passed over beside worn rings.
    private const double Washed = 0.15;

    // A bent rod is opened for when nothing else says as much.
    private const double SureOfStroke = 0.8;

    // Ways of coolant past the gasket that are still open: those the sheet names, or any cooler where it names none.
    private static IEnumerable<string> Coolers(JobEvidence job)
    {
        bool Open(EngineFeature feature, RuledOutItem item) => !RuledOutList.Has(job.Record, item) && (job.Engine.Features is not { Count: > 0 } named || named.Contains(feature));
        if (Open(EngineFeature.OilCooler, RuledOutItem.OilCooler))
        {
            yield return "oil cooler";
        }
        if (Open(EngineFeature.EgrCooler, RuledOutItem.EgrCooler))
        {
            yield return "exhaust-gas cooler";
        }
        if (Open(EngineFeature.CoolantHeatedIntake, RuledOutItem.HeatedIntake))
        {
            yield return "heated intake";
        }
    }

    // Every cylinder seals: where else the complaint may come from, without what was ruled out.
    private static string Elsewhere(JobEvidence job)
    {
        var good = job.LevelIsUnproven ? job.Cylinders.Count == 1 ? "No maker's figure to judge it by: keep this reading to compare with." : "No cylinder stands out: keep these readings to compare with." : "Compression is good.";
        if (string.IsNullOrWhiteSpace(job.Record.Complaint) && job.Seen.Count == 0)
        {
            return good;
        }
        List<string> places = [];
        if (!job.Diesel && !RuledOutList.Has(job.Record, RuledOutItem.Spark))
        {
            places.Add("ignition");
        }
        if (!RuledOutList.Has(job.Record, RuledOutItem.Fuel))
        {
            places.Add("fuel");
        }
        places.Add("air");
        return $"{good} For the complaint look at {(places.Count > 1 ? $"{string.Join(", ", places[..^1])} and {places[^1]}" : places[0])}.";
    }

    public static IReadOnlyList<ActionAdvice> Of(JobEvidence job, EngineDiagnosis said)
    {
        var found = new List<(RepairAction Action, string Says, string[] Checks, int? Cylinder)>();
        void Add(RepairAction action, string says, string[] checks, int? cylinder = null) => found.Add((action, says, checks, cylinder));
        foreach (var cause in said.Suspects.Where(s => s.Probability > Leads).Take(1))
        {
            switch (cause.Fault)
            {
                case Fault.TestError when !job.LevelIsGood:
                    Add(RepairAction.RepeatTest, cause.Probability > FaultWords.Said ? "The way of testing explains these readings." : "The way of testing may explain these readings.", ["throttle plate open, seen", "battery on a charger", "adapter, hose and check valve", "as many compressions for every cylinder"]);
                    break;
                case Fault.GasketCoolant:
                    Add(RepairAction.HeadOff, "Gas or coolant goes through a gasket or crack.", ["first: pressure the cooling system and look into each cylinder with a camera", .. Coolers(job).Select(c => $"rule the {c} out"), "faces with straightedge and feeler", "crack test", "liner height"]);
                    break;
                case Fault.CoolantPathElsewhere:
                    Add(RepairAction.CheckCooling, "Coolant goes another way than through a cylinder.", [.. Coolers(job).Select(c => $"{c} blanked and tried"), .. RuledOutList.Has(job.Record, RuledOutItem.CapOrHose) ? Array.Empty<string>() : ["cap and hoses under pressure"], "the system under pressure cold: look where it drips"]);
                    break;
                case Fault.CamTiming:
                    Add(RepairAction.CheckTiming, cause.Bank is { } bank ? FormattableString.Invariant($"Timing of bank {bank}.") : "All cylinders even and off their level.", ["marks and keys", "chain or belt", "bent valves before it is turned far"]);
                    break;
                case Fault.ExhaustRestriction:
                    Add(RepairAction.CheckExhaust, "Every cylinder fails to empty.", ["back pressure before the catalyst", "exhaust loosened, test repeated"]);
                    break;
                case Fault.GeneralWear when said.Suspects.Where(s => s.Fault == Fault.FuelWashed).Sum(s => s.Probability) > Washed && job.Seen.Overlaps([Observation.Flooded, Observation.NoStart, Observation.HardStart]):
                    Add(RepairAction.RunClearRetest, "General wear, or fuel-washed cylinders: run it and test again to tell them apart.", ["oil smells of fuel", "injectors", "test again warm after a run"]);
                    break;
                case Fault.GeneralWear when job.Cylinders.All(c => c.LnWet is null && c.Leak?.LnRatio is null):
                    Add(RepairAction.MeasureMore, "All cylinders are evenly low: wear is likely but not proved.", ["wet test or leak-down on two cylinders", "the throttle plate seen open, another gauge, a charged battery", "crankcase pressure"]);
                    break;
                case Fault.GeneralWear:
                    Add(RepairAction.Overhaul, "All cylinders alike and low: wear. Overhaul, exchange or watch is a decision about money.", ["crankcase pressure", "oil use over a known distance", "oil pressure hot"]);
                    break;
                case Fault.OilControl:
                    Add(RepairAction.Watch, said.Cylinders.Any(c => c.Leading is { Fault: not (Fault.Sound or Fault.TestError), Probability: > FaultWords.Said }) ? "Oil goes past its seals as well: a matter apart from the cylinders." : "Oil goes past its seals while the cylinders hold: no cylinder is blamed.", ["crankcase ventilation and breather", "valve stem seals", "oil use again over a known distance"]);
                    break;
                case Fault.FuelWashed:
                    Add(RepairAction.RunClearRetest, "All cylinders fuel-washed.", ["oil smells of fuel", "injectors", "test again warm after a run"]);
                    break;
                case Fault.Carbon:
                    Add(RepairAction.Decarbonise, "All cylinders high.", ["camera on the crowns", "changed pistons or head"]);
                    break;
            }
        }
        if (job.CoolantInIntake)
        {
            Add(RepairAction.CheckCooling, "Coolant stands in the intake.", [.. Coolers(job).Contains("heated intake") ? ["heated intake: passages and gasket of the manifold"] : Array.Empty<string>(), "the system under pressure, cold: see where it comes in"]);
        }
        if (job.Gas == CombustionGasResult.Positive && !found.Exists(f => f.Action is RepairAction.HeadOff or RepairAction.CheckCooling))
        {
            Add(RepairAction.CheckCooling, "Combustion gas in the coolant: find out where it gets in before anything is opened.", ["the cooling system under pressure, cold, and a camera in each cylinder", "the gas test again, without drawing in room air"]);
        }
        if (job.Seen.Contains(Observation.TimingJumped) && !found.Exists(f => f.Action == RepairAction.CheckTiming) && said.Cylinders.Any(c => c.Of(Fault.IntakeValve) + c.Of(Fault.ExhaustValve) > Leads))
        {
            Add(RepairAction.CheckTiming, "Timing jumped: check it before the engine is turned again.", ["marks and keys", "bent valves: leak-down of every cylinder"]);
        }
        // What is done next is said once: no reading again beside a leak-down that tells more.
        bool Confirmed(int c) => said.Next is [{ Kind: StepKind.LeakDown }, ..] || job.Tests.DryTest?.Readings?.Any(r => r.Cylinder == c && r.IsRepeated()) == true || job.Cylinders[c - 1] is { Relative.Ln: < -0.1 };
        foreach (var c in said.Cylinders.Where(c => c.State is CylinderState.Low or CylinderState.Dead or CylinderState.Watch or CylinderState.High))
        {
            var lead = c.Leading;
            var unexplained = said.IsUnexplained(c);
            if (lead.Fault == Fault.Sound && lead.Probability > Leads && !unexplained)
            {
                continue;
            }
            // The gaskets to either side are one repair.
            if ((lead.Fault == Fault.GasketAdjacent ? c.Of(Fault.GasketAdjacent) : lead.Probability) <= Leads || unexplained)
            {
                if (c.State is CylinderState.Low or CylinderState.Dead && said.Safety.Oil.OiledAt(c.Cylinder) is not null)
                {
                    Add(RepairAction.RunClearRetest, "Test oil is left in it: run and clear it before it is read dry again.", ["leak-down, and where the air goes"], c.Cylinder);
                }
                else if (c.State is CylinderState.Low or CylinderState.Dead)
                {
                    var repeated = Confirmed(c.Cylinder);
                    // A hump that is missing is a cylinder that does not seal, or whose plug was out.
                    string[] open = c.State == CylinderState.Dead && job.Cylinders[c.Cylinder - 1] is { LnDry: null, Relative: not null, Leak: null } ? ["its plug in and tight while the current was recorded: an open hole looks the same"] : [];
                    Add(repeated ? RepairAction.MeasureMore : RepairAction.RepeatTest, "Too early to open anything.", repeated ? [.. open, "leak-down, and where the air goes"] : [.. open, said.Validity.Any(v => v.Code == ValidityCode.PulsesUnequal && v.Cylinders.Contains(c.Cylinder)) ? "the same cylinder again, with as many compressions as the others" : "the same cylinder again, the same way"], c.Cylinder);
                }
                continue;
            }
            if (said.IsTooLittleMeasured && job.Cylinders[c.Cylinder - 1].Leak?.LnRatio is null && lead.Fault is not Fault.TestError)
            {
                Add(RepairAction.MeasureMore, "Too early to open anything: measure the other cylinders first.", ["the missing cylinders, the same way", "leak-down, and where the air goes"], c.Cylinder);
                continue;
            }
            // What may pass after a run is tried before anything is opened.
            var washed = lead.Fault is Fault.Rings && !said.Safety.Liquid.IsLocked && (c.Of(Fault.FuelWashed) > Washed || (job.FuelOn && job.Cylinders[c.Cylinder - 1].Leak?.LnRatio is null));
            // What is only to be watched is not opened for a likelihood, before air was in it.
            if (c.State == CylinderState.Watch && job.Cylinders[c.Cylinder - 1].Leak?.LnRatio is null && lead.Probability <= SureOfStroke && lead.Fault is Fault.Rings or Fault.Piston)
            {
                Add(RepairAction.MeasureMore, "Too early to open anything.", ["leak-down, and where the air goes"], c.Cylinder);
                continue;
            }
            if (job.LeakDown?.Cylinders[c.Cylinder - 1].Disagrees == true)
            {
                Add(RepairAction.MeasureMore, "Its leak-down does not repeat: open nothing on that reading.", ["top dead centre proved on compression, then leak-down again"], c.Cylinder);
                continue;
            }
            switch (washed ? Fault.FuelWashed : lead.Fault)
            {
                case Fault.IntakeValve or Fault.ExhaustValve:
                    Add(job.ValvesAreFixed ? RepairAction.InspectTopEnd : RepairAction.AdjustValves, $"A valve does not seal: {FaultWords.Of(lead.Fault)}.",
                        [.. job.ValvesAreFixed ? Array.Empty<string>() : ["clearance cold, then leak-down again"], "spring, keeper, valve height", "head off last: seat, face, guide"], c.Cylinder);
                    break;
                case Fault.IntakeNotOpening or Fault.ExhaustNotOpening:
                    Add(RepairAction.InspectTopEnd, "A valve hardly opens.", ["lift against the neighbours", "lobe, follower, adjuster", "port free"], c.Cylinder);
                    break;
                case Fault.GasketAdjacent:
                    Add(RepairAction.HeadOff, "The head gasket between neighbouring cylinders.", ["straightedge and feeler on head and block", "crack test between the chambers", "bolts and threads"], c.Cylinder);
                    break;
                case Fault.GasketCoolant:
                    Add(RepairAction.HeadOff, "Gasket or crack to the coolant.", ["first: pressure the cooling system and look in with a camera", "faces, crack test, liner height"], c.Cylinder);
                    break;
                case Fault.Rings:
                    Add(job.Seen.Contains(Observation.StoodLong) ? RepairAction.FreeRings : RepairAction.Overhaul, "Rings or bore.", ["camera on the bore", "bore gauge, end gap", "crankcase pressure"], c.Cylinder);
                    break;
                case Fault.ShortStroke when lead.Probability <= SureOfStroke:
                    Add(RepairAction.MeasureMore, "Low compression without a leak: check stroke, valve lift, timing and the test itself.", ["piston height at top dead centre against the neighbours, through the plug hole", "valve lift against the neighbours", "the same cylinder with another gauge"], c.Cylinder);
                    break;
                case Fault.Piston or Fault.ShortStroke:
                    Add(RepairAction.Overhaul, lead.Fault == Fault.Piston ? "A holed or broken piston." : "A stroke that is too short.", ["camera on the crown", "piston height at top dead centre against the neighbours"], c.Cylinder);
                    break;
                case Fault.FuelWashed:
                    Add(RepairAction.RunClearRetest, washed ? "Rings or bore, or a fuel-washed cylinder: run it and test again to tell them apart." : "Fuel-washed.", ["oil smells of fuel", "injector", "test again warm after a run"], c.Cylinder);
                    break;
                case Fault.Carbon:
                    Add(RepairAction.Decarbonise, "Deposits.", ["camera on the crown", "changed parts"], c.Cylinder);
                    break;
                case Fault.TestError:
                    if (said.Safety.Oil.OiledAt(c.Cylinder) is not null)
                    {
                        Add(RepairAction.RunClearRetest, "Test oil is left in it: run and clear it before it is read dry again.", ["adapter and hose"], c.Cylinder);
                        break;
                    }
                    Add(RepairAction.RepeatTest, "A test error at this cylinder explains its reading.", ["adapter and hose", "compressions counted", "the same cylinder again"], c.Cylinder);
                    break;
            }
        }
        var missing = said.Cylinders.Where(c => c.State == CylinderState.Untested).Select(c => c.Cylinder).ToList();
        if (missing.Count > 0)
        {
            Add(RepairAction.CompleteTest, missing.Count == said.Cylinders.Count ? "Nothing is measured yet." : $"Not measured yet: {CylinderList.Sentence(missing)}.", []);
        }
        if (found.Count == 0)
        {
            Add(said.State == EngineState.Watch ? RepairAction.Watch : RepairAction.None, said.State == EngineState.Watch ? "Retest after a distance, the same way." : Elsewhere(job), []);
        }
        return [.. found.GroupBy(f => (f.Action, f.Says)).Select(g =>
        {
            var cylinders = g.Select(f => f.Cylinder).OfType<int>().Order().ToList();
            return new ActionAdvice(g.Key.Action, cylinders.Count > 0 ? $"Cylinder{(cylinders.Count > 1 ? "s" : "")} {CylinderList.Sentence(cylinders)}: {char.ToLowerInvariant(g.Key.Says[0])}{g.Key.Says[1..]}" : g.Key.Says, g.First().Checks);
        }).OrderBy(a => a.Action)];
    }
}
