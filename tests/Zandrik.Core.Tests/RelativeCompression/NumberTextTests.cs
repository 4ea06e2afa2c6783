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
        // What follows may be anything, above all bytes near the digits and beyond ASCII: they end the number, eight at a time or one by one.
        Gen.Select(Gen.Double[-1e6, 1e6], Gen.Int[0, 11], Gen.Byte.Array[0, 60], Gen.OneOf(Gen.Const((byte)';'), Gen.Const((byte)'/'), Gen.Const((byte)':'), Gen.Const((byte)0xBA), Gen.Const((byte)0xFF))).Sample((value, places, rest, end) =>
        {
            var text = value.ToString("F" + places, CultureInfo.InvariantCulture);
            byte[] bytes = [(byte)'7', (byte)';', .. Encoding.UTF8.GetBytes(text), end, .. rest, (byte)'\n'];
            foreach (var ahead in new[] { false, bytes.Length - 2 > NumberText.Ahead })
            {
                var at = 2;
                NumberText.ReadPlain(ref bytes[0], ref at, (byte)'.', ahead, out var read).ShouldBeTrue();
                read.ShouldBe(Read(text).Value);
                at.ShouldBe(2 + text.Length);
            }
        }, iter: 2000);
        var start = 0;
        NumberText.ReadPlain(ref "-\n"u8.ToArray()[0], ref start, (byte)'.', false, out _).ShouldBeFalse();
        foreach (var (text, ahead) in new[] { ("12345678901234567890\n", false), ("12345678901.1234567890" + new string('\n', 60), true), ("1.12345678901234567890" + new string('\n', 60), true) })
        {
            start = 0;
            NumberText.ReadPlain(ref Encoding.UTF8.GetBytes(text)[0], ref start, (byte)'.', ahead, out _).ShouldBeFalse("more digits than fit");
        }
    }

    [Fact]
    public void A_cell_is_passed_over_to_the_delimiter_or_the_end_of_the_line_and_no_further() =>
        Gen.Select(Gen.Byte.Array[0, 90], Gen.OneOf(Gen.Const((byte)','), Gen.Const((byte)';'), Gen.Const((byte)'\t'))).Sample((cell, delimiter) =>
        {
            byte[] bytes = [.. cell, (byte)'\n'];
            var end = Array.FindIndex(bytes, b => b == delimiter || b <= '\r');
            foreach (var ahead in new[] { false, bytes.Length > NumberText.Ahead })
            {
                var at = 0;
                NumberText.Skip(ref bytes[0], ref at, delimiter, ahead);
                at.ShouldBe(end);
            }
        }, iter: 2000);

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
