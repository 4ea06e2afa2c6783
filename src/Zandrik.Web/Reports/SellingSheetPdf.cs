using Zandrik.Core.Reports;

namespace Zandrik.Web.Reports;

/// <summary>Sets a <see cref="SellingSheet"/> on paper.</summary>
public sealed class SellingSheetPdf : PaperPdf
{
    private readonly SellingSheet sheet;
    private readonly string code;

    private SellingSheetPdf(SellingSheet sheet, string code)
        : base($"{sheet.Vehicle}: engine test", sheet.Shop, $"{sheet.Vehicle} · {sheet.Shop} · check code {code}", sheet.Made) => (this.sheet, this.code) = (sheet, code);

    /// <summary>The PDF of a sheet with its code.</summary>
    public static byte[] Make(SellingSheet sheet, string code)
    {
        using var pdf = new SellingSheetPdf(sheet, code);
        return pdf.Bytes();
    }

    private protected override void Fill()
    {
        Text($"{sheet.Shop} · job {sheet.Number} · {sheet.Made} · {sheet.By}", Small);
        Text(sheet.Vehicle, Title);
        Text(sheet.Engine + (sheet.Serial is { } serial ? $", number {serial}" : ""), Bold);
        foreach (var fact in sheet.Facts)
        {
            Text($"{fact.Name}: {fact.Value}", Plain);
        }
        Heading("What the readings say together");
        Text(sheet.Finding, Plain);
        Heading("Cost to put right");
        Text(sheet.Cost, Plain);
        if (sheet.Missing.Count > 0)
        {
            Heading("Not measured or not recorded");
            foreach (var missing in sheet.Missing)
            {
                Text($"• {missing}", Plain);
            }
        }
        foreach (var part in sheet.Parts)
        {
            Heading(part.Title);
            foreach (var (words, font) in new[] { (part.Says, Bold), (part.How, Small) }.Where(w => w.Item1.Length > 0))
            {
                Text(words, font);
            }
            if (part.Rows.Count > 0)
            {
                Table(part.Headers, part.Rows);
            }
            foreach (var note in part.Notes)
            {
                Text($"• {note}", Small);
            }
        }
        Heading($"Check code {code}");
        Text("Whoever holds this paper can see at /check of the shop’s Zandrik whether it is genuine, and how it was handed out.", Small);
        Signatures("For the shop, day", "Buyer or seller, day");
    }
}
