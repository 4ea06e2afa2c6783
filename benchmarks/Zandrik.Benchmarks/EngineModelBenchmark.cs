using System.Diagnostics;
using System.Globalization;
using Zandrik.Core.Physics;
using Zandrik.Core.Simulation;

namespace Zandrik.Benchmarks;

/// <summary>
/// How many tests a second the engine model makes on one core, beside a plain loop over the same equations written here: one
/// engine at a time, numbers of the library, nothing clever. Turn about in one run.
/// </summary>
internal static class EngineModelBenchmark
{
    private const int Rounds = 5;
    private static readonly TimeSpan Once = TimeSpan.FromSeconds(1);

    internal static void Run()
    {
        Console.WriteLine("tests a second on one core, median of " + Rounds + " rounds of a second");
        foreach (var engine in new[] { SimulatedEngine.InlineFour, SimulatedEngine.VEightDiesel, SimulatedEngine.InlineSixTruck })
        {
            var sound = new EngineUnderTest(engine);
            // Every cylinder of it: a test each.
            (EngineUnderTest, GaugeTest)[] Tests(double step, bool plugsIn = false) =>
                [.. Enumerable.Range(1, engine.Cylinders).Select(c => (sound, new GaugeTest { Cylinder = c, Pulses = 10, PlugsIn = plugsIn, How = new Cranking { StepDeg = step, Seconds = 30 } }))];
            var psi = GaugeRun.Of(Tests(0.5))[0].FinalPa / 6894.757;
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{engine.Name}: the model reads {psi:0.00} psi, the plain loop {PlainLoop.Gauge(engine, 10, 0.5) / 6894.757:0.00}"));
            var fine = Tests(0.5);
            var coarse = Tests(1);
            var inside = Tests(0.5, plugsIn: true);
            Report("gauge, plugs out, 0.5 degrees", () => { GaugeRun.Of(fine); return engine.Cylinders; }, "plain loop", () => { PlainLoop.Gauge(engine, 10, 0.5); return 1; });
            Report("gauge, plugs out, 1 degree", () => { GaugeRun.Of(coarse); return engine.Cylinders; }, "at 0.5 degrees", () => { GaugeRun.Of(fine); return engine.Cylinders; });
            Report("gauge, plugs in, 0.5 degrees", () => { GaugeRun.Of(inside); return engine.Cylinders; });
            (EngineUnderTest, Cranking)[] four = [.. Enumerable.Repeat((sound, new Cranking { Seconds = 6, StepDeg = 0.5 }), 4)];
            Report("starter current, 6 s, four side by side", () => { CrankingRun.Of(four); return 4; }, "by itself", () => { CrankingRun.Of([four[0]]); return 1; });
            var running = Enumerable.Range(1, engine.Cylinders).Select(c => (sound, new RunningTest { Cylinder = c })).ToArray();
            Report("running, idle and snap", () => { RunningRun.Of(running); return engine.Cylinders; });
            var one = new StaticTest { Cylinder = 1 };
            Report("leak-down", () =>
            {
                for (var k = 0; k < 1000; k++)
                {
                    StaticLeak.Of(sound, one);
                }
                return 1000;
            });
        }
    }

