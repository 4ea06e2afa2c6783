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

    /// <summary>What a test says; absent for one that is no small check, or holds nothing.</summary>
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
                BlowBy.Little => new("A little gas at the filler, as any engine.", false),
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
        if (findings is [FluidFinding.Clean])
        {
            return new("Fluids clean.", false);
        }
        var says = string.Join(", ", findings.Where(f => f != FluidFinding.Clean).Select(f => RecordWords.Of(f).Replace('-', ' ')));
        var cooler = engine.Features?.Contains(EngineFeature.OilCooler) == true && findings.Any(f => f is FluidFinding.MilkyOil or FluidFinding.OilInCoolant);
        return new($"{char.ToUpperInvariant(says[0])}{says[1..]}.{(cooler ? " This engine's oil cooler can mix the two with a sound gasket." : "")}", true);
    }

    private static CheckFinding? Pressure(OilPressureTest test)
    {
        var read = (test.Readings ?? []).Where(r => r.Value is not null).OrderBy(r => r.Rpm).ToList();
        if (read.Count == 0)
        {
            return null;
        }
        var unit = test.Unit ?? PressureUnit.Psi;
        var low = read.Where(r => r.Minimum is { } least && r.Value < least).ToList();
        var text = low.Count > 0
            ? "Under the maker's minimum " + string.Join(", ", low.Select(r => $"at {r.Rpm?.ToString("0", CultureInfo.CurrentCulture) ?? "?"} rpm ({new GaugePressure(r.Value!.Value, unit).Text(unit)} of {new GaugePressure(r.Minimum!.Value, unit).Text(unit)} {unit.Symbol()})")) + ": bearings, pump, or thin oil."
            : read.All(r => r.Minimum is not null) ? "At or above the maker's minimum at every speed." : "No maker's minimum to hold it against.";
        if (read.Count >= 2 && read[^1].Rpm > read[^2].Rpm && Math.Abs(read[^1].Value!.Value - read[^2].Value!.Value) <= Same * read[^1].Value!.Value)
        {
            text += $" No more from {read[^2].Rpm?.ToString("0", CultureInfo.CurrentCulture)} rpm on: the relief valve holds it there.";
        }
        if (read.Any(r => r.OilTemperature == "cold"))
        {
            text += " Read cold, where oil reads high.";
        }
        return new(text, low.Count > 0);
    }

    private static CheckFinding? Clearances(ValveClearanceCheck test)
    {
        var read = (test.Readings ?? []).Where(r => r.Value is not null && r.SupersededBy is null).ToList();
        if (read.Count == 0)
        {
            return null;
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
        return parts.Count > 0 ? new(string.Join(" ", parts), true)
            : new(read.All(r => r.Minimum is null && r.Maximum is null) ? "No maker's figures to hold them against." : "Every clearance within the maker's figures.", false);
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
