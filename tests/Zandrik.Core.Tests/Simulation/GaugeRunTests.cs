using System.Globalization;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.Simulation;

/// <summary>The model against its own table of results, within the tolerances that stand beside it.</summary>
public sealed class GaugeRunTests
{
    private const double Psi = 6894.757293168361;

    // P3T, P4, F4, V8D, I6D of the table.
    private static readonly SimulatedEngine[] Engines = [SimulatedEngine.InlineThree, SimulatedEngine.InlineFour, SimulatedEngine.FlatFour, SimulatedEngine.VEightDiesel, SimulatedEngine.InlineSixTruck];

    private static readonly Cranking Warm = new() { StepDeg = 0.5, Seconds = 30 };

    private static double[] Finals(Func<SimulatedEngine, SimulatedEngine>? change, Func<GaugeTest, GaugeTest>? how = null, int pulses = 10) =>
        [.. GaugeRun.Of([.. Engines.Select(e => (new EngineUnderTest(change?.Invoke(e) ?? e), (how ?? (t => t))(new GaugeTest { Cylinder = 1, How = Warm, Pulses = pulses })))]).Select(r => r.FinalPa / Psi)];

    private static void ShouldMatch(IEnumerable<double> found, double[] table, Func<double, double> tolerance, string what)
    {
        foreach (var (is_, should, i) in found.Zip(table, Enumerable.Range(0, table.Length)))
        {
            if (!double.IsNaN(should))
            {
                is_.ShouldBe(should, tolerance(should), $"{what}: {Engines[i].Name}");
            }
        }
    }

    private static double Pressure(double psi) => Math.Max(3, 0.03 * psi);

    [Fact]
    public void Sound_engines_have_the_tables_pressure_speed_and_pulses()
    {
        var runs = GaugeRun.Of([.. Engines.Select(e => (new EngineUnderTest(e), new GaugeTest { Cylinder = 1, How = Warm, Pulses = 10 }))]);
        ShouldMatch(runs.Select(r => r.FinalPa / Psi), [199.5, 206.7, 191.1, 411.4, 449.4], Pressure, "final");
        ShouldMatch(runs.Select(r => r.MeanRpm), [269, 257, 252, 184, 178], t => 0.03 * t, "speed");
        double[][] shares = [[51, 77, 89, 95, 98, 99], [52, 78, 90, 96, 98, 99], [56, 82, 92, 97, 99, 100], [50, 75, 88, 94, 97, 99], [56, 81, 92, 97, 99, 99]];
        foreach (var (run, share) in runs.Zip(shares))
        {
            run.PulsesPa.Take(6).Select(p => 100 * p / run.FinalPa).Zip(share).ShouldAllBe(p => Math.Abs(p.First - p.Second) <= 2);
            run.Stalled.ShouldBeFalse();
        }
    }

    // Peaks of the fourth cycle at a given speed, one cylinder, no gauge.
    [Theory]
    [InlineData(250, 0, 0, new[] { 287.2, 296.9, 274.6, 768.0, 719.8 })]
    [InlineData(250, 2.2, 0, new[] { 223.6, 232.5, 215.4, 531.0, 546.5 })]
    [InlineData(150, 2.2, 0, new[] { 199.1, 206.9, 191.8, 460.6, 490.1 })]
    [InlineData(250, 2.2, 1, new[] { 176.1, 190.8, 181.2, 420.6, 497.1 })]
    [InlineData(150, 2.2, 1, new[] { 137.4, 152.1, 146.5, 322.3, 422.1 })]
    public void At_a_given_speed_the_peak_is_the_tables(double rpm, double wallHeat, double ringMm2, double[] table) =>
        ShouldMatch(
            Finals(e => e with { RingLeakM2 = ringMm2 * 1e-6, ValveLeakM2 = 0, Constants = new() { WallHeat = wallHeat } }, t => t with { Kit = null, Rpm = rpm, Pulses = 4 }), table, t => 0.01 * t, "peak");

    public static TheoryData<string, double[]> Conditions => new()
    {
        { "head", [-20.3, -17.7, -15.0, -24.1, -12.1] },
        { "throttle", [-10.1, -6.9, -7.0, double.NaN, double.NaN] },
        { "throttle in", [-13.5, -13.2, -13.0, double.NaN, double.NaN] },
        { "cold", [-7.0, -7.6, -8.2, -7.1, -6.4] },
        { "throttle cold", [-16.2, -13.7, -14.2, double.NaN, double.NaN] },
        { "throttle cold in", [-19.1, -18.8, -18.8, double.NaN, double.NaN] },
    };

