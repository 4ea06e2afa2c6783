using System.Globalization;
using Zandrik.Core.Deciding;
using Zandrik.Core.Records;
using Zandrik.Web.Front;

namespace Zandrik.Web.Reports;

/// <summary>One option as an owner reads it.</summary>
/// <param name="Title">What it is.</param>
/// <param name="Does">What is done.</param>
/// <param name="Figure">What it costs, one figure.</param>
/// <param name="Between">From low to high; absent where there is nothing to pay.</param>
/// <param name="Chance">How likely it helps.</param>
/// <param name="Days">How long the vehicle is away; absent for not at all.</param>
/// <param name="More">What else to know.</param>
/// <param name="IsChosen">True for the one the shop would do.</param>
public sealed record OwnersOption(string Title, string Does, string Figure, string? Between, string Chance, string? Days, IReadOnlyList<string> More, bool IsChosen);

/// <summary>What was decided for the owner of the vehicle, on one page: the page in the shop and the one behind a link are made from it.</summary>
/// <param name="Shop">The shop.</param>
/// <param name="Number">The job's number.</param>
/// <param name="Vehicle">The vehicle.</param>
/// <param name="Engine">The engine.</param>
/// <param name="Finding">What the readings say.</param>
/// <param name="Made">When it was decided.</param>
/// <param name="Until">Until when a link opens; absent in the shop.</param>
/// <param name="Options">Two or three options, the chosen one first.</param>
/// <param name="HowCounted">How the figures were counted.</param>
public sealed record OwnersOptions(string Shop, string Number, string Vehicle, string Engine, string Finding, string Made, string? Until, IReadOnlyList<OwnersOption> Options, string HowCounted)
{
    /// <summary>The page of a decision.</summary>
    /// <param name="decided">The decision.</param>
    /// <param name="shop">The shop's name.</param>
    /// <param name="job">The job's number.</param>
    /// <param name="vehicle">The vehicle.</param>
    /// <param name="engine">The engine.</param>
    /// <param name="made">The day it was decided.</param>
    /// <param name="until">The day until which a link opens; absent in the shop.</param>
    public static OwnersOptions Of(DecisionSnapshot decided, string shop, int job, string vehicle, EngineSheet engine, string made, string? until)
    {
        var cost = new CostText(decided.Rate, decided.Currency);
        return new(shop, job.ToString("0000", CultureInfo.InvariantCulture), vehicle, ShopText.Engine(engine), decided.Finding, made, until,
            [.. decided.ForOwner.Select(o => Option(o, o.Word == decided.Chosen))],
            cost.IsMoney ? "Work, parts and machining together, as far as they can be known before the engine is open. Opened, it may turn out otherwise: then we ask you first."
                : "In hours of work; parts and machining are counted as hours that cost as much. Opened, it may turn out otherwise: then we ask you first.");

        OwnersOption Option(DecidedOption o, bool chosen)
        {
            var leave = o.Total.High <= 0;
            var tenths = (int)Math.Round(10 * o.Cured);
            return new(o.Plain, o.Does, leave ? "nothing now" : $"about {cost.Of(o.Total.Likely)}", leave ? null : cost.Range(o.Total),
                leave ? (o.Cured > 0.5 ? $"In {tenths} of 10 such engines nothing is wrong inside." : "What is wrong stays wrong.") : $"Afterwards {Math.Clamp(tenths, 0, 10)} of 10 such engines are right.",
                o.Days.High <= 0 ? null : $"In the workshop {Math.Max(1, (int)Math.Floor(o.Days.Low))} to {Math.Max(2, (int)Math.Ceiling(o.Days.High))} days.", [.. new[] { o.Waiting, o.Buys is null ? null : $"Good for {ShopText.LowerFirst(o.Buys)}" }.OfType<string>()], chosen);
        }
    }
}
