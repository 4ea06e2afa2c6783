using System.Globalization;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Checks;

/// <summary>What a small check says, in one or two sentences, and whether it is a finding.</summary>
/// <param name="Says">The sentence.</param>
/// <param name="IsFinding">True where something is not as it should be.</param>
public sealed record CheckFinding(string Says, bool IsFinding)
{
    /// <summary>Oil use from which it is a finding, litres per 1000 km. Rule of the trade.</summary>
    public const double MuchOilLitresPer1000Km = 0.5;

    // Pressures that differ by less than this share are one pressure: the relief valve holds it.
    private const double Same = 0.04;

    // A dash gauge further off than this share of the mechanical one is not believed.
    private const double DashApart = 0.15;

    /// <summary>What a test says; absent for one that is no small check, or holds nothing.</summary>
    /// <returns>What it says and what it accuses; null for one that is no small check, or holds nothing.</returns>
    public static CheckFinding? Of(TestEntry test, EngineSheet engine) => test switch
    {
        FluidsCheck fluids => Fluids(fluids, engine),
        CrankSoundCheck { Result: { } heard } => heard switch
        {
            CrankSoundResult.Even => new("Even on the starter.", false),
            CrankSoundResult.Uneven => new("Uneven on the starter: one cylinder holds less.", true),
            _ => new("Fast on the starter: all cylinders hold little, or none. Cam timing, washed walls, general wear.", true),
        },
        CombustionGasTest { Result: { } result } => result switch
        {
            CombustionGasResult.Positive => new("Combustion gas in the coolant: gasket or crack." + (engine.Features?.Contains(EngineFeature.EgrCooler) == true ? " This engine's exhaust-gas cooler can do that too: rule it out first." : ""), true),
            CombustionGasResult.Unclear => new("Unclear: repeat with fresh fluid, warm, the overflow blocked.", false),
            _ => new("No combustion gas found; the fluid is right about 17 times in 20.", false),
        },
        OilPressureTest oil => Pressure(oil),
        ValveClearanceCheck clearances => Clearances(clearances),
        ManifoldVacuumTest vacuum => Vacuum(vacuum),
        OilUseCheck use => Use(use),
        _ => null,
    };