    [Theory]
    [MemberData(nameof(Conditions))]
    public void What_was_not_prepared_takes_what_the_table_says(string what, double[] percent)
    {
        var sound = Finals(null);
        var other = Finals(null, t => t with
        {
            Kit = what == "head" ? GaugeKit.ValveInHead : GaugeKit.Usual,
            ThrottleShut = what.Contains("throttle", StringComparison.Ordinal),
            PlugsIn = what.EndsWith(" in", StringComparison.Ordinal),
            How = Warm with { Cold = what.Contains("cold", StringComparison.Ordinal) },
        });
        // ± 3 percent of the sound reading.
        ShouldMatch(other.Zip(sound, (o, s) => 100 * (o / s - 1)), percent, _ => 3, what);
    }

    [Theory]
    [InlineData("adapter", 3, new[] { 187.0, 196, 182, 381, 435 })]
    [InlineData("adapter", 6, new[] { 175.0, 185, 174, 354, 422 })]
    [InlineData("air", 89.9, new[] { 177.0, 183, 169, 365, 398 })]
    [InlineData("air", 83.5, new[] { 164.0, 170, 157, 338, 370 })]
    [InlineData("air", 70.1, new[] { 136.0, 141, 131, 282, 309 })]
    [InlineData("cam", -16, new[] { 213.0, 223, 204, 431, 470 })]
    [InlineData("cam", 8, new[] { 190.0, 196, 182, 397, 435 })]
    [InlineData("cam", 16, new[] { 179.0, 184, 171, 380, 416 })]
    [InlineData("cam", 32, new[] { 152.0, 154, 145, 336, 368 })]
    [InlineData("weak", 0.3, new[] { 195.0, 201, 186, 401, 439 })]
    [InlineData("weak", 0.6, new[] { 190.0, 195, 180, 390, 427 })]
    [InlineData("weak", 1, new[] { 181.0, 186, 170, 374, 408 })]
    [InlineData("weak cold in", 1, new[] { 135.0, 97, 74, 304, 311 })]
    [InlineData("rpm", 100, new[] { 146.0, 153, 144, 331, 382 })]
    [InlineData("rpm", 150, new[] { 171.0, 180, 168, 399, 444 })]
    [InlineData("rpm", 200, new[] { 189.0, 198, 185, 445, 483 })]
    [InlineData("rpm", 300, new[] { 210.0, 220, 205, 495, 522 })]
    [InlineData("oil", 5, new[] { 205.0, 212, 195, 426, 459 })]
    [InlineData("oil", 10, new[] { 208.0, 215, 198, 434, 464 })]
    [InlineData("oil", 15, new[] { 210.0, 217, 199, 440, 467 })]
    [InlineData("oil", 25, new[] { 213.0, 219, 202, 448, 472 })]
    public void Sound_engines_read_what_the_table_says_in_other_conditions(string what, double amount, double[] psi) =>
        ShouldMatch(Finals(
            e => what == "cam" ? e with { Timing = e.Timing with { CamShift = amount } } : e,
            t => what switch
            {
                "adapter" => t with { Kit = GaugeKit.Usual with { AdapterM3 = amount * 1e-6 } },
                "air" => t with { How = Warm with { AmbientPa = amount * 1000 } },
                "weak" => t with { How = Warm with { WeakBattery = amount } },
                "weak cold in" => t with { How = Warm with { WeakBattery = amount, Cold = true, Seconds = 60 }, PlugsIn = true },
                "rpm" => t with { Rpm = amount },
                "oil" => t with { OilM3 = amount * 1e-6 },
                _ => t,
            },
            pulses: what == "oil" ? 12 : 10), psi, Pressure, what);

