using System.Text;
using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Devices;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Instruments.Tests.Protocol;

/// <summary>What every instrument has, and what it says of slips.</summary>
public sealed class DeviceTests
{
    private readonly ClampRecorder device = new(new SimulatedBench(new HandClock()), new HandClock());
    private readonly ClientSession session = new();

    private string Run(string line) => Encoding.ASCII.GetString(device.Run(session, line).Answer);

    [Fact]
    public void The_common_commands_answer()
    {
        Run("*IDN?").ShouldBe("Zandrik,Simulated clamp recorder,SIM-C1,1");
        Run("*ESR?").ShouldBe("128", "switched on since it was last asked");
        Run("*OPC;*ESR?").ShouldBe("1");
        Run("*OPC?;*ESR?").ShouldBe("1;0");
        Run("SYST:ERR?").ShouldBe("0,\"No error\"");
        Run("ACQ:RATE 250;RATE?;*RST;:ACQ:RATE?").ShouldBe("250.0;5000.0");
    }

    [Theory]
    [InlineData("NOTHING:SUCH?", -113, EventStatus.CommandError)]
    [InlineData("ACQ:RATE?;;%", -102, EventStatus.CommandError)]
    [InlineData("ACQ:RATE", -109, EventStatus.CommandError)]
    [InlineData("ACQ:RATE 1,2", -108, EventStatus.CommandError)]
    [InlineData("ACQ:RATE fast", -104, EventStatus.CommandError)]
    [InlineData("ACQ:RATE 5 MPH", -131, EventStatus.CommandError)]
    [InlineData("ACQ:RATE 50 kHz", -222, EventStatus.ExecutionError)]
    [InlineData("SIM:ENG W12", -224, EventStatus.ExecutionError)]
    [InlineData("ACQ:STOP", -221, EventStatus.ExecutionError)]
    [InlineData("TRAC:CURR?", -230, EventStatus.ExecutionError)]
    [InlineData("SIM:FAUL 1,GASK,1,3", -221, EventStatus.ExecutionError)]
    public void A_slip_is_told_by_its_number_and_its_kind(string line, int code, EventStatus status)
    {
        session.Clear();
        Run(line);
        Run("SYST:ERR?").ShouldStartWith($"{code},");
        Run("SYST:ERR?").ShouldBe("0,\"No error\"");
        Run("*ESR?").ShouldBe($"{(int)status}");
        device.Run(session, "ACQ:RATE?").Answer.ShouldBe("5000.0"u8.ToArray(), "nothing was changed by it");
    }

    [Fact]
    public void Errors_come_oldest_first_and_too_many_are_said_to_be_so()
    {
        for (var i = 0; i < ClientSession.MostErrors + 5; i++)
        {
            Run(i == 0 ? "ACQ:RATE fast" : "WHAT");
        }
        Run("SYST:ERR:COUN?").ShouldBe($"{ClientSession.MostErrors}");
        var told = Enumerable.Range(0, ClientSession.MostErrors).Select(_ => Run("SYST:ERR?")).ToList();
        told[0].ShouldStartWith("-104,");
        told[1..^1].ShouldAllBe(t => t.StartsWith("-113,"));
        told[^1].ShouldBe("-350,\"Queue overflow\"");
        Run("SYST:ERR?").ShouldStartWith("0,");
        Run("WHAT;*IDN?").ShouldBe("", "what stands behind a command that nobody understands is not carried out");
        Run("*CLS;SYST:ERR?;*ESR?").ShouldBe("0,\"No error\";0");
    }

    [Fact]
    public void A_client_reads_of_its_own_slips_only()
    {
        var other = new ClientSession();
        device.Run(other, "WHAT");
        Run("SYST:ERR?").ShouldStartWith("0,");
        Encoding.ASCII.GetString(device.Run(other, "SYST:ERR?").Answer).ShouldStartWith("-113,");
    }

    [Fact]
    public void Numbers_take_their_units()
    {
        Run("ACQ:RATE 2 kHz;RATE?").ShouldBe("2000.0");
        Run("ACQ:RATE 1e3;RATE?").ShouldBe("1000.0");
        Run("acquire:rate 500hz;rate?").ShouldBe("500.0");
    }
}
