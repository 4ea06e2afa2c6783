using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using QRCoder;

namespace Zandrik.Web.Labels;

/// <summary>A code that a phone reads, as one SVG path.</summary>
public static class QrCode
{
    /// <summary>Draws an address.</summary>
    /// <param name="address">What the code says.</param>
    /// <param name="says">What it is, for whoever does not see it; the address itself where that is no secret.</param>
    public static HtmlString Draw(string address, string? says = null)
    {
        using var maker = new QRCodeGenerator();
        using var data = maker.CreateQrCode(address, QRCodeGenerator.ECCLevel.M);
        var cells = data.ModuleMatrix;
        var path = new StringBuilder();
        for (var y = 0; y < cells.Count; y++)
        {
            for (var x = 0; x < cells[y].Length; x++)
            {
                if (cells[y][x])
                {
                    path.Append(CultureInfo.InvariantCulture, $"M{x} {y}h1v1h-1z");
                }
            }
        }
        return new HtmlString(string.Create(CultureInfo.InvariantCulture,
            $"<svg class=\"qr\" viewBox=\"0 0 {cells.Count} {cells.Count}\" role=\"img\" aria-label=\"{System.Net.WebUtility.HtmlEncode(says ?? $"Code that opens {address}")}\" shape-rendering=\"crispEdges\"><rect width=\"{cells.Count}\" height=\"{cells.Count}\" fill=\"#fff\"/><path d=\"{path}\" fill=\"#000\"/></svg>"));
    }
}