    /// <summary>Rows of the table: engine, fault, severity, first, dry, wet, loss, main place and its share, idle and snap.</summary>
    public static TheoryData<string> Faults => [.. """
        P4 Rings 0 99 186 203 48 Rings 93 107 176
        P4 Rings 1 78 139 171 90 Rings 98 101 164
        P4 Rings 2 52 84 126 98 Rings 99 88 144
        P4 IntakeValve 0 101 190 197 33 Intake 53 107 177
        P4 IntakeValve 1 78 140 144 85 Intake 84 99 163
        P4 IntakeValve 2 36 54 55 99 Intake 95 69 123
        P4 ExhaustValve 0 101 190 197 33 Exhaust 53 108 177
        P4 ExhaustValve 1 78 139 144 85 Exhaust 84 101 165
        P4 ExhaustValve 2 36 54 55 99 Exhaust 95 77 127
        P4 GasketCoolant 0 106 200 208 19 Rings 62 108 178
        P4 GasketCoolant 1 98 183 189 45 Coolant 59 105 174
        P4 GasketCoolant 2 78 140 144 85 Coolant 83 95 162
        P4 GasketAdjacent 0 94 175 182 56 Neighbour 65 107 174
        P4 GasketAdjacent 1 72 127 131 90 Neighbour 86 100 161
        P4 GasketAdjacent 2 36 54 55 99 Neighbour 95 73 122
        P4 IntakeNotOpening 0 120 225 234 11 Rings 83 113 165
        P4 IntakeNotOpening 1 115 217 226 11 Rings 83 108 135
        P4 IntakeNotOpening 2 108 207 215 11 Rings 83 89 98
        P4 ExhaustNotOpening 0 123 208 216 11 Rings 83 146 185
        P4 ExhaustNotOpening 1 131 208 216 11 Rings 83 167 167
        P4 ExhaustNotOpening 2 140 209 217 11 Rings 83 183 152
        P4 ShortStroke 0 103 191 198 11 Rings 83 100 167
        P4 ShortStroke 1 97 173 179 11 Rings 83 89 153
        P4 ShortStroke 2 88 150 155 11 Rings 83 75 133
        P4 Carbon 0 111 215 223 11 Rings 83 115 186
        P4 Carbon 1 114 224 233 11 Rings 83 120 193
        P4 Carbon 2 119 238 248 11 Rings 83 129 205
        P4 FuelWashed 0 104 198 214 26 Rings 90 109 178
        P4 FuelWashed 1 96 180 213 59 Rings 95 107 174
        P4 FuelWashed 2 83 150 211 86 Rings 97 102 167
        P3T Rings 1 75 138 169 85 Rings 98 101 160
        P3T GasketAdjacent 1 70 126 131 84 Neighbour 84 99 150
        P3T ExhaustNotOpening 1 126 202 211 9 Rings 84 180 168
        F4 ExhaustValve 1 77 130 134 87 Exhaust 84 94 155
        F4 ShortStroke 1 97 163 168 12 Rings 84 83 145
        F4 FuelWashed 1 96 167 196 63 Rings 95 98 164
        V8D Rings 1 117 202 282 94 Rings 98
        V8D IntakeValve 2 35 45 46 99 Intake 96
        V8D GasketCoolant 0 196 387 408 20 Rings 57
        V8D GasketAdjacent 1 104 174 180 93 Neighbour 88
        V8D IntakeNotOpening 2 182 370 390 10 Rings 83
        V8D ExhaustNotOpening 1 240 414 437 10 Rings 83
        V8D ShortStroke 2 150 247 256 10 Rings 83
        V8D Carbon 2 221 465 494 10 Rings 83
        V8D FuelWashed 2 142 258 422 85 Rings 97
        I6D Rings 1 132 211 284 95 Rings 99
        I6D GasketCoolant 1 201 349 359 52 Coolant 73
        I6D Carbon 1 262 482 498 6 Rings 83
        """.Split('\n', StringSplitOptions.TrimEntries)];

    [Theory]
    [MemberData(nameof(Faults))]
    public void A_fault_reads_what_the_table_says(string row)
    {
        var part = row.Split(' ');
        double Number(int i) => double.Parse(part[i], CultureInfo.InvariantCulture);
        var engine = Engines[Array.IndexOf(["P3T", "P4", "F4", "V8D", "I6D"], part[0])];
        var condition = SimulatedFault.Of(engine, Enum.Parse<Fault>(part[1]), Number(2), neighbour: engine.Webs[0].Second);
        var tested = new EngineUnderTest(engine, new Dictionary<int, CylinderCondition> { [1] = condition });
        var test = new GaugeTest { Cylinder = 1, How = Warm };
        var runs = GaugeRun.Of([(tested, test), (tested, test with { OilM3 = 10e-6 })]);
        (runs[0].FirstPa / Psi).ShouldBe(Number(3), Pressure(Number(3)), "first");
        (runs[0].FinalPa / Psi).ShouldBe(Number(4), Pressure(Number(4)), "dry");
        (runs[1].FinalPa / Psi).ShouldBe(Number(5), Pressure(Number(5)), "wet");
        var leak = StaticLeak.Of(tested, new StaticTest { Cylinder = 1 });
        leak.Percent.ShouldBe(Number(6), 1, "leak-down");
        (100 * leak.Share(Enum.Parse<LeakPlace>(part[7]))).ShouldBe(Number(8), 1, "share");
        if (part.Length > 9)
        {
            var running = RunningRun.Of([(tested, new RunningTest { Cylinder = 1 })])[0];
            (running.IdlePa / Psi).ShouldBe(Number(9), 0.04 * Number(9), "idle");
            (running.SnapPa / Psi).ShouldBe(Number(10), 0.04 * Number(10), "snap");
        }
    }
}
