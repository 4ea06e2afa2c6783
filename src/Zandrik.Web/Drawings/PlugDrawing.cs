using Microsoft.AspNetCore.Html;
using Zandrik.Core.Records;

namespace Zandrik.Web.Drawings;

/// <summary>A plug's nose, drawn with what is seen on it: each sign has its own shape, not only its colour.</summary>
public static class PlugDrawing
{
    private const string Shell =
        "<path class=\"plug-shell\" d=\"M14 4h20v14h4v34H10V18h4Z\"/><path class=\"plug-thread\" d=\"M10 24h28M10 31h28M10 38h28M10 45h28\"/>"
        + "<path class=\"plug-nose\" d=\"M19 52h10l-2 14h-6Z\"/><path class=\"plug-electrode\" d=\"M22.5 66h3v6h-3ZM34 52v24H25v-4h5V52Z\"/>";

    /// <summary>Draws one sign; null draws a plug nobody has read.</summary>
    public static HtmlString Draw(PlugSign? sign) => new($"<svg class=\"plug {(sign is { } s ? "sign-" + RecordWords.Of(s) : "sign-none")}\" viewBox=\"0 0 48 84\" width=\"48\" height=\"84\" aria-hidden=\"true\">{Shell}{Marks(sign)}</svg>");

    private static string Marks(PlugSign? sign) => sign switch
    {
        PlugSign.OilWet => "<path class=\"wet\" d=\"M16 56q4 6 0 9q-4-3 0-9M31 58q4 6 0 9q-4-3 0-9\"/>",
        PlugSign.FuelWet => "<path class=\"wet\" d=\"M17 55l-4 9h8ZM31 55l-4 9h8Z\"/>",
        PlugSign.CoolantWet => "<path class=\"wet\" d=\"M12 58q3-4 6 0t6 0t6 0t6 0M12 65q3-4 6 0t6 0t6 0t6 0\"/>",
        PlugSign.CoolantCleaned => "<path class=\"clean\" d=\"M18 60l2-5 2 5 5 2-5 2-2 5-2-5-5-2Z\"/>",
        PlugSign.DrySoot => "<g class=\"soot\"><circle cx=\"18\" cy=\"56\" r=\"2\"/><circle cx=\"24\" cy=\"60\" r=\"2.4\"/><circle cx=\"29\" cy=\"56\" r=\"2\"/><circle cx=\"21\" cy=\"65\" r=\"2\"/><circle cx=\"27\" cy=\"67\" r=\"2\"/></g>",
        PlugSign.Flashover => "<path class=\"track\" d=\"M20 6l4 6-4 4 5 6\"/>",
        PlugSign.Broken => "<path class=\"track\" d=\"M17 57l6 3-3 4 8 3\"/>",
        PlugSign.Normal => "<path class=\"fine\" d=\"M18 60l4 4 8-8\"/>",
        _ => "",
    };
}
