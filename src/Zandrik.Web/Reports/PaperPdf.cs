using PdfSharp.Drawing;
using PdfSharp.Fonts;
using PdfSharp.Pdf;
using PdfSharp.UniversalAccessibility;
using Zandrik.Core.Compression;
using Zandrik.Web.Drawings;

namespace Zandrik.Web.Reports;

/// <summary>
/// What is set on paper: black on white, A4, as many pages as it needs and no more, each saying what it is of. Tagged, so
/// that a screen reader has headings, tables and the words of a drawing; heads, feet and lines are decoration.
/// </summary>
public abstract class PaperPdf : IDisposable
{
    private const double Margin = 40, Gap = 3;

    private static readonly XPen Line = new(XColors.Black, 0.8), Hair = new(XColors.Gray, 0.4);

    private readonly string called, author;
    private readonly XFont text = new(SheetFonts.Family, 8.8), bold = new(SheetFonts.Family, 8.8, XFontStyleEx.Bold), small = new(SheetFonts.Family, 7.4), head = new(SheetFonts.Family, 11, XFontStyleEx.Bold), title = new(SheetFonts.Family, 16, XFontStyleEx.Bold);
    private readonly string running, made;
    private PdfDocument document = null!;
    private StructureBuilder? tags;
    private XGraphics page = null!;
    private double y;
    private int pages;

    static PaperPdf() => GlobalFontSettings.FontResolver ??= new SheetFonts();

    // What it is called, who made it, what stands over every page but the first, and when it was made.
    private protected PaperPdf(string title, string author, string running, string made)
    {
        (called, this.author, this.running, this.made) = (title, author, running, made);
    }

    private protected XFont Plain => text;

    private protected XFont Bold => bold;

    private protected XFont Small => small;

    private protected XFont Title => title;

    /// <summary>Writes what it is of.</summary>
    private protected abstract void Fill();

    private protected byte[] Bytes()
    {
        // Set once to see how many pages it takes: a page says of how many it is, and a tagged page is not written twice.
        pages = Set(tagged: false);
        document.Dispose();
        Set(tagged: true);
        using var bytes = new MemoryStream();
        document.Save(bytes, closeStream: false);
        return bytes.ToArray();
    }

    private int Set(bool tagged)
    {
        document = new PdfDocument();
        document.Info.Title = called;
        document.Info.Author = author;
        document.Info.Creator = "Zandrik";
        tags = null;
        if (tagged)
        {
            var accessible = UAManager.ForDocument(document);
            accessible.SetDocumentLanguage("en-GB");
            tags = accessible.StructureBuilder;
        }
        NewPage();
        Fill();
        page.Dispose();
        return document.PageCount;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        page?.Dispose();
        document?.Dispose();
        GC.SuppressFinalize(this);
    }

    private void Tagged(PdfBlockLevelElementTag tag, Action draw)
    {
        tags?.BeginElement(tag);
        draw();
        tags?.End();
    }

    // What only pleases the eye, or stands on every page.
    private void Decoration(Action draw)
    {
        tags?.BeginArtifact();
        draw();
        tags?.End();
    }

    private double Width => page.PageSize.Width - 2 * Margin;

    private double Bottom => page.PageSize.Height - Margin - 14;

    private void NewPage()
    {
        page?.Dispose();
        var fresh = document.AddPage();
        fresh.Size = PdfSharp.PageSize.A4;
        page = XGraphics.FromPdfPage(fresh);
        y = Margin;
        Decoration(() =>
        {
            if (document.PageCount > 1)
            {
                // A page that comes loose still says what it is of.
                page.DrawString(running, small, XBrushes.Black, new XPoint(Margin, y));
                page.DrawLine(Hair, Margin, y + 4, Margin + Width, y + 4);
            }
            page.DrawString(JobSheet.Caution, small, XBrushes.Black, new XPoint(Margin, page.PageSize.Height - Margin + 4));
            page.DrawString($"{made} · {document.PageCount}/{pages}", small, XBrushes.Black, new XPoint(page.PageSize.Width - Margin, page.PageSize.Height - Margin + 15), XStringFormats.BaseLineRight);
        });
        y += document.PageCount > 1 ? 14 : 0;
    }

    private protected void Room(double height)
    {
        if (y + height > Bottom)
        {
            NewPage();
        }
    }

    private protected void Heading(string words, double keep = 64)
    {
        // A heading never stands alone at the foot of a page.
        Room(keep);
        y += 6;
        Tagged(PdfBlockLevelElementTag.Heading2, () => page.DrawString(words, head, XBrushes.Black, new XPoint(Margin, y + 11)));
        Decoration(() => page.DrawLine(Line, Margin, y + 15, Margin + Width, y + 15));
        y += 20;
    }

