using System.Globalization;
using Zandrik.Core.Verdicts;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Reports;

/// <summary>A job for the owner of the vehicle, on one page: page and PDF are made from it.</summary>
/// <param name="Shop">The shop.</param>
/// <param name="Number">The job's number.</param>
/// <param name="Vehicle">The vehicle, with what it has run.</param>
/// <param name="Engine">The engine.</param>
/// <param name="Report">What the owner is told.</param>
/// <param name="Standing">Who says so, or that nobody signed yet.</param>
/// <param name="Picture">The cylinders as they sit; absent where nothing was measured.</param>
/// <param name="ShownIn">What its figures are, with their unit.</param>
/// <param name="Made">When it was made.</param>
public sealed record OwnerSheet(string Shop, string Number, string Vehicle, string Engine, OwnerReport Report, string Standing, ColumnsPicture? Picture, string ShownIn, string Made)
{
    /// <summary>How the drawing is read.</summary>
    public string HowToRead => $"The drawing shows the cylinders as they sit in the engine, seen from above. The fuller a column, the better. The figures ({ShownIn}) are what was read.";

    /// <summary>The page of a job.</summary>
    /// <param name="job">The job.</param>
    /// <param name="said">What is said: as it was signed, or as things stand.</param>
    /// <param name="signed">The verdict that stands; absent while none is signed.</param>
    /// <param name="who">The shop and person.</param>
    /// <param name="now">The time.</param>
    public static OwnerSheet Of(Job job, VerdictSnapshot said, KeptVerdict? signed, ShopPerson who, DateTimeOffset now)
    {
        var odometer = ShopText.Odometer(job.Record.Vehicle?.Odometer);
        return new OwnerSheet(who.Shop, job.Number.ToString("0000", CultureInfo.InvariantCulture), odometer.Length > 0 ? $"{job.Title}, {odometer}" : job.Title, ShopText.Engine(said.Record.Engine),
            OwnerReport.Of(said, signed is { Line.Agrees: false } ? [.. signed.Said.Select(s => s.People)] : null),
            signed is null ? "This is how things stand today; nobody has signed it yet." : $"Signed by {signed.Line.By}, {ShopText.Day(signed.Line.At, who)}.{(signed.SameAsNow ? "" : " More has been measured or noted since then.")}",
            said.Shown.Any(s => s.Level is not null) ? VerdictPicture.Of(said) : null, said.ShownIn, ShopText.Day(now, who));
    }
}
