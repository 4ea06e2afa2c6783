using System.Globalization;
using System.Text;
using CsCheck;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class RowBatchTests
{
    private static readonly int[] RoleOf = [RowBatch.Time, 0, RowBatch.Current, RowBatch.Sync, RowBatch.Battery];

    private static CaptureLayout Layout(bool comma) => new()
    {
        Delimiter = ';',
        DecimalComma = comma,
        TimeColumn = 0,
        CurrentColumn = 2,
        AmpsPerUnit = 1000,
        SyncColumn = 3,
        BatteryColumn = 4,
        VoltsPerUnit = 0.5,
    };

    private static RowBatch Whole(string text, bool comma)
    {
        var batch = new RowBatch(Layout(comma), RoleOf);
        batch.Whole(Encoding.UTF8.GetBytes(text));
        return batch;
    }

    private static RowBatch LineByLine(string text, bool comma)
    {
        var batch = new RowBatch(Layout(comma), RoleOf);
        foreach (var line in text.Split('\n')[..^1])
        {
            batch.Line(Encoding.UTF8.GetBytes(line.TrimEnd('\r')), tooLong: false, header: false);
        }
        return batch;
    }

    private static void ShouldBeAlike(RowBatch whole, RowBatch lines)
    {
        whole.Amps.ToArray().ShouldBe(lines.Amps.ToArray());
        whole.Syncs.ToArray().ShouldBe(lines.Syncs.ToArray());
        whole.Volts.ToArray().ShouldBe(lines.Volts.ToArray());
        whole.Times.ShouldBe(lines.Times);
        (whole.Lines, whole.Bad, whole.FirstBadLine, whole.FirstBad).ShouldBe((lines.Lines, lines.Bad, lines.FirstBadLine, lines.FirstBad));
    }

    // The quick ways (a row's shape, numbers as bytes go by) against the slow one, which asks each byte what it is.
    [Fact]
    public void Rows_read_at_once_are_the_same_as_line_by_line()
    {
        var number = Gen.Select(Gen.Double[-2000, 2000], Gen.OneOf(Gen.Const("F0"), Gen.Const("F1"), Gen.Const("F3"), Gen.Const("F5"), Gen.Const("F9"), Gen.Const("E3"), Gen.Const("G12")), (value, format) => value.ToString(format, CultureInfo.InvariantCulture));
        var odd = Gen.OneOf(Gen.Const("NaN"), Gen.Const(""), Gen.Const("OL"), Gen.Const("12a"), Gen.Const("1.2.3"), Gen.Const("+4"), Gen.Const("-"), Gen.Const("."), Gen.Const("5."), Gen.Const(".5"), Gen.Const(" 7 "), Gen.Const("-0"), Gen.Const("--3"), Gen.Const("3-4"), Gen.Const("12345678901234567890"));
        var cell = Gen.Frequency((40, number), (1, odd));
        var row = Gen.Select(cell.Array[5], Gen.OneOf(Gen.Const(""), Gen.Const(";x"), Gen.Const(";7;8"), Gen.Const(";" + new string('y', 70))), (cells, rest) => string.Join(';', cells) + rest);
        var line = Gen.Frequency((30, row), (1, Gen.Const("# a remark")), (1, Gen.Const("")), (1, Gen.Const("1;2")), (1, Gen.Const("words")));
        // The same few lines again and again, as an instrument writes them, and each only once.
        Gen.Select(line.Array[1, 12], Gen.Int[0, 11].Array[1, 400], Gen.Bool, Gen.Bool).Sample((kinds, order, carriage, comma) =>
        {
            var text = string.Concat(order.Select((o, i) => Turned(kinds[o % kinds.Length], i) + (carriage ? "\r\n" : "\n")));
            text = comma ? text.Replace('.', ',') : text;
            ShouldBeAlike(Whole(text, comma), LineByLine(text, comma));
        }, iter: 400);
    }

    [Fact]
    public void A_shape_is_not_taken_for_another_with_digits_at_the_same_places()
    {
        // Sign for mark, mark for sign, delimiter for mark: all the same to an eye that only sees digits.
        var text = new StringBuilder();
        for (var i = 0; i < 60; i++)
        {
            text.Append("0.5;9;1.25;2.5;12.5\n").Append("0.5;9;1-25;2.5;12.5\n").Append("0.5;9;1.25;2;5;12.5\n").Append("0.5;9;-125;2.5;12.5\n").Append("0.5;9;+125;2.5;12.5\n");
        }
        var whole = Whole(text.ToString(), comma: false);
        ShouldBeAlike(whole, LineByLine(text.ToString(), comma: false));
        whole.Amps[..5].ToArray().ShouldBe([1250, double.NaN, 1250, -125_000, 125_000]);
        whole.Bad.ShouldBe(60);
    }

    // Every row with other digits, in the same shape.
    private static string Turned(string line, int by) => string.Concat(line.Select(c => char.IsAsciiDigit(c) ? (char)('0' + (c - '0' + by) % 10) : c));
}
