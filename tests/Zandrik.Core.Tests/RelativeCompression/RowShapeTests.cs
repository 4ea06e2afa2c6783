using System.Globalization;
using System.Runtime.Intrinsics;
using System.Text;
using CsCheck;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class RowShapeTests
{
    private static readonly CaptureLayout Semicolons = new() { Delimiter = ';', TimeColumn = 0, CurrentColumn = 1 };
    private static readonly int[] TimeAndCurrent = [RowBatch.Time, RowBatch.Current];

    private static byte[] Bytes(string line) => Encoding.UTF8.GetBytes(line.PadRight(RowShape.Longest, '#'));

    private static RowShape? Of(string line) => RowShape.Of(Encoding.UTF8.GetBytes(line), Semicolons, TimeAndCurrent);

    private static bool Fits(RowShape shape, string line) => shape.Fits(RowShape.DigitsBlank(Vector512.Create<byte>(Bytes(line)), out _));

    [Fact]
    public void Every_row_with_digits_at_the_same_places_fits_and_is_read_to_the_last_digit()
    {
        Gen.Select(Gen.Int[0, 99_999_999], Gen.Int[0, 7], Gen.Bool, Gen.Long[0, 99_999_999_999_999], Gen.Int[0, 13], Gen.Bool).Sample((small, smallPlaces, smallBelow, large, largePlaces, largeBelow) =>
        {
            string Written(long digits, int length, int places, bool below) =>
                (below ? "-" : "") + digits.ToString(CultureInfo.InvariantCulture).PadLeft(length, '0') is var all && places == 0 ? all : all[..^places] + "." + all[^places..];
            var (first, second) = (Written(small, 8, smallPlaces, smallBelow), Written(large, 14, largePlaces, largeBelow));
            var shape = Of($"{Zeros(first)};{Zeros(second)}\r\n")!;
            var line = $"{first};{second}\r\n";
            Fits(shape, line).ShouldBeTrue(line);
            var bytes = Bytes(line);
            shape[RowBatch.Time].Read(in bytes[0]).ShouldBe(double.Parse(first, CultureInfo.InvariantCulture), line);
            shape[RowBatch.Current].Read(in bytes[0]).ShouldBe(double.Parse(second, CultureInfo.InvariantCulture), line);
        });
    }

    [Theory]
    [InlineData("0.50;12.5\n")]
    [InlineData("0.5;-12.5\n")]
    [InlineData("0.5;12,5\n")]
    [InlineData("0.5;12.5;\n")]
    [InlineData("0.5;12.5\r\n")]
    [InlineData("0.5;1e.5\n")]
    public void A_row_that_is_written_otherwise_does_not(string other)
    {
        var shape = Of("0.5;99.5\n")!;
        Fits(shape, "7.1;12.5\n").ShouldBeTrue();
        Fits(shape, other).ShouldBeFalse();
        Fits(RowShape.OfNone, other).ShouldBeFalse();
    }

    [Theory]
    [InlineData("0.5;-12.345678901234567\n", "too wide")]
    [InlineData("0.5;NaN\n", "no number")]
    [InlineData("0.5;1.2.3\n", "two marks")]
    [InlineData("0.5;+3\n", "left to the slow way")]
    [InlineData("0.5;-\n", "no digit")]
    [InlineData("0.5;1.5;a column of words that goes on and on and on beyond sixty-four\n", "too long")]
    public void What_is_not_plain_has_no_shape(string line, string why) => Of(line).ShouldBeNull(why);

    [Fact]
    public void Where_every_row_has_another_shape_learning_stops_and_goes_on_with_rows_that_fit()
    {
        var shapes = new RowShapes();
        bool Known(string line) => shapes.Find(Vector512.Create<byte>(Bytes(line)), out _) >= 0;
        string Row(int digits) => $"0.{new string('1', digits % 13 + 1)};{new string('2', digits / 13 + 1)}\n";
        for (var i = 0; i < 150; i++)
        {
            shapes.Learn(Encoding.UTF8.GetBytes(Row(i)), Semicolons, TimeAndCurrent);
        }
        Known(Row(149)).ShouldBeFalse("learning stopped before");
        shapes.Fitted(100_000);
        shapes.Learn(Encoding.UTF8.GetBytes(Row(149)), Semicolons, TimeAndCurrent);
        Known(Row(149)).ShouldBeTrue();
        shapes.Find(Vector512.Create<byte>(Bytes(Row(149))), out var length);
        length.ShouldBe(Row(149).Length);
    }

    private static string Zeros(string number) => string.Concat(number.Select(c => char.IsAsciiDigit(c) ? '0' : c));
}
