using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;
using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Instruments.Devices;

/// <summary>An instrument on the simulated bench: with the commands that real ones lack, which turn the engine and break it.</summary>
public abstract class BenchDevice : Device
{
    private static readonly (string Word, SimulatedEngine Engine)[] Engines =
    [
        ("I3", SimulatedEngine.InlineThree), ("I4", SimulatedEngine.InlineFour), ("F4", SimulatedEngine.FlatFour), ("V6", SimulatedEngine.VSix), ("V8D", SimulatedEngine.VEightDiesel), ("I6D", SimulatedEngine.InlineSixTruck),
    ];

    private static readonly (string Word, Fault Fault)[] Faults =
    [
        ("RINGs", Fault.Rings), ("PISTon", Fault.Piston), ("INTake", Fault.IntakeValve), ("EXHaust", Fault.ExhaustValve), ("GASKet", Fault.GasketAdjacent), ("COOLant", Fault.GasketCoolant),
        ("ILOBe", Fault.IntakeNotOpening), ("ELOBe", Fault.ExhaustNotOpening), ("STRoke", Fault.ShortStroke), ("CARBon", Fault.Carbon), ("WASHed", Fault.FuelWashed),
    ];

    private static readonly (string Word, PressureUnit? Unit, double Pascals, int Digits)[] PressureWords =
    [
        ("PSI", PressureUnit.Psi, PressureUnit.Psi.Pascals(), 1), ("BAR", PressureUnit.Bar, PressureUnit.Bar.Pascals(), 3), ("KPA", PressureUnit.KPa, PressureUnit.KPa.Pascals(), 1), ("PA", null, 1, 0),
    ];

    private int unit;

    /// <summary>Makes it on a bench.</summary>
    /// <param name="bench">The bench.</param>
    protected BenchDevice(SimulatedBench bench)
    {
        Bench = bench;
        On("SIMulation:ENGine", c => { if (c.Takes(1, 1) && c.Choice(0, [.. Engines.Select(e => e.Word)]) is >= 0 and var e) { bench.Engine = Engines[e].Engine; } }, most: 1);
        On("SIMulation:ENGine?", c => c.Reply(Engines.First(e => e.Engine == bench.Engine).Word));
        On("SIMulation:CYLinder", c => { if (c.Takes(1, 1) && c.Number(0, 1, bench.Engine.Cylinders) is > 0 and var n) { bench.MoveTo((int)n); } }, most: 1);
        On("SIMulation:CYLinder?", c => c.Reply(FormattableString.Invariant($"{bench.Cylinder}")));
        On("SIMulation:FAULt", Break, most: 4);
        On("SIMulation:FAULt?", c => c.Reply($"\"{bench.Faults}\""));
        On("SIMulation:CLEar", _ => bench.Mend());
        On("SIMulation:THRottle", c => { if (c.Takes(1, 1) && c.Choice(0, "OPEN", "SHUT") is >= 0 and var t) { bench.ThrottleShut = t == 1; } }, most: 1);
        On("SIMulation:TEMPerature", c => { if (c.Takes(1, 1) && c.Choice(0, "WARM", "COLD") is >= 0 and var t) { bench.Cold = t == 1; } }, most: 1);
        On("SIMulation:PLUGs", c => { if (c.Takes(1, 1) && c.Choice(0, "OUT", "IN") is >= 0 and var p) { bench.PlugsIn = p == 1; } }, most: 1);
        On("SIMulation:BATTery", c => { if (c.Takes(1, 1)) { var weak = c.Number(0, 0, 1); bench.WeakBattery = c.HasFailed ? bench.WeakBattery : weak; } }, most: 1);
        On("SIMulation:OIL", c => { if (c.Takes(1, 1) && c.Number(0, 0.1, 100, ("ML", 1)) is > 0 and var ml) { bench.Oil(ml); } }, most: 1);
        On("SIMulation:STOP", _ => bench.Stop());
        On("SIMulation:MOTion?", c => c.Reply(bench.Motion switch { BenchMotion.Cranking => "CRAN", BenchMotion.Running => "RUN", _ => "STIL" }));
        On("UNIT:PRESsure", c => { if (c.Takes(1, 1) && c.Choice(0, [.. PressureWords.Select(w => w.Word)]) is >= 0 and var u) { unit = u; } }, most: 1);
        On("UNIT:PRESsure?", c => c.Reply(PressureWords[unit].Word));
    }

    /// <summary>The engine and everything on it.</summary>
    protected SimulatedBench Bench { get; }

    /// <inheritdoc/>
    protected override void Reset()
    {
        unit = 0;
        Bench.Stop();
    }

    /// <summary>A pressure as it is answered: in the unit that was set, rounded as the instrument shows it.</summary>
    /// <param name="pascals">The pressure, Pa.</param>
    /// <returns>The figure.</returns>
    protected double Shown(double pascals) => Math.Round(pascals / PressureWords[unit].Pascals, PressureWords[unit].Digits);

    /// <summary>Units that a pressure may be given in, each with how many Pa it is.</summary>
    protected static (string, double)[] PressureFactors { get; } = [.. PressureWords.Select(w => (w.Word, w.Pascals))];

    /// <summary>Answers whether something could be done; where not, it is in the queue.</summary>
    /// <param name="call">The command.</param>
    /// <param name="done">Whether.</param>
    protected static void Try(CommandCall call, bool done)
    {
        if (!done)
        {
            call.Fail(ScpiError.SettingsConflict);
        }
    }

    private void Break(CommandCall c)
    {
        if (!c.Takes(3, 4))
        {
            return;
        }
        var cylinder = (int)c.Number(0, 1, Bench.Engine.Cylinders);
        var fault = c.Choice(1, [.. Faults.Select(f => f.Word)]);
        var severity = c.Number(2, 0, 2);
        var beside = Bench.Engine.Webs.Where(w => w.First == cylinder || w.Second == cylinder).Select(w => w.First == cylinder ? w.Second : w.First).ToList();
        var neighbour = c.Count == 4 ? (int)c.Number(3, 1, Bench.Engine.Cylinders) : beside.FirstOrDefault();
        if (!c.HasFailed && fault >= 0 && Faults[fault].Fault == Fault.GasketAdjacent && !beside.Contains(neighbour))
        {
            c.Fail(ScpiError.SettingsConflict);
        }
        if (!c.HasFailed)
        {
            Bench.Break(cylinder, Faults[fault].Fault, severity, Faults[fault].Fault == Fault.GasketAdjacent ? neighbour : null);
        }
    }
}