    private static void Report(string what, Func<int> first, string? beside = null, Func<int>? second = null)
    {
        var (a, b) = (new List<double>(), new List<double>());
        for (var round = 0; round < Rounds; round++)
        {
            a.Add(PerSecond(first));
            if (second is not null)
            {
                b.Add(PerSecond(second));
            }
        }
        var median = Median(a);
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"  {what,-42}{median,12:0.0}") + (beside is null ? "" : string.Create(CultureInfo.InvariantCulture, $"   {beside} {Median(b):0.0}, ratio {median / Median(b):0.00}")));
    }

    private static double Median(List<double> of) => of.Order().ElementAt(of.Count / 2);

    // By the time of the processor: a neighbour on the machine takes none of it.
    private static double PerSecond(Func<int> some)
    {
        var (count, process) = (0, Process.GetCurrentProcess());
        var (from, watch) = (process.TotalProcessorTime, Stopwatch.StartNew());
        while (watch.Elapsed < Once)
        {
            count += some();
        }
        process.Refresh();
        return count / (process.TotalProcessorTime - from).TotalSeconds;
    }

    /// <summary>The same equations as somebody writes them down: one cylinder, one number after the other.</summary>
    private static class PlainLoop
    {
        private const double R = 287.05;

        public static double Gauge(SimulatedEngine e, int pulses, double stepDeg)
        {
            var kit = GaugeKit.Usual;
            var (pa, ta, wall, tm) = (101_325.0, 293.0, 350.0, 318.0);
            var (r, l, ap) = (e.StrokeM / 2, e.RodM, Math.PI / 4 * e.BoreM * e.BoreM);
            var clearance = e.ClearanceM3 + kit.TipM3;
            var circuit = e.BatteryOhm + e.MotorOhm + 0.002;
            double Volume(double phi) => clearance + ap * (r + l - r * Math.Cos(phi) - Math.Sqrt(l * l - r * r * Math.Sin(phi) * Math.Sin(phi)));
            double Lever(double phi) => r * Math.Sin(phi) + r * r * Math.Sin(phi) * Math.Cos(phi) / Math.Sqrt(l * l - r * r * Math.Sin(phi) * Math.Sin(phi));
            static double Cv(double t) => Math.Max(700, 718 + 0.17 * (t - 300));
            static double Flow(double a, double p1, double t1, double p2, double t2) => p1 >= p2 ? 0.68473 * a * p1 / Math.Sqrt(R * t1) * LeakFlow.Factor(p2 / p1) : -0.68473 * a * p2 / Math.Sqrt(R * t2) * LeakFlow.Factor(p1 / p2);

            var theta = 200 * Math.PI / 180;
            double omega = 0, amps = 0, t = 0;
            var (p, k, v) = (pa, (wall + ta) / 2, Volume(theta));
            var m = p * v / (R * k);
            var manifold = pa * e.ManifoldM3 / (R * tm);
            var headM3 = kit.HoseM3 + kit.HeadM3;
            var held = pa * headM3 / (R * ta);
            var seen = 0;
            var last = theta;
            while (true)
            {
                var dt = Math.Min(stepDeg * Math.PI / 180 / Math.Max(Math.Abs(omega), 1e-9), 0.8e-3 * stepDeg);
                var push = (p - pa) * ap * Lever(theta);
                amps = Math.Max(0, (amps + dt / e.InductanceH * (e.BatteryV - e.MotorConstantVs * omega)) / (1 + dt * circuit / e.InductanceH));
                var starter = Math.Max(0, e.Efficiency * e.MotorConstantVs * (amps - e.IdleCurrentA));
                var after = omega + dt / e.InertiaKgM2 * (starter + push - (e.FrictionNm + e.DragNms * Math.Abs(omega)) * Math.Tanh(omega / 0.3));
                var next = theta + dt * (omega + after) / 2;
                var end = Volume(next);
                var half = (v + end) / 2;
                k *= Math.Pow(v / half, R / Cv(k));
                p = m * R * k / half;
                v = half;
                var cp = Cv(k) + R;
                var (intake, exhaust) = e.Timing.Lifts((theta + next) / 2 * 180 / Math.PI);
                var manifoldPa = manifold * R * tm / e.ManifoldM3;
                double kg = 0, joule = 0, drawn = 0;
                void Through(double area, double outside, double outsideK, bool open, bool draws)
                {
                    var f = Flow(area, outside, outsideK, p, k) * dt;
                    var up = f > 0 ? outsideK : k;
                    if (open)
                    {
                        var most = Math.Abs(outside - p) * v / ((1 + R / Cv(k)) * R * up);
                        f = Math.Clamp(f, -most, most);
                    }
                    f = Math.Max(f, -0.4 * m);
                    kg += f;
                    joule += f * cp * up;
                    drawn += draws ? f : 0;
                }
                Through(e.ValveLeakM2 + e.IntakeAreaM2 * intake, manifoldPa, tm, intake > 0, true);
                Through(e.ValveLeakM2 + e.ExhaustAreaM2 * exhaust, pa, wall, exhaust > 0, false);
                Through(e.RingLeakM2, pa, wall, false, false);
                var gauge = held * R * ta / headM3 + kit.OpensPa;
                if (p > gauge)
                {
                    var f = Math.Min(Flow(kit.CheckValveM2, p, k, gauge, ta) * dt, 0.3 * m);
                    held += f;
                    kg -= f;
                    joule -= f * cp * k;
                }
                var cv = Cv(k);
                var mass = m + kg;
                k = Math.Max(150, (m * cv * k + joule) / (mass * cv));
                m = mass;
                var h = 2.2 * 130 * Math.Pow(e.StrokeM * Math.Abs(after) / Math.PI + 1.4, 0.8) * Math.Pow(m * R * k / v * 1e-5, 0.8) * Math.Pow(k, -0.4) * Math.Pow(v, -0.06);
                k = wall + (k - wall) * Math.Exp(-h * (2 * ap + 4 * Math.Max(v - clearance, 0) / e.BoreM) * dt / (m * cv));
                k *= Math.Pow(v / end, R / cv);
                v = end;
                p = m * R * k / v;
                var most2 = (pa - manifoldPa) * e.ManifoldM3 / (R * tm);
                var by = Flow(e.ThrottleM2, pa, ta, manifoldPa, tm) * dt;
                manifold += (most2 >= 0 ? Math.Clamp(by, 0, most2) : Math.Clamp(by, most2, 0)) - drawn;
                (theta, omega, t) = (next, after, t + dt);
                var turned = theta - 4 * Math.PI * Math.Floor(theta / (4 * Math.PI));
                if (last < Math.PI / 2 && turned >= Math.PI / 2 && turned < Math.PI && ++seen == pulses)
                {
                    return held * R * ta / headM3 - pa;
                }
                last = turned;
            }
        }
    }
}
