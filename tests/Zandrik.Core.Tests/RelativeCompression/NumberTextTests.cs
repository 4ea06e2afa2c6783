using System.Globalization;
using System.Text;
using CsCheck;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class NumberTextTests
{
    private static (bool Taken, double Value) Read(string text, bool comma = false) => (NumberText.Read(Encoding.UTF8.GetBytes(text), comma, out var value), value);

    [Fact]
    public void A_number_is_what_the_framework_reads()
    {
        Gen.Select(Gen.Double[-1e9, 1e9], Gen.OneOf(Gen.Const("0.######"), Gen.Const("0.000"), Gen.Const("E6"), Gen.Const("G9"), Gen.Const("F12"))).Sample((value, format) =>
        {
            var text = value.ToString(format, CultureInfo.InvariantCulture);
            var expected = double.Parse(text, CultureInfo.InvariantCulture);
            Read(text).Value.ShouldBe(expected, 1e-12 * Math.Abs(expected) + 1e-300);
            Read(text.Replace('.', ','), comma: true).Value.ShouldBe(expected, 1e-12 * Math.Abs(expected) + 1e-300);
        }, iter: 2000);
    }

    [Fact]
    public void A_plain_number_read_in_passing_is_the_same_and_ends_where_it_ends()
    {
        Gen.Select(Gen.Double[-1e6, 1e6], Gen.Int[0, 9]).Sample((value, places) =>
        {
            var text = value.ToString("F" + places, CultureInfo.InvariantCulture);
            var bytes = Encoding.UTF8.GetBytes("7;" + text + ";\n");
            var at = 2;
            NumberText.ReadPlain(ref bytes[0], ref at, (byte)'.', out var read).ShouldBeTrue();
            read.ShouldBe(Read(text).Value);
            at.ShouldBe(2 + text.Length);
        }, iter: 1000);
        var start = 0;
        NumberText.ReadPlain(ref "-\n"u8.ToArray()[0], ref start, (byte)'.', out _).ShouldBeFalse();
        start = 0;
        NumberText.ReadPlain(ref "12345678901234567890\n"u8.ToArray()[0], ref start, (byte)'.', out _).ShouldBeFalse();
    }

    [Theory]
    [InlineData("")]
    [InlineData("  ")]
    [InlineData("NaN")]
    [InlineData("-Inf")]
    [InlineData("∞")]
    [InlineData("OL")]
    [InlineData("Overload")]
    [InlineData("----")]
    [InlineData("#####")]
    [InlineData("1e99")]
    [InlineData("1.#QNAN")]
    public void No_sample_is_no_mistake(string text)
    {
        var (taken, value) = Read(text);
        taken.ShouldBeTrue();
        value.ShouldBe(double.NaN);
    }

    [Theory]
    [InlineData("twelve")]
    [InlineData("1.2.3")]
    [InlineData("1,2")]
    [InlineData("3 V")]
    [InlineData("0x12")]
    [InlineData("1e")]
    [InlineData("e5")]
    [InlineData("a line of words that goes on")]
    public void Words_are_a_mistake(string text) => Read(text).Taken.ShouldBeFalse();

    [Theory]
    [InlineData(" 1.5 ", 1.5)]
    [InlineData("\"-2\"", -2)]
    [InlineData("+3", 3)]
    [InlineData(".5", 0.5)]
    [InlineData("-.25e1", -2.5)]
    [InlineData("1E-3", 0.001)]
    [InlineData("123456789012345678901234", 123456789012345678901234.0)]
    public void Numbers_are_taken_as_they_are_written(string text, double value) => Read(text).Value.ShouldBe(value, 1e-12 * Math.Abs(value));
}
