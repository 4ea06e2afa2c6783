using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Guesses from the first rows of a file how it is to be read: what stands between columns, the decimal mark, header and units, which column is what. A guess that is shown and can be
/// corrected, so it would rather be plain than clever.
/// </summary>
internal static partial class CaptureInspector
{
    private const int Shown = 6;

    /// <summary>Inspects the first bytes of a text file; how it is written is guessed unless it is said.</summary>
    public static CaptureInspection Text(ReadOnlySpan<byte> head, (char Delimiter, bool DecimalComma)? written = null)
    {
        if (head.IndexOf((byte)0) >= 0)
        {
            return Refused("This is neither a table of numbers nor a WAV. Save the capture as CSV (comma, semicolon or tab) or WAV and send that.");
        }
        // The last line may be cut by the length of the head.
        var text = Encoding.UTF8.GetString(head).TrimStart('\uFEFF');
        var lines = text.Split(["\r\n", "\n", "\r"], StringSplitOptions.None);
        var whole = lines.Length > 3 ? lines[..^1] : lines;
        var (delimiter, comma, columns) = Separation(whole, written);
        if (columns == 0)
        {
            var first = whole.FirstOrDefault(l => l.Trim().Length > 0) ?? "";
            return Refused(first.Length == 0 ? "The file is empty." : $"No rows of numbers were found. The first line is \"{first[..Math.Min(60, first.Length)].Trim()}\". Save the capture as CSV (comma, semicolon or tab) or WAV.");
        }
        var data = FirstData(whole, delimiter, comma, columns);
        var (names, units) = Names(whole, data, delimiter, columns);
        var rows = whole.Skip(data).Where(l => !IsComment(l)).Select(l => l.Split(delimiter)).Where(r => r.Length >= columns).Take(400).ToList();
        var values = Enumerable.Range(0, columns).Select(c => rows.Select(r => Number(r[c], comma)).ToArray()).ToArray();
        var roles = Roles(names, units, values);
        int? time = Find(roles, ColumnRole.Time);
        var step = time is { } t ? Step(values[t]) : 0;
        var current = Find(roles, ColumnRole.Current) ?? 0;
        var (scale, known) = CurrentScale(units[current]);
        var layout = new CaptureLayout
        {
            Delimiter = delimiter, DecimalComma = comma, HeaderLines = data, TimeColumn = time, TimeUnitS = time is { } at ? TimeUnit(units[at], step) : 1,
            IntervalS = time is null ? Interval(whole.Take(data).Concat(whole.Where(IsComment))) : null, CurrentColumn = current, AmpsPerUnit = scale, ScaleKnown = known,
            SyncColumn = Find(roles, ColumnRole.Sync), BatteryColumn = Find(roles, ColumnRole.Battery),
            VoltsPerUnit = Find(roles, ColumnRole.Battery) is { } b && units[b].StartsWith('m') ? 0.001 : 1,
        };
        return new CaptureInspection
        {
            Layout = layout,
            Columns = [.. Enumerable.Range(0, columns).Select(c => new CaptureColumn(c, names[c], units[c], roles[c], [.. rows.Take(Shown).Select(r => r[c].Trim().Trim('"'))]))],
        };
    }

    /// <summary>Inspects the head of a WAV file.</summary>
    public static CaptureInspection Wave(ReadOnlySpan<byte> head)
    {
        var (wave, problem) = WaveHead.Read(head);
        if (wave is null)
        {
            return Refused(problem!);
        }
        return new CaptureInspection
        {
            Layout = new CaptureLayout { Kind = CaptureKind.Wav, IntervalS = 1.0 / wave.Rate, CurrentColumn = 0, ScaleKnown = false, SyncColumn = wave.Channels > 1 ? 1 : null },
            Columns = [.. Enumerable.Range(0, wave.Channels).Select(c => new CaptureColumn(c, FormattableString.Invariant($"Channel {c + 1}"), "", c switch { 0 => ColumnRole.Current, 1 => ColumnRole.Sync, _ => ColumnRole.Ignored }, []))],
        };
    }

    private static CaptureInspection Refused(string says) => new() { Problem = new(CaptureCode.Unreadable, says) };

    private static bool IsComment(string line) => line.StartsWith('#') || line.StartsWith('%') || line.StartsWith("//", StringComparison.Ordinal);

