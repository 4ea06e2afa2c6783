using System.Text;
using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Devices;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Instruments.Tests.Devices;

/// <summary>The dialogue in docs/instruments.md is what the instruments say, letter for letter, and the tables there have every command.</summary>
public sealed class ExampleDialogueTests
{
    private static readonly string Doc = File.ReadAllText(Path.Combine(Repository.Root, "docs", "instruments.md")).ReplaceLineEndings("\n");

    [Fact]
    public void The_example_is_what_they_say()
    {
        var clock = new HandClock();
        var bench = new SimulatedBench(clock);
        var session = new ClientSession();
        var text = new StringBuilder();
        void Say(Device device, params string[] lines)
        {
            foreach (var line in lines)
            {
                if (line.StartsWith('('))
                {
                    clock.Advance(double.Parse(line.Trim('(', ')', 's', ' '), System.Globalization.CultureInfo.InvariantCulture));
                    text.Append(line).Append('\n');
                    continue;
                }
                text.Append("> ").Append(line).Append('\n');
                var answer = Encoding.Latin1.GetString(device.Run(session, line).Answer);
                // Of a block its head, which says how long it is.
                text.Append(answer.Length == 0 ? "" : answer[0] == '#' ? $"< {answer[..(2 + answer[1] - '0')]}…\n" : $"< {answer}\n");
            }
        }
        var gauge = new CompressionGauge(bench);
        Say(gauge, "*IDN?", "*RST;:SIM:CLE", "PRES:REL", "SIM:FAUL 3,EXH,1;:SIM:CYL 3;CRAN 6", "( 0.3 s )", "MEAS:PRES?;:FETC:COUN?", "( 5 s )", "FETC:COUN?;PRES:FIRS?;PEAK?", "FETC:PRES:PULS?", "TRAC:RATE?", "TRAC:PRES?", "UNIT:PRES BAR;:FETC:PRES:PEAK?", "FETC:PEEK?", "SYST:ERR?", "SYST:ERR?");
        text.Append('\n');
        Say(new LeakTester(bench), "*IDN?", "SIM:CYL 3;AIR ON", "( 2 s )", "MEAS:PRES:SUPP?;HELD?", "SIM:AIR OFF");
        text.Append('\n');
        Say(new ClampRecorder(bench, clock), "*IDN?", "ACQ:RATE 2 kHz;STAR", "SIM:CRAN", "( 5 s )", "ACQ:STOP;STAT?", "TRAC:CURR?", "TRAC:SYNC?");
        Doc.Split("```dialogue\n")[1].Split("```")[0].ShouldBe(text.ToString());
    }

    [Fact]
    public void Every_command_stands_in_the_tables()
    {
        var bench = new SimulatedBench(TimeProvider.System);
        foreach (var command in new Device[] { new CompressionGauge(bench), new LeakTester(bench), new ClampRecorder(bench, TimeProvider.System) }.SelectMany(d => d.Commands).Distinct())
        {
            Doc.ShouldContain($"`{command}");
        }
    }
}
