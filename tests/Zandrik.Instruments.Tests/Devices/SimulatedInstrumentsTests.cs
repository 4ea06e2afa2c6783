using System.Text;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;
using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Devices;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Instruments.Tests.Devices;

/// <summary>What the instruments show is what the engine model says, at the moment it would show it.</summary>
public sealed class SimulatedInstrumentsTests
{
    private readonly HandClock clock = new();
    private readonly ClientSession session = new();
    private readonly SimulatedBench bench;
    private readonly CompressionGauge gauge;
    private readonly LeakTester tester;
    private readonly ClampRecorder recorder;

    public SimulatedInstrumentsTests()
    {
        bench = new(clock);
        (gauge, tester, recorder) = (new(bench), new(bench), new(bench, clock));
    }

    private string Run(Device device, string line)
    {
        var answer = Encoding.Latin1.GetString(device.Run(session, line).Answer);
        session.Next().Code.ShouldBe(0, line);
        return answer;
    }

    private double Figure(Device device, string line) => double.Parse(Run(device, line), System.Globalization.CultureInfo.InvariantCulture);

    private static double[] Block(string answer)
    {
        var bytes = Encoding.Latin1.GetBytes(answer);
        var head = 2 + bytes[1] - '0';
        return [.. Enumerable.Range(0, (bytes.Length - head) / 4).Select(i => (double)BitConverter.ToSingle(bytes, head + 4 * i))];
    }

    [Fact]
    public void The_needle_climbs_pulse_by_pulse_to_what_the_model_reads()
    {
        var model = GaugeRun.Of(new EngineUnderTest(SimulatedEngine.InlineFour), new GaugeTest { Cylinder = 2, Pulses = 8 });
        Run(gauge, "SIM:CYL 2;CRAN 8");
        var (last, counts) = (0.0, new List<double>());
        for (var t = 0.0; t < model.Seconds + 0.5; t += 0.1)
        {
            var needle = Figure(gauge, "MEAS:PRES?");
            needle.ShouldBeGreaterThanOrEqualTo(last - 0.11);
            needle.ShouldBeLessThanOrEqualTo(Figure(gauge, "FETC:PRES:PEAK?") + 0.11, "the needle is behind what the gauge holds");
            (last, _) = (needle, counts.Count);
            counts.Add(Figure(gauge, "FETC:COUN?"));
            clock.Advance(0.1);
        }
        counts.ShouldBe(counts.Order());
        counts[^1].ShouldBe(8);
        Figure(gauge, "FETC:PRES:PEAK?").ShouldBe(model.FinalPa / PressureUnit.Psi.Pascals(), 0.06);
        Figure(gauge, "FETC:PRES:FIRS?").ShouldBe(model.FirstPa / PressureUnit.Psi.Pascals(), 0.06);
        var trace = Block(Run(gauge, "TRAC:PRES?"));
        trace.Length.ShouldBe(1 + (int)(model.Seconds * SimulatedBench.TraceHz));
        trace.Zip(trace.Skip(1)).ShouldAllBe(p => p.First <= p.Second, "a check valve lets nothing back");
        // Not bled, the next cranking begins where this one ended.
        Run(gauge, "SIM:CRAN 1");
        Figure(gauge, "MEAS:PRES?").ShouldBe(Figure(gauge, "FETC:PRES:PEAK?"), 0.2);
        clock.Advance(3);
        Run(gauge, "PRES:REL");
        Figure(gauge, "MEAS:PRES?").ShouldBe(0);
        Run(gauge, "UNIT:PRES BAR;:SIM:CRAN 8");
        clock.Advance(10);
        Figure(gauge, "FETC:PRES:PEAK?").ShouldBe(model.FinalPa / 1e5, 0.001);
    }

    [Fact]
    public void Nobody_cranks_twice_at_once_bleeds_a_turning_engine_or_turns_one_under_air()
    {
        void Refused(Device device, string line)
        {
            device.Run(session, line);
            session.Next().ShouldBe(ScpiError.SettingsConflict, line);
        }
        Run(gauge, "SIM:CRAN 4");
        Refused(gauge, "SIM:CRAN 4");
        Refused(gauge, "PRES:REL");
        Refused(tester, "SIM:AIR ON");
        Refused(recorder, "SIM:CRAN");
        clock.Advance(10);
        Run(tester, "SIM:AIR ON");
        Refused(gauge, "SIM:CRAN");
        Refused(gauge, "SIM:RUN IDLE");
    }