    private static CheckFinding? Fluids(FluidsCheck check, EngineSheet engine)
    {
        if (check.BlowBy is { } gas)
        {
            return gas switch
            {
                BlowBy.Little => new("A little gas at the filler: normal.", false),
                BlowBy.Much => new("Much gas at the filler: rings or bores, if the breather is free.", true),
                _ => new("Gas in puffs: one cylinder, rings or piston.", true),
            };
        }
        if (check.CoolantInIntake is { } coolant)
        {
            return coolant ? new("Coolant in the intake: the heated manifold. Do not start it: liquid does not compress.", true) : new("No coolant in the intake.", false);
        }
        if (check.Findings is not { Count: > 0 } findings)
        {
            return null;
        }
        var found = findings.Where(f => !Clean.Contains(f)).ToList();
        var none = findings.Where(f => f != FluidFinding.Clean && Clean.Contains(f)).Select(Name).ToList();
        if (found.Count == 0)
        {
            return new(none.Count == 0 ? "Fluids clean." : Sentence(none), false);
        }
        var cooler = engine.Features?.Contains(EngineFeature.OilCooler) == true && found.Any(f => f is FluidFinding.MilkyOil or FluidFinding.OilInCoolant);
        return new($"{Sentence([.. found.Select(Name), .. none])}{(cooler ? " This engine's oil cooler can mix the two with a sound gasket." : "")}", true);
    }

    // What says that nothing was found.
    private static readonly FluidFinding[] Clean = [FluidFinding.Clean, FluidFinding.OilClean, FluidFinding.CoolantClean, FluidFinding.NoOilInCoolant, FluidFinding.NoCoolantInOil, FluidFinding.BlowByNone];

    /// <summary>A finding as it is said in a sentence.</summary>
    /// <returns>The words, lower case, without a full stop.</returns>
    public static string Name(FluidFinding finding) => finding switch
    {
        FluidFinding.MilkyOil => "coolant in the oil",
        FluidFinding.NoCoolantInOil => "no coolant in the oil",
        FluidFinding.OilInCoolant => "oil in the coolant",
        FluidFinding.NoOilInCoolant => "no oil in the coolant",
        FluidFinding.CoolantInCylinder => "coolant in a cylinder",
        FluidFinding.CoolantInIntake => "coolant in the intake",
        FluidFinding.CapOrHoseDamaged => "cap or hose damaged",
        _ => RecordWords.Of(finding).Replace('-', ' '),
    };

    private static string Sentence(IReadOnlyList<string> parts) => string.Join(", ", parts) is var text ? char.ToUpperInvariant(text[0]) + text[1..] + "." : "";

    private static CheckFinding? Pressure(OilPressureTest test)
    {
        var read = (test.Readings ?? []).Where(r => r.Value is not null).OrderBy(r => r.Rpm).ToList();
        if (read.Count == 0)
        {
            return null;
        }
        var unit = test.Unit ?? PressureUnit.Psi;
        static string At(OilPressureReading r) => $"{r.Rpm?.ToString("0", CultureInfo.CurrentCulture) ?? "?"} rpm";
        string Figure(double value) => new GaugePressure(value, unit).Text(unit);
        // Cold oil reads high: only what was read hot is held against the maker's figures, and only the cold rows are said to be cold.
        var (hot, cold) = (read.Where(r => r.OilTemperature != "cold").ToList(), read.Where(r => r.OilTemperature == "cold").ToList());
        var low = read.Where(r => r.Minimum is { } least && r.Value < least).ToList();
        var text = low.Count > 0
            ? "Under the maker's minimum " + string.Join(", ", low.Select(r => $"at {At(r)} ({Figure(r.Value!.Value)} of {Figure(r.Minimum!.Value)} {unit.Symbol()})")) + ": bearings, pump, or thin oil."
            : hot.Count == 0 ? "Read cold only: warm it up and read it again before it is held against the maker's figures."
            : hot.All(r => r.Minimum is not null) ? "At or above the maker's minimum at every speed that was read hot." : "No maker's minimum to hold it against.";
        var speeds = read.Where(r => r.Rpm is not null).ToList();
        bool Alike(OilPressureReading a, OilPressureReading b) => Math.Abs(a.Value!.Value - b.Value!.Value) <= Same * Math.Max(a.Value.Value, b.Value.Value);
        if (speeds.Count >= 2 && speeds[^1].Rpm > speeds[0].Rpm && speeds.All(r => Alike(r, speeds[0])))
        {
            text += " The same at every speed: look at the relief valve.";
        }
        else if (speeds.Count >= 2 && speeds[^1].Rpm > speeds[^2].Rpm && Alike(speeds[^1], speeds[^2]))
        {
            text += $" No more from {At(speeds[^2])} on: the relief valve holds it there.";
        }
        if (cold.Count > 0 && hot.Count > 0)
        {
            text += $" Read cold at {string.Join(", ", cold.Select(At))}, where oil reads high.";
        }
        var dash = read.Where(r => r.Dash is { } d && Math.Abs(d - r.Value!.Value) > DashApart * Math.Max(d, r.Value.Value)).ToList();
        if (dash.Count > 0)
        {
            text += $" The dash gauge reads {string.Join(", ", dash.Select(r => $"{Figure(r.Dash!.Value)} at {At(r)}"))}: believe the mechanical one, and look at the sender.";
        }
        else if (read.Any(r => r.Dash is not null))
        {
            text += " The dash gauge agrees.";
        }
        return new(text, low.Count > 0);
    }

    private static CheckFinding? Clearances(ValveClearanceCheck test)
    {
        var read = (test.Readings ?? []).Where(r => r.Value is not null && r.SupersededBy is null).ToList();
        var fixedFor = test.Adjustable == false ? " Not adjustable on this engine." : "";
        if (read.Count == 0)
        {
            return test.Adjustable == false ? new(fixedFor.Trim(), false) : null;
        }
        static string Name(ValveClearanceReading r) => $"{(r.Valve is { } v ? RecordWords.Of(v) : "a valve")} of {r.Cylinder}";
        var tight = read.Where(r => r.Value < r.Minimum).Select(Name).ToList();
        var loose = read.Where(r => r.Value > r.Maximum).Select(Name).ToList();
        var parts = new List<string>();
        if (tight.Count > 0)
        {
            parts.Add($"Too tight: {string.Join(", ", tight)}. A tight valve leaks, and gets tighter.");
        }
        if (loose.Count > 0)
        {
            parts.Add($"Too loose: {string.Join(", ", loose)}. A loose valve opens late and little.");
        }
        return parts.Count > 0 ? new(string.Join(" ", parts) + fixedFor, true)
            : new((read.All(r => r.Minimum is null && r.Maximum is null) ? "No maker's figures to hold them against." : "Every clearance within the maker's figures.") + fixedFor, false);
    }

    private static CheckFinding? Vacuum(ManifoldVacuumTest test)
    {
        var unit = test.Unit ?? PressureUnit.KPa;
        var figure = test.Value is { } v ? $"{new GaugePressure(v, unit).Text(unit)} {unit.Symbol()}, " : "";
        return test.Behaviour switch
        {
            VacuumBehaviour.Steady => new($"{figure}steady.", false),
            VacuumBehaviour.Fluctuating => new($"{figure}beating: a valve of one cylinder.", true),
            VacuumBehaviour.Dropping => new($"{figure}falling while it runs: blocked exhaust.", true),
            VacuumBehaviour.Low => new($"{figure}low and even: cam timing, wear, or an air leak.", true),
            _ => test.Value is null ? null : new($"{figure.TrimEnd(' ', ',')}.", false),
        };
    }

    private static CheckFinding? Use(OilUseCheck test)
    {
        if (test is not { Litres: { } litres, Distance: { Value: > 0 } distance })
        {
            return null;
        }
        if (distance.Unit == DistanceUnit.H)
        {
            return new($"{(litres / distance.Value).ToString("0.###", CultureInfo.CurrentCulture)} litres an hour: hold it against the maker's figure.", false);
        }
        var km = distance.Value * (distance.Unit == DistanceUnit.Mi ? 1.609344 : 1);
        var use = litres / km * 1000;
        var much = use > MuchOilLitresPer1000Km + 1e-9;
        return new($"{use.ToString("0.##", CultureInfo.CurrentCulture)} litres in 1000 km{(much ? ": much. With sound dry, wet and leak-down it is oil-control rings, stem seals or the breather, and no cylinder is to blame." : ": usual.")}", much);
    }
}
