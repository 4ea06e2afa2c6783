using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>Retests as a calendar that any program for appointments reads: one day-long entry for each engine, on the day in the shop's time zone.</summary>
public static class RetestCalendar
{
    /// <summary>Entries this far ahead, at most.</summary>
    public const int MostEntries = 2000;

    /// <summary>The address behind which a calendar lies, with its secret part.</summary>
    public static string Address(string secret) => $"/calendar/{secret}.ics";

    /// <summary>The calendar.</summary>
    /// <param name="lines">The engines; those without a day are left out.</param>
    /// <param name="who">The shop, for its time zone and style.</param>
    /// <param name="now">The time.</param>
    /// <param name="site">Where the pages are, for links: scheme and host.</param>
    public static string Of(IEnumerable<FleetLine> lines, ShopPerson who, DateTimeOffset now, string site)
    {
        var calendar = new Calendar { ProductId = "-//Zandrik//Retests//EN" };
        calendar.AddProperty("X-WR-CALNAME", $"Retests, {who.Shop}");
        foreach (var line in lines.Where(l => l.Due is not null))
        {
            // What is due since long is due today: a calendar shows nobody last year.
            var day = ShopText.LocalDay(line.Due!.Value < now ? now : line.Due.Value, who);
            var why = RecordWords.TryParse<RetestWhy>(line.Why, out var word) ? LifeText.Why(word) : "";
            calendar.Events.Add(new CalendarEvent
            {
                Uid = $"retest-{who.ShopId}-{line.Engine}@zandrik", DtStamp = new CalDateTime(now.UtcDateTime), Start = new CalDateTime(day), Summary = $"Retest {line.Name}",
                Description = $"{line.Design ?? "Engine"}{(line.Serial is { } serial ? $", {serial}" : "")}. Why: {why}.", Url = new Uri($"{site}/vehicles/engines/{line.Engine}"), Transparency = TransparencyType.Transparent,
            });
        }
        return new CalendarSerializer().SerializeToString(calendar) ?? "";
    }

    /// <summary>Answers the secret address of a shop's calendar; a guessed one and a revoked one are nothing.</summary>
    public static void Map(WebApplication app) => app.MapGet("/calendar/{file}", async (string file, HttpContext http, SignInStore signIn, FleetStore fleet, TimeProvider clock, CancellationToken cancel) =>
    {
        const string Ending = ".ics";
        if (!file.EndsWith(Ending, StringComparison.Ordinal) || file.Length > 64 || await signIn.ByFeedAsync(file[..^Ending.Length], cancel) is not { } who)
        {
            return Results.NotFound();
        }
        await fleet.RefreshAsync(who, cancel: cancel);
        var now = clock.GetUtcNow();
        http.Response.Headers.CacheControl = "private, max-age=900";
        return Results.Text(Of(await fleet.DueAsync(who, now.AddYears(2), MostEntries, cancel), who, now, $"{http.Request.Scheme}://{http.Request.Host}"), "text/calendar; charset=utf-8");
    }).AllowAnonymous().ExcludeFromDescription();
}
