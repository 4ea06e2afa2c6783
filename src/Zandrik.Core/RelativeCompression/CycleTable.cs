using System.Globalization;
using System.Text;

namespace Zandrik.Core.RelativeCompression;

/// <summary>The folded cycle of an answer as a table, for whoever draws it elsewhere.</summary>
public static class CycleTable
{
    /// <summary>Writes it.</summary>
    /// <param name="answer">An answer that was not refused.</param>
    /// <returns>
    /// CSV in UTF-8 with a row for each angle: degrees of crank from the start of the cycle (0 to under 720), the cylinder whose top dead centre is the nearest (a letter where it is not known), the mean
    /// current about its mean, and that of each single cycle, A. Only its head for an answer without a cycle.
    /// </returns>
    public static string Write(RelativeAnswer answer)
    {
        var text = new StringBuilder("degrees,nearest,mean_a");
        for (var k = 1; k <= answer.EachCycle.Count; k++)
        {
            text.Append(CultureInfo.InvariantCulture, $",cycle_{k}_a");
        }
        text.Append('\n');
        var count = answer.MeanCycle.Count;
        for (var i = 0; i < count; i++)
        {
            var at = (double)i / count;
            var nearest = answer.Slots.MinBy(s => Math.Abs(Math.IEEERemainder(at - s.AtCycle, 1)));
            text.Append(CultureInfo.InvariantCulture, $"{720 * at:0.###},{(nearest is null ? "" : nearest.Cylinder?.ToString(CultureInfo.InvariantCulture) ?? SlotNames.Letter(nearest.Slot))},{answer.MeanCycle[i]:0.###}");
            foreach (var cycle in answer.EachCycle)
            {
                text.Append(CultureInfo.InvariantCulture, $",{cycle[i]:0.###}");
            }
            text.Append('\n');
        }
        return text.ToString();
    }
}