    // The delimiter and decimal mark under which most lines are rows of numbers of one width.
    private static (char Delimiter, bool Comma, int Columns) Separation(string[] lines, (char Delimiter, bool DecimalComma)? written)
    {
        (char Delimiter, bool Comma, int Columns, int Rows) best = (',', false, 0, 0);
        foreach (var (delimiter, comma) in written is { } said ? [said] : (ReadOnlySpan<(char, bool)>)[('\t', false), ('\t', true), (';', false), (';', true), (',', false)])
        {
            var widths = lines.Where(l => !IsComment(l)).Select(l => l.Split(delimiter)).Where(f => f.All(x => IsCell(x, comma)) && f.Any(x => double.IsFinite(Number(x, comma)))).Select(f => f.Length).ToList();
            if (widths.Count == 0)
            {
                continue;
            }
            var usual = widths.GroupBy(w => w).MaxBy(g => (g.Count(), g.Key))!;
            if (usual.Count() > best.Rows || (usual.Count() == best.Rows && usual.Key > best.Columns))
            {
                best = (delimiter, comma, Math.Min(usual.Key, CaptureLayout.MostColumns), usual.Count());
            }
        }
        // One column of decimal commas looks like two columns of whole numbers; the second then keeps its width and its leading zeros.
        if (written is null && best is { Delimiter: ',', Columns: 2 })
        {
            var pairs = lines.Where(l => !IsComment(l)).Select(l => l.Trim().Split(',')).Where(f => f.Length == 2).ToList();
            var whole = pairs.Where(f => f.All(x => x.Length > 0 && x.TrimStart('-', '+').All(char.IsAsciiDigit))).ToList();
            if (whole.Count > 3 && whole.Count >= 0.9 * pairs.Count && whole.Select(f => f[1].Length).Distinct().Count() == 1 && whole[0][1].Length > 1 && whole.Exists(f => f[1][0] == '0'))
            {
                return ('\t', true, 1);
            }
        }
        return (best.Delimiter, best.Comma, best.Rows >= 2 ? best.Columns : 0);
    }

    private static bool IsCell(string cell, bool comma) => NumberText.Read(Encoding.UTF8.GetBytes(cell), comma, out _);

    private static double Number(string cell, bool comma) => NumberText.Read(Encoding.UTF8.GetBytes(cell), comma, out var value) ? value : double.NaN;

    private static int FirstData(string[] lines, char delimiter, bool comma, int columns)
    {
        for (var i = 0; i < lines.Length; i++)
        {
            var cells = lines[i].Split(delimiter);
            if (!IsComment(lines[i]) && cells.Length >= Math.Max(1, columns - 1) && cells.All(c => IsCell(c, comma)) && cells.Any(c => double.IsFinite(Number(c, comma))))
            {
                return i;
            }
        }
        return 0;
    }

    // The last rows of words before the numbers: names, and units in parentheses or in a row of their own.
    private static (string[] Names, string[] Units) Names(string[] lines, int data, char delimiter, int columns)
    {
        var (names, units) = (new string[columns], new string[columns]);
        Array.Fill(names, "");
        Array.Fill(units, "");
        var heads = lines.Take(data).Where(l => l.Trim().Length > 0 && !IsComment(l)).Select(l => l.Split(delimiter).Select(c => c.Trim().Trim('"').Trim()).ToArray()).Where(c => c.Length >= columns).ToList();
        if (heads.Count > 0 && heads[^1].Take(columns).All(c => c.Length == 0 || IsUnit(Bare(c))) && heads[^1].Any(c => c.Length > 0))
        {
            for (var c = 0; c < columns; c++)
            {
                units[c] = Bare(heads[^1][c]);
            }
            heads.RemoveAt(heads.Count - 1);
        }
        if (heads.Count > 0)
        {
            for (var c = 0; c < columns; c++)
            {
                var match = InParentheses().Match(heads[^1][c]);
                names[c] = match.Success && IsUnit(match.Groups[2].Value.Trim()) ? match.Groups[1].Value.Trim() : heads[^1][c];
                units[c] = units[c].Length == 0 && match.Success && IsUnit(match.Groups[2].Value.Trim()) ? match.Groups[2].Value.Trim() : units[c];
            }
        }
        return (names, units);
    }

    private static string Bare(string cell) => cell.Trim('(', ')', '[', ']', ' ');

    private static bool IsUnit(string text) => text is "s" or "sec" or "ms" or "us" or "µs" or "μs" or "ns" or "A" or "mA" or "V" or "mV" or "uV" or "µV";

