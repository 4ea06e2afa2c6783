using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Units;

public sealed class PressureTests
{
    [Theory]
    [InlineData(PressureUnit.Bar, 14.50377)]
    [InlineData(PressureUnit.KPa, 0.1450377)]
    [InlineData(PressureUnit.KgfPerCm2, 14.22334)]
    public void Factors_are_those_of_the_trade(PressureUnit unit, double psi) =>
        new GaugePressure(1, unit).In(PressureUnit.Psi).ShouldBe(psi, psi * 1e-6);

    [Theory]
    [InlineData(205, PressureUnit.Psi, PressureUnit.Psi, "205")]
    [InlineData(205, PressureUnit.Psi, PressureUnit.Bar, "14.1")]
    [InlineData(205, PressureUnit.Psi, PressureUnit.KPa, "1413")]
    [InlineData(205, PressureUnit.Psi, PressureUnit.KgfPerCm2, "14.4")]
    [InlineData(12.25, PressureUnit.Bar, PressureUnit.Bar, "12.25")]
    [InlineData(12, PressureUnit.Bar, PressureUnit.Bar, "12.0")]
    [InlineData(199.5, PressureUnit.Psi, PressureUnit.Psi, "199.5")]
    public void Figures_are_shown_as_read_or_as_a_gauge_would_show_them(double value, PressureUnit from, PressureUnit to, string text) =>
        new GaugePressure(value, from).Text(to).ShouldBe(text);

    [Theory]
    [InlineData("165", 165)]
    [InlineData(" 11,4 ", 11.4)]
    [InlineData("0", 0)]
    [InlineData("1450", 1450)]
    public void Typed_figures_are_read_with_point_or_comma(string typed, double value) =>
        PressureEntry.Read(typed, PressureUnit.Psi).Pressure!.Value.Value.ShouldBe(value);

    [Theory]
    [InlineData(null, "Type the reading first")]
    [InlineData("  ", "Type the reading first")]
    [InlineData("abc", "not a number")]
    [InlineData("1.2.3", "not a number")]
    [InlineData("1e3", "not a number")]
    [InlineData("NaN", "not a number")]
    [InlineData("99999999999999", "not a number")]
    [InlineData("-5", "below zero")]
    [InlineData("1451", "no cylinder reads")]
    public void What_cannot_be_a_reading_gets_a_message_that_says_what_to_do(string? typed, string says)
    {
        var entry = PressureEntry.Read(typed, PressureUnit.Psi);
        entry.Pressure.ShouldBeNull();
        entry.Problem!.ShouldContain(says);
    }

    [Fact]
    public void A_hundred_bar_is_the_last_figure_taken_in_bar()
    {
        PressureEntry.Read("100", PressureUnit.Bar).Problem.ShouldBeNull();
        PressureEntry.Read("100.1", PressureUnit.Bar).Problem.ShouldNotBeNull();
    }

    [Theory]
    [InlineData("175-180")]
    [InlineData("175 180")]
    [InlineData("175 – 180")]
    [InlineData("175/180")]
    public void Two_figures_in_one_are_asked_about(string typed) => PressureEntry.Read(typed, PressureUnit.Psi).Problem.ShouldBe("175 or 180? Type the one that counts.");
}
