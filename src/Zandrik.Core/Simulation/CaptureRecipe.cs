namespace Zandrik.Core.Simulation;

/// <summary>What the second channel of a simulated capture carries.</summary>
public enum SyncSignal
{
    /// <summary>No second channel.</summary>
    None,

    /// <summary>A pulse once a cycle, at cylinder 1.</summary>
    EveryCycle,

    /// <summary>A pulse each turn; the one at the end of compression is the higher.</summary>
    WasteSpark,

    /// <summary>A dip once a cycle with a flyback spike behind it, on a moving battery voltage.</summary>
    Injector,
}

/// <summary>How a simulated capture is recorded: the instrument, and what may be wrong with it.</summary>
public sealed record CaptureRecipe
{
    /// <summary>Samples a second.</summary>
    public double SampleRateHz { get; init; } = 20_000;

    /// <summary>Quiet time before the starter is engaged, s.</summary>
    public double LeadS { get; init; } = 0.4;

    /// <summary>Quiet time after it is let go, s.</summary>
    public double TailS { get; init; } = 0.3;

    /// <summary>How far the clamp is off zero, A.</summary>
    public double OffsetA { get; init; }

    /// <summary>How much its zero drifts, A per second.</summary>
    public double DriftAPerS { get; init; }

    /// <summary>True for a clamp put on the wrong way round.</summary>
    public bool Reversed { get; init; }

    /// <summary>Random noise, A (standard deviation).</summary>
    public double NoiseA { get; init; } = 2;

    /// <summary>Ripple of the commutator, A.</summary>
    public double RippleA { get; init; } = 4;

    /// <summary>The instrument's range, ± A; what is beyond is clipped.</summary>
    public double RangeA { get; init; } = 2000;

    /// <summary>Resolution of the instrument over its range, bits.</summary>
    public int Bits { get; init; } = 12;

    /// <summary>What the second channel carries.</summary>
    public SyncSignal Sync { get; init; } = SyncSignal.EveryCycle;

    /// <summary>The cylinder the event belongs to.</summary>
    public int SyncCylinder { get; init; } = 1;

    /// <summary>Where the event stands, degrees before top dead centre.</summary>
    public double SyncBeforeDeg { get; init; } = 6;

    /// <summary>Share of events that are missing.</summary>
    public double SyncMissing { get; init; }

    /// <summary>Share of cycles with an event too many.</summary>
    public double SyncExtra { get; init; }

    /// <summary>Height of the waste-spark event on the exhaust stroke against that on compression, a share of it.</summary>
    public double WasteHeight { get; init; } = 0.6;

    /// <summary>Second after the start at which the engine fires and runs on its own; absent when it does not.</summary>
    public double? FiresAtS { get; init; }

    /// <summary>Seed of everything random.</summary>
    public int Seed { get; init; } = 1;
}

/// <summary>A simulated capture, sampled evenly.</summary>
/// <param name="IntervalS">Time between samples, s.</param>
/// <param name="CurrentA">What the clamp shows, A.</param>
/// <param name="SyncV">The second channel, V; empty without one.</param>
/// <param name="BatteryV">Battery voltage, V.</param>
public sealed record SimulatedCapture(double IntervalS, double[] CurrentA, double[] SyncV, double[] BatteryV)
{
    /// <summary>Records a run of the crank.</summary>
    /// <returns>The capture; the same for the same run and recipe.</returns>
    public static SimulatedCapture Of(SimulatedEngine engine, ICrankCourse run, CaptureRecipe how)
    {
        var chance = new Random(how.Seed);
        var interval = 1 / how.SampleRateHz;
        var count = (int)((how.LeadS + run.TimeS[^1] + how.TailS) * how.SampleRateHz);
        var (current, battery) = (new double[count], new double[count]);
        var sync = how.Sync == SyncSignal.None ? [] : new double[count];
        var crank = new double[count];
        var step = how.RangeA * 2 / Math.Pow(2, how.Bits);
        var released = run.CurrentA[^1];
        var at = 0;
        for (var i = 0; i < count; i++)
        {
            var t = i * interval - how.LeadS;
            double amps = 0, volt = engine.BatteryV;
            crank[i] = double.NaN;
            if (t > 0 && t <= run.TimeS[^1])
            {
                while (at + 1 < run.TimeS.Count && run.TimeS[at + 1] < t)
                {
                    at++;
                }
                var next = Math.Min(at + 1, run.TimeS.Count - 1);
                var share = run.TimeS[next] > run.TimeS[at] ? Math.Clamp((t - run.TimeS[at]) / (run.TimeS[next] - run.TimeS[at]), 0, 1) : 0;
                amps = run.CurrentA[at] + share * (run.CurrentA[next] - run.CurrentA[at]);
                volt = run.BatteryV[at] + share * (run.BatteryV[next] - run.BatteryV[at]);
                crank[i] = run.CrankRad[at] + share * (run.CrankRad[next] - run.CrankRad[at]);
                amps += how.RippleA * Math.Sin(crank[i] * 38);
                if (how.FiresAtS is { } fires && t > fires)
                {
                    // The engine overruns the starter, which turns on without load.
                    var gone = Math.Exp(-(t - fires) / 0.03);
                    amps = gone * amps + (1 - gone) * engine.IdleCurrentA * 1.3;
                }
            }
            else if (t > 0)
            {
                amps = released * Math.Exp(-(t - run.TimeS[^1]) / 0.004);
            }
            amps += how.OffsetA + how.DriftAPerS * i * interval + how.NoiseA * Gauss(chance);
            amps = how.Reversed ? -amps : amps;
            current[i] = Math.Clamp(Math.Round(amps / step) * step, -how.RangeA, how.RangeA - step);
            battery[i] = volt + 0.03 * Gauss(chance);
        }
        if (sync.Length > 0)
        {
            Events(engine, how, chance, crank, battery, sync, interval);
        }
        return new SimulatedCapture(interval, current, sync, battery);
    }

