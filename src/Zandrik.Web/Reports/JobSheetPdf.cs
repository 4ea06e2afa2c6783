namespace Zandrik.Web.Reports;

/// <summary>Sets a <see cref="JobSheet"/> on paper.</summary>
public sealed class JobSheetPdf : PaperPdf
{
    private readonly JobSheet sheet;

    private JobSheetPdf(JobSheet sheet)
        : base($"Job {sheet.Number}, {sheet.Vehicle}", sheet.Shop, $"Job {sheet.Number} · {sheet.Vehicle} · {sheet.Shop}", sheet.Made) => this.sheet = sheet;

    /// <summary>The PDF of a sheet.</summary>
    public static byte[] Make(JobSheet sheet)
    {
        using var pdf = new JobSheetPdf(sheet);
        return pdf.Bytes();
    }

    private protected override void Fill()
    {
        Text($"{sheet.Shop} · job {sheet.Number}", Small);
        Text(sheet.Vehicle, Title);
        Text(sheet.Engine, Bold);
        Space();
        Facts(sheet.Facts);
        Space();
        Heading("For the owner");
        Text(sheet.Owner, Plain);
        foreach (var part in sheet.Parts)
        {
            Part(part);
        }
        Signatures("Technician, day", "Owner or buyer, day");
    }

    private void Part(SheetPart part)
    {
        // A heading is not parted from its drawing.
        Heading(part.Title, 64 + HeightOf(part.Picture, (part.Says, Bold), (part.How, Small)));
        if (part.Says.Length > 0)
        {
            Text(part.Says, Bold);
        }
        if (part.How.Length > 0)
        {
            Text(part.How, Small);
        }
        Space();
        if (part.Picture is { } picture)
        {
            Draw(picture);
        }
        Table(part.Headers, part.Rows);
        foreach (var note in part.Notes)
        {
            Text("· " + note, Small);
        }
    }
}