    private protected void Text(string words, XFont font)
    {
        // A paragraph goes on on the next page as one of its own.
        var left = new Queue<string>(Wrap(words, font, Width));
        while (left.Count > 0)
        {
            Room(font.Height);
            Tagged(font == title ? PdfBlockLevelElementTag.Heading1 : PdfBlockLevelElementTag.Paragraph, () =>
            {
                do
                {
                    // With the blank the line was broken at, or the words at its ends are read as one.
                    page.DrawString(left.Dequeue() + (left.Count > 0 ? " " : ""), font, XBrushes.Black, new XPoint(Margin, y + font.Height * 0.8));
                    y += font.Height;
                }
                while (left.Count > 0 && y + font.Height <= Bottom);
            });
        }
    }

    // In two columns, each as long as its facts.
    private protected void Facts(IReadOnlyList<(string Name, string Value)> facts)
    {
        const double Names = 72;
        var half = (facts.Count + 1) / 2;
        var (top, lowest, column) = (y, y, Width / 2 - 8);
        for (var i = 0; i < facts.Count; i++)
        {
            if (i == half)
            {
                y = top;
            }
            var x = Margin + (i < half ? 0 : Width / 2 + 8);
            var (name, value) = facts[i];
            Tagged(PdfBlockLevelElementTag.Paragraph, () =>
            {
                page.DrawString(name, small, XBrushes.Black, new XPoint(x, y + text.Height * 0.8));
                foreach (var line in Wrap(value, text, column - Names))
                {
                    page.DrawString(line, text, XBrushes.Black, new XPoint(x + Names, y + text.Height * 0.8));
                    y += text.Height;
                }
            });
            lowest = Math.Max(lowest, y);
        }
        y = lowest;
    }

    private protected void Space(double height = Gap) => y += height;

    // A picture with what stands over it, so that no page parts them.
    private protected double HeightOf(ColumnsPicture? picture, params (string Words, XFont Font)[] over) =>
        picture is null ? 0 : PictureHeight(picture) + over.Sum(o => o.Words.Length == 0 ? 0 : Wrap(o.Words, o.Font, Width).Count * o.Font.Height);

    private protected void Draw(ColumnsPicture picture)
    {
        var height = PictureHeight(picture);
        Room(height);
        var place = new XRect(Margin, y, Width, height);
        tags?.BeginElement(PdfIllustrationElementTag.Figure, $"{picture.Title}: {string.Join("; ", picture.Banks.SelectMany(b => b).Select(c => picture.Glasses[c].Says))}", place);
        Columns(picture, place);
        tags?.End();
        y += height + Gap;
    }

    private static double PictureHeight(ColumnsPicture picture) => 74 * picture.Banks.Count + 8;

    // Columns as wide as what stands in them, the last one as wide as what is left.
    private protected void Table(IReadOnlyList<string> headers, IReadOnlyList<IReadOnlyList<string>> rows)
    {
        if (headers.Count == 0 || rows.Count == 0)
        {
            return;
        }
        var widths = headers.Select((h, i) => Math.Min(190, rows.Select(r => page.MeasureString(r[i], text).Width).Append(page.MeasureString(h, small).Width).Max() + 10)).ToArray();
        var flexible = Array.IndexOf(widths, widths.Max());
        widths[flexible] = Math.Max(60, Width - widths.Where((_, i) => i != flexible).Sum());
        var scale = Math.Min(1, Width / widths.Sum());
        widths = [.. widths.Select(w => w * scale)];
        double Height(IReadOnlyList<string> cells, XFont font) => cells.Select((c, i) => Wrap(c, font, widths[i] - 6).Count).Max() * font.Height + 4;
        void Row(IReadOnlyList<string> cells, XFont font, bool isHead)
        {
            var wrapped = cells.Select((c, i) => Wrap(c, font, widths[i] - 6)).ToList();
            var height = Height(cells, font);
            Room(height);
            Tagged(PdfBlockLevelElementTag.TableRow, () =>
            {
                var x = Margin;
                for (var i = 0; i < cells.Count; i++)
                {
                    Tagged(isHead || i == 0 ? PdfBlockLevelElementTag.TableHeaderCell : PdfBlockLevelElementTag.TableDataCell, () =>
                    {
                        for (var line = 0; line < wrapped[i].Count; line++)
                        {
                            page.DrawString(wrapped[i][line], font, XBrushes.Black, new XPoint(x, y + 2 + font.Height * (line + 0.8)));
                        }
                    });
                    x += widths[i];
                }
            });
            y += height;
            Decoration(() => page.DrawLine(Hair, Margin, y, Margin + Width, y));
        }
        // Headers never stand at the foot of a page without a row.
        Room(Height(headers, small) + Height(rows[0], text));
        Tagged(PdfBlockLevelElementTag.Table, () =>
        {
            Row(headers, small, isHead: true);
            foreach (var row in rows)
            {
                Row(row, text, isHead: false);
            }
        });
        y += Gap;
    }

