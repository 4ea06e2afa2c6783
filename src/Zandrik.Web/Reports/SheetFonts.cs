using PdfSharp.Fonts;

namespace Zandrik.Web.Reports;

/// <summary>The fonts a PDF carries along: they ship with the application, whatever the machine has.</summary>
internal sealed class SheetFonts : IFontResolver
{
    internal const string Family = "Liberation Sans";

    public FontResolverInfo? ResolveTypeface(string familyName, bool bold, bool italic) => new(bold ? "LiberationSans-Bold.ttf" : "LiberationSans-Regular.ttf");

    public byte[]? GetFont(string faceName)
    {
        using var stream = typeof(SheetFonts).Assembly.GetManifestResourceStream(faceName) ?? throw new InvalidOperationException($"The font {faceName} is not in the application.");
        using var bytes = new MemoryStream();
        stream.CopyTo(bytes);
        return bytes.ToArray();
    }
}
