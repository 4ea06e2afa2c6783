using CsCheck;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Instruments.Tests.Protocol;

public sealed class MessageUnitTests
{
    private static string Written(string line)
    {
        var (units, error) = MessageUnit.Read(line);
        return string.Join(" | ", units.Select(u => string.Join(':', u.Path) + (u.IsQuery ? "?" : "") + (u.Parameters.Count > 0 ? " " + string.Join(" , ", u.Parameters) : ""))) + (error.Code == 0 ? "" : $" !{error.Code}");
    }

    [Theory]
    [InlineData("*IDN?", "*IDN?")]
    [InlineData("MEAS:PRES?", "MEAS:PRES?")]
    [InlineData(":meas:pres?;*CLS", "meas:pres? | *CLS")]
    // Behind a semicolon the branch of the command before goes on, and a common command leaves it as it is.
    [InlineData("FETC:PRES:PEAK?;FIRS?;*OPC?;FIRS?;:FETC:COUN?", "FETC:PRES:PEAK? | FETC:PRES:FIRS? | *OPC? | FETC:PRES:FIRS? | FETC:COUN?")]
    [InlineData("ACQ:RATE 5 kHz", "ACQ:RATE 5 kHz")]
    [InlineData("SIM:FAUL 3, EXH ,1.5", "SIM:FAUL 3 , EXH , 1.5")]
    [InlineData("A \"x;y,z\";B", "A x;y,z | B")]
    [InlineData("", "")]
    [InlineData(" ; ;", "")]
    [InlineData("A::B?", " !-102")]
    [InlineData("MEAS:PRES?;what!?", "MEAS:PRES? !-102")]
    [InlineData("A \"open", " !-102")]
    [InlineData("caf\u00e9?", " !-101")]
    public void A_line_is_taken_apart_as_the_standard_has_it(string line, string as_) => Written(line).ShouldBe(as_);

    [Fact]
    public void No_line_whatever_breaks_it() =>
        Gen.String[Gen.Char['\0', '\u00ff'], 0, 200].Sample(line => MessageUnit.Read(line).Units.All(u => u.Path.Count > 0 && u.Path.All(w => w.Length > 0)));

    [Theory]
    [InlineData("FETCh:PRESsure:PEAK?", "fetc:pres:peak?", true)]
    [InlineData("FETCh:PRESsure:PEAK?", "FETCH:PRESSURE:PEAK?", true)]
    [InlineData("FETCh:PRESsure:PEAK?", "FETCH:PRES:PEAK?", true)]
    // Nothing between the short and the long form.
    [InlineData("FETCh:PRESsure:PEAK?", "FETCH:PRESS:PEAK?", false)]
    [InlineData("FETCh:PRESsure:PEAK?", "FETC:PRES:PEAK", false)]
    [InlineData("PRESsure:RELease", "PRES:REL", true)]
    [InlineData("*IDN?", "*idn?", true)]
    public void A_command_is_known_by_its_short_and_its_long_form(string pattern, string written, bool known)
    {
        var unit = MessageUnit.Read(written).Units.ShouldHaveSingleItem();
        new CommandPattern(pattern).Is(unit.Path, unit.IsQuery).ShouldBe(known);
    }
}