    private protected void Signatures(params string[] names)
    {
        Room(50);
        y += 30;
        foreach (var (words, place) in names.Select((n, i) => (n, i)))
        {
            var x = Margin + place * (Width / 2 + 10);
            Decoration(() => page.DrawLine(Line, x, y, x + Width / 2 - 10, y));
            Tagged(PdfBlockLevelElementTag.Paragraph, () => page.DrawString(words, small, XBrushes.Black, new XPoint(x, y + 10)));
        }
        y += 16;
    }

    // The same sight glasses as on the screen, in textures that a copier keeps.
    private void Columns(ColumnsPicture picture, XRect area)
    {
        var rowHeight = area.Height / picture.Banks.Count;
        var longest = picture.Banks.Max(b => b.Count);
        var pitch = Math.Min(64, (area.Width - 120) / longest);
        for (var row = 0; row < picture.Banks.Count; row++)
        {
            var (top, floor) = (area.Top + row * rowHeight + 14, area.Top + (row + 1) * rowHeight - 14);
            var left = area.Left + 56;
            double Y(double level) => floor - (floor - top) * Math.Clamp(level / picture.FullScale, 0, 1);
            page.DrawString(picture.Banks.Count > 1 ? $"bank {row + 1}" : "front", small, XBrushes.Black, new XPoint(area.Left, floor));
            for (var i = 0; i < picture.Banks[row].Count; i++)
            {
                var cylinder = picture.Banks[row][i];
                var glass = picture.Glasses[cylinder];
                var (x, w) = (left + pitch * (i + 0.5), Math.Min(26, pitch * 0.5));
                page.DrawRectangle(Line, x - w / 2, top, w, floor - top);
                if (glass.Level is { } level)
                {
                    Fill(new XRect(x - w / 2, Y(level), w, floor - Y(level)), glass.State);
                }
                if (glass is { Wet: { } wet, Level: { } dryLevel } && wet > dryLevel)
                {
                    var gain = new XRect(x - w / 2 + 2, Y(wet), w - 4, Y(dryLevel) - Y(wet));
                    page.DrawRectangle(Line, gain);
                    for (var stripe = gain.Left + 3; stripe < gain.Right; stripe += 3)
                    {
                        page.DrawLine(Line, stripe, gain.Top, stripe, gain.Bottom);
                    }
                }
                page.DrawString(glass.Figure.Length > 0 ? glass.Figure : "–", bold, XBrushes.Black, new XPoint(x, top - 3), XStringFormats.BaseLineCenter);
                page.DrawString($"{cylinder}", bold, XBrushes.Black, new XPoint(x, floor + 10), XStringFormats.BaseLineCenter);
            }
            foreach (var line in picture.Lines)
            {
                var at = Y(line.Level);
                page.DrawLine(new XPen(XColors.Black, 0.6) { DashStyle = line.Firm ? XDashStyle.Solid : XDashStyle.Dash }, left - 4, at, left + pitch * longest + 4, at);
                page.DrawString($"{line.Name} {line.Figure}", small, XBrushes.Black, new XPoint(left + pitch * longest + 8, at + 3));
            }
        }
    }

    private void Fill(XRect level, CylinderState state)
    {
        var kept = page.Save();
        page.IntersectClip(level);
        switch (state)
        {
            case CylinderState.Dead:
                page.DrawRectangle(XBrushes.Black, level);
                break;
            case CylinderState.Low:
                for (var d = -level.Height; d < level.Width; d += 4)
                {
                    page.DrawLine(Line, level.Left + d, level.Bottom, level.Left + d + level.Height, level.Top);
                }
                break;
            case CylinderState.Watch:
                for (var r = level.Top + 2; r < level.Bottom; r += 4)
                {
                    for (var c = level.Left + 2; c < level.Right; c += 4)
                    {
                        page.DrawEllipse(XBrushes.Black, c, r, 1.3, 1.3);
                    }
                }
                break;
            case CylinderState.High:
                break;
            default:
                page.DrawRectangle(XBrushes.LightGray, level);
                break;
        }
        page.Restore(kept);
        page.DrawLine(new XPen(XColors.Black, 1.6), level.Left, level.Top, level.Right, level.Top);
    }

    private List<string> Wrap(string words, XFont font, double width)
    {
        var lines = new List<string>();
        var line = "";
        foreach (var word in words.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var longer = line.Length == 0 ? word : $"{line} {word}";
            if (line.Length > 0 && page.MeasureString(longer, font).Width > width)
            {
                lines.Add(line);
                longer = word;
            }
            // A word wider than the line is broken where it has to be.
            while (page.MeasureString(longer, font).Width > width && longer.Length > 1)
            {
                var fits = longer.Length - 1;
                while (fits > 1 && page.MeasureString(longer[..fits], font).Width > width)
                {
                    fits--;
                }
                lines.Add(longer[..fits]);
                longer = longer[fits..];
            }
            line = longer;
        }
        lines.Add(line);
        return lines;
    }
}