    [Fact]
    public void What_is_wrong_is_seen_by_each_instrument()
    {
        Run(gauge, "SIM:FAUL 3,EXH,2;:SIM:CYL 3;CRAN 8");
        clock.Advance(10);
        var broken = new EngineUnderTest(SimulatedEngine.InlineFour, new Dictionary<int, CylinderCondition> { [3] = SimulatedFault.Of(SimulatedEngine.InlineFour, Fault.ExhaustValve, 2) });
        Figure(gauge, "FETC:PRES:PEAK?").ShouldBe(GaugeRun.Of(broken, new GaugeTest { Cylinder = 3, Pulses = 8 }).FinalPa / PressureUnit.Psi.Pascals(), 0.06);
        Run(tester, "SIM:AIR ON");
        Figure(tester, "MEAS:PRES:HELD?").ShouldBe(0, 0.1, "it settles");
        clock.Advance(3);
        var (supply, held) = (Figure(tester, "MEAS:PRES:SUPP?"), Figure(tester, "MEAS:PRES:HELD?"));
        (100 * (supply - held) / supply).ShouldBe(StaticLeak.Of(broken, new StaticTest { Cylinder = 3 }).Percent, 0.1);
        Run(tester, "SIM:SUPP 6 BAR;:UNIT:PRES KPA");
        Figure(tester, "MEAS:PRES:SUPP?").ShouldBe(600);
        Run(tester, "SIM:AIR OFF");
        Figure(tester, "MEAS:PRES:HELD?").ShouldBe(0);
        Run(gauge, "SIM:FAUL?").ShouldBe("\"3:exhaust-valve\"");
        Run(gauge, "SIM:CLE;FAUL?").ShouldBe("\"\"");
    }

    [Fact]
    public void The_recorder_has_the_surge_the_humps_and_an_event_each_cycle()
    {
        Run(recorder, "ACQ:RATE 2000;STAR");
        clock.Advance(0.5);
        Run(recorder, "SIM:CRAN");
        Run(recorder, "ACQ:STAT?").ShouldBe("ACQ");
        clock.Advance(SimulatedBench.CaptureS + 0.5);
        Run(recorder, "ACQ:STOP;STAT?").ShouldBe("DONE");
        var (amps, volts) = (Block(Run(recorder, "TRAC:CURR?")), Block(Run(recorder, "TRAC:SYNC?")));
        amps.Length.ShouldBe((int)(2000 * (SimulatedBench.CaptureS + 1)));
        volts.Length.ShouldBe(amps.Length);
        amps[..900].Average().ShouldBe(0, 5);
        amps[1000..1400].Max().ShouldBeGreaterThan(500, "the surge");
        amps[4000..8000].Average().ShouldBe(161, 30);
        amps[^200..].Average().ShouldBe(0, 5);
        var events = Enumerable.Range(1, volts.Length - 1).Count(i => volts[i] > 2.5 && volts[i - 1] <= 2.5);
        events.ShouldBeInRange(6, 10, "four seconds of some 240 turns a minute");
        Block(Run(recorder, "TRAC:CURR?")).ShouldBe(amps, "what is recorded stays as it is");
    }

    [Fact]
    public void A_gauge_on_a_running_engine_shows_the_start_until_it_is_bled_then_idle_then_the_snap()
    {
        var model = RunningRun.Of([(new EngineUnderTest(SimulatedEngine.InlineFour), new RunningTest { Cylinder = 1 })])[0];
        Run(gauge, "SIM:RUN IDLE");
        clock.Advance(3);
        Figure(gauge, "FETC:PRES:PEAK?").ShouldBeGreaterThan(1.2 * model.IdlePa / PressureUnit.Psi.Pascals());
        Run(gauge, "PRES:REL");
        clock.Advance(3);
        Figure(gauge, "FETC:PRES:PEAK?").ShouldBe(model.IdlePa / PressureUnit.Psi.Pascals(), 0.2);
        Run(gauge, "SIM:RUN SNAP");
        clock.Advance(3);
        Figure(gauge, "FETC:PRES:PEAK?").ShouldBe(model.SnapPa / PressureUnit.Psi.Pascals(), 0.2);
        var trace = Block(Run(gauge, "TRAC:PRES?"));
        trace[0].ShouldBe((float)(model.IdlePa / PressureUnit.Psi.Pascals()), 0.2f, "the trace begins at the snap");
        trace[^1].ShouldBe((float)(model.SnapPa / PressureUnit.Psi.Pascals()), 0.2f);
    }
}
