using System.Globalization;
using System.IO.Compression;
using System.Text;
using CsCheck;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class CaptureFileTests
{
    // Two milliseconds between rows; current 10, 20, 30, 40 A; sync 0, 1, 0, 1.
    private const string Plain = "Time (s),Current (A),Sync (V)\n0.000,10,0\n0.002,20,1\n0.004,30,0\n0.006,40,1\n";

    // Each is the same four samples as people really have them.
    public static TheoryData<string, string> Shapes => new()
    {
        { "comma, header with units", Plain },
        { "semicolon, decimal comma", "Time (s);Current (A);Sync (V)\n0,000;10,0;0\n0,002;20,0;1\n0,004;30,0;0\n0,006;40,0;1\n" },
        { "tab, units row", "Time\tCurrent\tSync\n(ms)\t(A)\t(V)\n0\t10\t0\n2\t20\t1\n4\t30\t0\n6\t40\t1\n" },
        { "tab, decimal comma", "t\tI\tSync\ns\tA\tV\n0,000\t10,0\t0,0\n0,002\t20,0\t1,0\n0,004\t30,0\t0,0\n0,006\t40,0\t1,0\n" },
        { "no header", "0.000,10,0\n0.002,20,1\n0.004,30,0\n0.006,40,1\n" },
        { "CRLF, blank lines, comments", "# made in a bay\r\nTime (s),Current (A),Sync (V)\r\n\r\n0.000,10,0\r\n# a note\r\n0.002,20,1\r\n\r\n0.004,30,0\r\n0.006,40,1\r\n" },
        { "lone CR", Plain.Replace('\n', '\r') },
        { "byte-order mark and quotes", "\uFEFF\"Time\",\"Current [A]\",\"Trigger\"\n\"0.000\",\"10\",\"0\"\n\"0.002\",\"20\",\"1\"\n\"0.004\",\"30\",\"0\"\n\"0.006\",\"40\",\"1\"\n" },
        { "scientific notation, microseconds", "Time (µs),Clamp (A),Coil (V)\n0.0e0,1.0E+01,0\n2.0e3,2.0e1,1\n4.0e3,3.0E1,0\n6.0e3,4.0e+1,1\n" },
        { "words before the table", "Bay 3 instrument\nSaved 2026-03-02\n\nTime (s),Current (A),Sync (V)\n0.000,10,0\n0.002,20,1\n0.004,30,0\n0.006,40,1\n" },
        { "sample numbers and an interval in a comment", "# Sample interval: 2 ms\nsample,Current (A),Sync (V)\n0,10,0\n1,20,1\n2,30,0\n3,40,1\n" },
        { "a sample rate in the head", "Sample rate;500 Hz\nCurrent (A);Sync (V)\n10;0\n20;1\n30;0\n40;1\n" },
        { "other channels between", "Time (ms),Oil (V),Current (A),Temp,Sync (V)\n0,3.1,10,80,0\n2,3.1,20,80,1\n4,3.2,30,80,0\n6,3.1,40,80,1\n" },
        { "no end of the last line", Plain.TrimEnd('\n') },
        { "negative and padded", "Time (s), Current (A), Sync (V)\n -0.002 , 10 , 0 \n 0.000 , 20 , 1 \n +0.002 , 30 , 0 \n 0.004 , 40 , 1 \n" },
    };

    [Theory]
    [MemberData(nameof(Shapes))]
    public async Task The_same_samples_are_read_from_every_shape(string shape, string file)
    {
        foreach (var bytes in (byte[][])[Encoding.UTF8.GetBytes(file), Zip(Encoding.UTF8.GetBytes(file)), [.. Encoding.Unicode.GetPreamble(), .. Encoding.Unicode.GetBytes(file.TrimStart('\uFEFF'))]])
        {
            var read = await Captures.ReadAsync(bytes);
            read.Problem.ShouldBeNull(shape);
            var trace = read.Trace!;
            trace.Mean.ToArray().ShouldBe([10f, 20f, 30f, 40f], shape);
            trace.SyncHighest.ToArray().ShouldBe([0f, 1f, 0f, 1f], shape);
            trace.SampleRateHz.ShouldBe(500, 1e-6, shape);
        }
    }

    [Fact]
    public async Task A_clamps_volts_are_shown_as_a_guess_and_corrected()
    {
        const string File = "Time (s),Clamp (mV)\n0,10\n0.001,20\n0.002,30\n";
        var found = await Captures.InspectAsync(File);
        found.Layout.ScaleKnown.ShouldBeFalse();
        found.Columns.Select(c => (c.Name, c.Unit, c.Role)).ShouldBe([("Time", "s", ColumnRole.Time), ("Clamp", "mV", ColumnRole.Current)]);
        found.Columns[1].First.ShouldBe(["10", "20", "30"]);
        // A clamp of 10 mV/A.
        (await Captures.ReadAsync(File, l => l with { AmpsPerUnit = 0.1 })).Trace!.Mean.ToArray().ShouldBe([1f, 2f, 3f]);
    }

    [Fact]
    public async Task Somebody_who_knows_better_says_how_it_is_written()
    {
        // Thousandths of a second and amps with decimal commas: the guess is one column with commas, or two of whole numbers.
        const string File = "0;1,5\n1;2,5\n2;3,5\n3;4,5\n";
        async Task<CaptureInspection> LookAsync((char, bool)? written) => await CaptureFile.InspectAsync(new MemoryStream(System.Text.Encoding.UTF8.GetBytes(File)), written, TestContext.Current.CancellationToken);
        var guessed = await LookAsync(null);
        (guessed.Layout.Delimiter, guessed.Layout.DecimalComma, guessed.Columns.Count).ShouldBe((';', true, 2));
        (await LookAsync((';', true))).Shape.ShouldBe(guessed.Shape);
        (await LookAsync((';', false))).Problem!.Code.ShouldBe(CaptureCode.Unreadable);
        var commas = await CaptureFile.InspectAsync(new MemoryStream("1,5\n2,05\n3,5\n4,07\n"u8.ToArray()), (',', false), TestContext.Current.CancellationToken);
        (commas.Columns.Count, commas.Layout.DecimalComma).ShouldBe((2, false), "two columns where somebody says so");
    }

    [Fact]
    public async Task Files_of_one_shape_are_read_alike_but_for_where_their_rows_begin()
    {
        var first = await Captures.InspectAsync("t (ms);I (mV)\n0;1\n1;2\n2;3\n");
        var next = await Captures.InspectAsync("# another day\nt (ms);I (mV)\n0;1\n1;2\n2;3\n");
        next.Shape.ShouldBe(first.Shape);
        var layout = next.LikeBefore(first.Layout with { AmpsPerUnit = 0.1, ScaleKnown = true });
        (layout.AmpsPerUnit, layout.HeaderLines).ShouldBe((0.1, 2));
        (await Captures.InspectAsync("t (ms);I (V)\n0;1\n1;2\n2;3\n")).Shape.ShouldNotBe(first.Shape);
    }

    [Fact]
    public async Task Without_time_the_interval_is_asked_for()
    {
        const string File = "Current (A)\n10\n20\n30\n";
        var asked = await Captures.ReadAsync(File);
        asked.Problem!.Code.ShouldBe(CaptureCode.NoTimeColumn);
        var given = await Captures.ReadAsync(File, l => l with { IntervalS = 0.001 });
        given.Trace!.SampleRateHz.ShouldBe(1000);
        given.Remarks.Single().Code.ShouldBe(CaptureCode.NoTimeColumn);
    }

    [Fact]
    public async Task Decimal_commas_in_a_single_column_are_no_second_column()
    {
        var read = await Captures.ReadAsync("0,12\n0,05\n0,31\n0,40\n0,08\n", l => l with { IntervalS = 0.001 });
        read.Trace!.Mean.ToArray().ShouldBe([0.12f, 0.05f, 0.31f, 0.40f, 0.08f]);
    }

    [Fact]
    public async Task Missing_and_overloaded_samples_are_bridged_and_nothing_after_them_shifts()
    {
        var read = await Captures.ReadAsync("Time (s),Current (A)\n0,10\n0.001,NaN\n0.002,30\n0.003,OL\n0.004,\n0.005,60\n0.006,-inf\n0.007,80\n");
        read.Trace!.Mean.ToArray().ShouldBe([10f, 20f, 30f, 40f, 50f, 60f, 70f, 80f]);
        read.Trace.Bridged.ShouldBe(4);
    }

    [Fact]
    public async Task A_torn_row_is_bridged_and_named_with_its_line()
    {
        var rows = string.Concat(Enumerable.Range(0, 50).Select(i => i == 20 ? "0.0" : string.Create(CultureInfo.InvariantCulture, $"{i * 0.001:0.000},{i}\n")));
        var read = await Captures.ReadAsync("Time (s),Current (A)\n" + rows);
        var remark = read.Remarks.Single();
        remark.Code.ShouldBe(CaptureCode.BadRows);
        remark.Says.ShouldContain("line 22");
        read.Trace!.Mean[30].ShouldBe(31f);
    }

    [Fact]
    public async Task A_file_cut_in_the_middle_of_a_row_says_so()
    {
        var read = await Captures.ReadAsync("Time (s),Current (A),Sync (V)\n0,10,0\n0.001,20,1\n0.002,30,0\n0.003,4");
        read.Trace!.Samples.ShouldBe(3);
        read.Remarks.Single().Code.ShouldBe(CaptureCode.TruncatedFile);
        var whole = Zip(Encoding.UTF8.GetBytes(Captures.Csv(Captures.EvenFour)));
        var cut = await Captures.ReadAsync(whole[..(whole.Length / 2)]);
        cut.Remarks.ShouldContain(r => r.Code == CaptureCode.TruncatedFile);
        cut.Trace!.Samples.ShouldBeGreaterThan(1000);
    }

    private static byte[] Unfolding(string filler, long bytes)
    {
        using var packed = new MemoryStream();
        using (var zip = new GZipStream(packed, CompressionLevel.Fastest, leaveOpen: true))
        {
            zip.Write(Encoding.UTF8.GetBytes(Plain));
            var piece = Encoding.UTF8.GetBytes(string.Concat(Enumerable.Repeat(filler, (1 << 20) / filler.Length)));
            for (long written = 0; written <= bytes; written += piece.Length)
            {
                zip.Write(piece);
            }
        }
        return packed.ToArray();
    }

    [Fact]
    public async Task A_small_file_that_unfolds_without_end_is_refused()
    {
        var packed = Unfolding("0.008,10,0\n", 17 << 20);
        packed.Length.ShouldBeLessThan(1 << 20);
        var layout = (await CaptureFile.InspectAsync(new MemoryStream(packed), cancel: TestContext.Current.CancellationToken)).Layout;
        var read = await CaptureFile.ReadAsync(new MemoryStream(packed), layout, null, 16 << 20, TestContext.Current.CancellationToken);
        read.Problem!.Says.ShouldContain("unfolds to more than 16 MiB");
        CaptureFile.MostUnfolded.ShouldBe(1 << 30);
    }

    [Fact]
    public async Task Lines_without_end_and_without_numbers_are_given_up_early()
    {
        var read = await Captures.ReadAsync(Unfolding("\n", 200 << 20));
        read.Problem!.Says.ShouldContain("More than a million lines of this file hold no numbers");
        // As many as a torn program leaves are passed over.
        (await Captures.ReadAsync(Unfolding("# seen\n", 2 << 20))).Problem.ShouldBeNull();
    }

    [Theory]
    [InlineData("")]
    [InlineData("\n\n\n")]
    [InlineData("Dear colleague,\nthe capture is attached.\nRegards\n")]
    [InlineData("<html><body>404</body></html>")]
    [InlineData("\u0000\u0001\u0002binary")]
    public async Task What_is_no_capture_is_refused_in_words(string file)
    {
        var read = await Captures.ReadAsync(file);
        read.Problem!.Code.ShouldBe(CaptureCode.Unreadable);
        read.Problem.Says.Length.ShouldBeGreaterThan(15);
    }

    [Fact]
    public async Task A_file_that_turns_into_words_names_the_line()
    {
        var read = await Captures.ReadAsync(Plain + string.Concat(Enumerable.Repeat("operator, went, home\n", 40)));
        read.Problem!.Code.ShouldBe(CaptureCode.Unreadable);
        read.Problem.Says.ShouldContain("Line 6");
    }

    public static TheoryData<int, bool> Waves => new() { { 8, false }, { 16, false }, { 24, false }, { 32, false }, { 32, true }, { 64, true } };

    [Theory]
    [MemberData(nameof(Waves))]
    public async Task Wav_of_every_width_is_read_with_a_scale(int bits, bool real)
    {
        double[] values = [0, 0.25, -0.5, 0.75, -0.25];
        var file = Wave(bits, real, values);
        var found = await CaptureFile.InspectAsync(new MemoryStream(file), cancel: TestContext.Current.CancellationToken);
        found.Layout.ScaleKnown.ShouldBeFalse();
        found.Columns.Count.ShouldBe(2);
        var trace = (await Captures.ReadAsync(file, l => l with { AmpsPerUnit = 1000 })).Trace!;
        trace.SampleRateHz.ShouldBe(8000, 1e-6);
        trace.Samples.ShouldBe(5);
        for (var i = 0; i < values.Length; i++)
        {
            trace.Mean[i].ShouldBe((float)(1000 * values[i]), 0.01f);
            trace.SyncHighest[i].ShouldBe((float)-values[i], 1e-5f);
        }
        (await Captures.ReadAsync(file[..^3])).Remarks.ShouldContain(r => r.Code == CaptureCode.TruncatedFile);
    }

    [Fact]
    public async Task However_a_file_is_cut_into_pieces_the_samples_are_the_same()
    {
        var bytes = Encoding.UTF8.GetBytes(Captures.Csv(Captures.EvenFour)[..20_000]);
        var layout = (await CaptureFile.InspectAsync(new MemoryStream(bytes), cancel: TestContext.Current.CancellationToken)).Layout;
        var whole = (await CaptureFile.ReadAsync(new MemoryStream(bytes), layout, null, TestContext.Current.CancellationToken)).Trace!.Mean.ToArray();
        Gen.Int[1, 700].Array[1, 40].Sample(cuts =>
        {
            var rows = new CaptureRows(layout);
            var (at, next) = (0, 0);
            while (at < bytes.Length)
            {
                var take = Math.Min(cuts[next++ % cuts.Length], bytes.Length - at);
                rows.Feed(bytes.AsMemory(at, take));
                at += take;
            }
            return rows.Finish().Trace!.Mean.SequenceEqual(whole);
        }, iter: 60);
    }

    // Random bytes, and a good file with random damage: an answer each time, never an exception, never much memory.
    [Fact]
    public void Whatever_the_bytes_there_is_an_answer()
    {
        var good = Encoding.UTF8.GetBytes(Captures.Csv(Captures.EvenFour)[..4_000]);
        var wave = Wave(16, false, [0, 0.5, -0.5]);
        Gen.Select(Gen.Int[0, 4], Gen.Byte.Array[0, 600], Gen.Int[0, 3999], Gen.Int[0, 400]).Sample((kind, noise, at, cut) =>
        {
            var file = kind switch
            {
                0 => noise,
                1 => [.. good[..at], .. noise, .. good[at..]],
                2 => [.. good[..Math.Max(0, at - cut)], .. good[at..]],
                3 => [.. Zip(good)[..Math.Min(200, at)], .. noise],
                _ => [.. wave[..Math.Min(wave.Length, cut)], .. noise],
            };
            var read = Captures.ReadAsync(file).GetAwaiter().GetResult();
            (read.Problem is null).ShouldBe(read.Trace is not null);
            if (read.Trace is { } trace)
            {
                trace.Samples.ShouldBeLessThan(10_000);
                var answer = RelativeAnalysis.Of(trace, Captures.Four);
                (answer.Refused is null).ShouldBe(answer.Slots.Count > 0);
            }
        }, iter: 1500);
    }

    private static byte[] Zip(byte[] bytes)
    {
        var zipped = new MemoryStream();
        using (var gzip = new GZipStream(zipped, CompressionLevel.Fastest, leaveOpen: true))
        {
            gzip.Write(bytes);
        }
        return zipped.ToArray();
    }

    // Two channels, the second the first turned over, with a chunk before the samples that nobody needs.
    private static byte[] Wave(int bits, bool real, double[] values)
    {
        var body = new MemoryStream();
        using var writer = new BinaryWriter(body);
        foreach (var value in values.SelectMany(v => new[] { v, -v }))
        {
            switch (bits, real)
            {
                case (8, _): writer.Write((byte)(128 + value * 128)); break;
                case (16, _): writer.Write((short)(value * 32768)); break;
                case (24, _): writer.Write(BitConverter.GetBytes((int)(value * 8388608)).AsSpan(0, 3)); break;
                case (32, true): writer.Write((float)value); break;
                case (32, _): writer.Write((int)(value * 2147483648)); break;
                default: writer.Write(value); break;
            }
        }
        var file = new MemoryStream();
        using var head = new BinaryWriter(file);
        head.Write("RIFF"u8);
        head.Write(0);
        head.Write("WAVELIST"u8);
        head.Write(3);
        head.Write("abc\0"u8);
        head.Write("fmt "u8);
        head.Write(16);
        head.Write((short)(real ? 3 : 1));
        head.Write((short)2);
        head.Write(8000);
        head.Write(8000 * bits / 4);
        head.Write((short)(bits / 4));
        head.Write((short)bits);
        head.Write("data"u8);
        head.Write((int)body.Length);
        head.Write(body.ToArray());
        return file.ToArray();
    }
}
