namespace Zandrik.Web.Reports;

/// <summary>Sets an <see cref="OwnerSheet"/> on paper.</summary>
public sealed class OwnerSheetPdf : PaperPdf
{
    private readonly OwnerSheet sheet;

    private OwnerSheetPdf(OwnerSheet sheet)
        : base($"{sheet.Vehicle}: what we found", sheet.Shop, $"{sheet.Vehicle} · {sheet.Shop} · job {sheet.Number}", sheet.Made) => this.sheet = sheet;

    /// <summary>The PDF of a sheet.</summary>
    public static byte[] Make(OwnerSheet sheet)
    {
        using var pdf = new OwnerSheetPdf(sheet);
        return pdf.Bytes();
    }

    private protected override void Fill()
    {
        var report = sheet.Report;
        Text($"{sheet.Shop} · job {sheet.Number} · {sheet.Made}", Small);
        Text(sheet.Vehicle, Title);
        Text(sheet.Engine, Bold);
        Part("What you asked us", report.Asked);
        Part("What it means", report.Means, sheet.Standing);
        Part("Before you drive", report.KeepOff);
        Part("What we would do", [.. report.Steps.Select((s, i) => $"{i + 1}. {s}")]);
        Heading("What we measured", 64 + HeightOf(sheet.Picture, (report.Measured, Plain)));
        Text(report.Measured, Plain);
        Space();
        if (sheet.Picture is { } picture)
        {
            Draw(picture);
        }
        Table(["Cylinder", "Result"], [.. report.Cylinders.Select(c => (IReadOnlyList<string>)[$"{c.Cylinder}", c.Says])]);
        Text(sheet.HowToRead, Small);
        Signatures("For the shop, day", "Owner, day");
    }

    private void Part(string title, params string?[] paragraphs)
    {
        if (paragraphs.Any(p => !string.IsNullOrEmpty(p)))
        {
            Heading(title);
            foreach (var paragraph in paragraphs.OfType<string>())
            {
                Text(paragraph, Plain);
            }
        }
    }
}