    private static ColumnRole[] Roles(string[] names, string[] units, double[][] values)
    {
        var n = names.Length;
        var roles = new ColumnRole[n];
        void Give(ColumnRole role, Func<int, bool> where)
        {
            for (var c = 0; c < n && !roles.Contains(role); c++)
            {
                if (roles[c] == ColumnRole.Ignored && where(c))
                {
                    roles[c] = role;
                }
            }
        }
        bool Named(int c, params string[] words) => words.Any(w => names[c].Contains(w, StringComparison.OrdinalIgnoreCase));
        bool Counts(int c) => Named(c, "sample", "index", "count") || names[c] is "n" or "N" or "#" || (names[c].Length == 0 && n > 2 && values[c].Length > 3 && values[c].Zip(values[c].Skip(1)).All(p => p.Second - p.First == 1));

        Give(ColumnRole.Time, c => units[c] is "s" or "sec" or "ms" or "us" or "µs" or "μs" or "ns");
        Give(ColumnRole.Time, c => Named(c, "time", "second") || names[c] is "t" or "T" or "x" or "X");
        Give(ColumnRole.Current, c => units[c] is "A" or "mA");
        Give(ColumnRole.Current, c => Named(c, "curr", "amp", "clamp", "starter") || names[c] is "I" or "i");
        Give(ColumnRole.Time, c => c == 0 && n > 1 && !Counts(c) && Rises(values[c]));
        Give(ColumnRole.Sync, c => Named(c, "sync", "trig", "ign", "coil", "inj", "cyl", "spark", "event"));
        Give(ColumnRole.Battery, c => Named(c, "batt", "supply", "ubat", "vbat"));
        // Without names: current first, sync second.
        Give(ColumnRole.Current, c => !Counts(c));
        Give(ColumnRole.Sync, c => !Counts(c));
        Give(ColumnRole.Current, _ => true);
        return roles;
    }

    private static bool Rises(double[] values) => values.Length > 3 && values.Zip(values.Skip(1)).All(p => p.Second > p.First || !double.IsFinite(p.First + p.Second))
        && Math.Abs(Step(values) - (values[^1] - values[0]) / (values.Length - 1)) < 0.2 * Step(values);

    private static double Step(double[] values) => Smoothing.Quantile([.. values.Zip(values.Skip(1)).Select(p => p.Second - p.First).Where(double.IsFinite)], 0.5) is var step && double.IsFinite(step) ? step : 0;

    private static int? Find(ColumnRole[] roles, ColumnRole role) => Array.IndexOf(roles, role) is >= 0 and var i ? i : null;

    // Without a unit: nobody samples starter current slower than 50 or faster than a million times a second.
    private static double TimeUnit(string unit, double step) => unit switch
    {
        "ms" => 1e-3,
        "us" or "µs" or "μs" => 1e-6,
        "ns" => 1e-9,
        "s" or "sec" => 1,
        _ when step is > 0 and <= 0.02 => 1,
        _ when step is > 0.02 and <= 20 => 1e-3,
        _ when step > 20 => 1e-6,
        _ => 1,
    };

    // A clamp's voltage without its scale: 1 mV/A is most common and only a guess.
    private static (double AmpsPerUnit, bool Known) CurrentScale(string unit) => unit switch
    {
        "A" => (1, true),
        "mA" => (1e-3, true),
        "mV" => (1, false),
        "V" => (1000, false),
        _ => (1, false),
    };

    private static double? Interval(IEnumerable<string> lines)
    {
        foreach (var line in lines)
        {
            if (IntervalText().Match(line) is { Success: true } interval && Parsed(interval.Groups[1].Value) is > 0 and var step)
            {
                return step * (interval.Groups[2].Value switch { "ms" => 1e-3, "us" or "µs" or "μs" => 1e-6, "ns" => 1e-9, _ => 1 });
            }
            if (RateText().Match(line) is { Success: true } rate && Parsed(rate.Groups[1].Value) is > 0 and var hz)
            {
                return 1 / (hz * (rate.Groups[2].Value.ToUpperInvariant() switch { "K" => 1e3, "M" => 1e6, _ => 1 }));
            }
        }
        return null;
    }

    private static double? Parsed(string text) => double.TryParse(text.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var value) ? value : null;

    [GeneratedRegex(@"^(.*?)\s*[\(\[]([^\)\]]{1,6})[\)\]]\s*$")]
    private static partial Regex InParentheses();

    [GeneratedRegex(@"(?:interval|period|\bdt|increment|step)\s*(?:\([^)]*\))?\s*[:=,;\t ]\s*""?([0-9]+(?:[.,][0-9]+)?(?:[eE][-+]?[0-9]+)?)\s*(ms|us|µs|μs|ns|s)?", RegexOptions.IgnoreCase)]
    private static partial Regex IntervalText();

    [GeneratedRegex(@"(?:rate|frequency|\bfs)\s*(?:\([^)]*\))?\s*[:=,;\t ]\s*""?([0-9]+(?:[.,][0-9]+)?(?:[eE][-+]?[0-9]+)?)\s*([kM])?", RegexOptions.IgnoreCase)]
    private static partial Regex RateText();
}