    /// <summary>Writes it as the rows of a table: time in seconds, current in volts of a clamp, and the second channel where there is one.</summary>
    /// <param name="to">Where to.</param>
    /// <param name="milliVoltsPerAmp">Scale of the clamp.</param>
    /// <param name="batteryToo">True to write the battery's voltage as a further column.</param>
    public void WriteCsv(TextWriter to, double milliVoltsPerAmp = 1, bool batteryToo = false)
    {
        to.Write("Time (s),Clamp (V)");
        to.Write(SyncV.Length > 0 ? ",Sync (V)" : "");
        to.WriteLine(batteryToo ? ",Battery (V)" : "");
        for (var i = 0; i < CurrentA.Length; i++)
        {
            to.Write(string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{i * IntervalS:0.000000},{CurrentA[i] * milliVoltsPerAmp / 1000:0.00000}"));
            if (SyncV.Length > 0)
            {
                to.Write(string.Create(System.Globalization.CultureInfo.InvariantCulture, $",{SyncV[i]:0.000}"));
            }
            to.WriteLine(batteryToo ? string.Create(System.Globalization.CultureInfo.InvariantCulture, $",{BatteryV[i]:0.000}") : "");
        }
    }

    private static void Events(SimulatedEngine engine, CaptureRecipe how, Random chance, double[] crank, double[] battery, double[] sync, double interval)
    {
        for (var i = 0; i < sync.Length; i++)
        {
            sync[i] = (how.Sync == SyncSignal.Injector ? battery[i] : 0) + 0.02 * Gauss(chance);
        }
        var offset = engine.OffsetsRad()[how.SyncCylinder - 1] - how.SyncBeforeDeg * Math.PI / 180;
        var period = how.Sync == SyncSignal.WasteSpark ? 2 * Math.PI : 4 * Math.PI;
        var width = Math.Max(1, (int)(0.0015 / interval));
        for (var i = 1; i < sync.Length; i++)
        {
            if (double.IsNaN(crank[i]) || double.IsNaN(crank[i - 1]))
            {
                continue;
            }
            var turns = Math.Floor((crank[i] - offset) / period);
            var due = turns > Math.Floor((crank[i - 1] - offset) / period);
            if (due && chance.NextDouble() >= how.SyncMissing)
            {
                var height = how.Sync == SyncSignal.WasteSpark && (long)turns % 2 != 0 ? how.WasteHeight : 1;
                Event(i, height * (1 + 0.05 * Gauss(chance)));
            }
            else if (how.SyncExtra > 0 && chance.NextDouble() < how.SyncExtra * interval / 0.5)
            {
                Event(i, 1);
            }
        }

        void Event(int at, double height)
        {
            for (var j = 0; j < width && at + j < sync.Length; j++)
            {
                sync[at + j] = how.Sync == SyncSignal.Injector ? 0.4 + 0.05 * Gauss(chance) : 5 * height * Math.Exp(-3.0 * j / width);
            }
            if (how.Sync == SyncSignal.Injector)
            {
                for (var j = width; j < 2 * width && at + j < sync.Length; j++)
                {
                    sync[at + j] += 30 * Math.Exp(-6.0 * (j - width) / width);
                }
            }
        }
    }

    private static double Gauss(Random chance) => Math.Sqrt(-2 * Math.Log(1 - chance.NextDouble())) * Math.Cos(2 * Math.PI * chance.NextDouble());
}
