using System.Globalization;
using System.Text.RegularExpressions;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Testers;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>Numbers, dates and words as the shop reads them.</summary>
public static partial class ShopText
{
    /// <summary>A day and time in the shop's own time zone and style.</summary>
    public static string Time(DateTimeOffset at, ShopPerson who) => $"{Day(at, who)} {Clock(at, who)}";

    /// <summary>A day in the shop's own time zone and style.</summary>
    public static string Day(DateTimeOffset at, ShopPerson who) => Day(DateOnly.FromDateTime(Local(at, who).DateTime), who);

    /// <summary>A day in the shop's style.</summary>
    public static string Day(DateOnly day, ShopPerson who) => day.ToString(who.Settings.Dates switch
    {
        DateStyle.DayMonthName => "d MMM yyyy",
        DateStyle.DayFirst => "dd'.'MM'.'yyyy",
        DateStyle.MonthFirst => "MM'/'dd'/'yyyy",
        _ => "yyyy-MM-dd",
    }, CultureInfo.InvariantCulture);

    /// <summary>The time of day in the shop's own time zone.</summary>
    public static string Clock(DateTimeOffset at, ShopPerson who) => Local(at, who).ToString("HH:mm", CultureInfo.InvariantCulture);

    /// <summary>How a shop writes figures: the invariant culture with its decimal mark.</summary>
    public static CultureInfo Culture(ShopPerson who) => who.Settings.Numbers == NumberStyle.Comma ? WithComma : CultureInfo.InvariantCulture;

    private static readonly CultureInfo WithComma = MakeWithComma();

    private static CultureInfo MakeWithComma()
    {
        var culture = (CultureInfo)CultureInfo.InvariantCulture.Clone();
        culture.NumberFormat.NumberDecimalSeparator = ",";
        culture.NumberFormat.NumberGroupSeparator = "\u202F";
        return CultureInfo.ReadOnly(culture);
    }

    /// <summary>An odometer or hour meter: thousands apart by a thin space.</summary>
    public static string Odometer(Odometer? odometer) => odometer is null
        ? ""
        : odometer.Value.ToString("#,0.#", CultureInfo.CurrentCulture.NumberFormat.NumberDecimalSeparator == "," ? WithComma : Thin) + "\u202F" + RecordWords.Of(odometer.Unit);

    /// <summary>The unit the shop's gauges read.</summary>
    public static Core.Units.PressureUnit UnitOf(ShopPerson who) => RecordWords.Parse(who.Unit, Core.Units.PressureUnit.Psi);

    /// <summary>The day of a moment in the shop's own time zone.</summary>
    public static DateOnly LocalDay(DateTimeOffset at, ShopPerson who) => DateOnly.FromDateTime(Local(at, who).DateTime);

    /// <summary>The day it is in the shop.</summary>
    public static DateOnly Today(TimeProvider clock, ShopPerson who) => DateOnly.FromDateTime(Local(clock.GetUtcNow(), who).DateTime);

    /// <summary>The instant at which a day begins in the shop.</summary>
    public static DateTimeOffset Midnight(DateOnly day, ShopPerson who)
    {
        var zone = TimeZoneInfo.FindSystemTimeZoneById(who.TimeZone);
        var local = day.ToDateTime(TimeOnly.MinValue);
        return new DateTimeOffset(local, zone.GetUtcOffset(local)).ToUniversalTime();
    }

    /// <summary>A kind of tester as it is spoken.</summary>
    public static string TesterKind(TesterKind kind) => kind switch
    {
        Core.Testers.TesterKind.LeakDown => "leak-down tester",
        Core.Testers.TesterKind.Clamp => "current clamp",
        _ => "gauge",
    };

    /// <summary>A role as it is spoken.</summary>
    public static string Role(ShopRole role) => RecordWords.Of(role);

    /// <summary>An engine in a line: "2.0 inline four, petrol".</summary>
    public static string Engine(EngineSheet engine)
    {
        var name = engine.Name ?? Shape(engine);
        return engine.Fuel is { } fuel && !name.Contains(RecordWords.Of(fuel), StringComparison.OrdinalIgnoreCase)
            ? $"{name}, {Fuel(fuel)}"
            : name;
    }

    // An engine without a name is called by its shape: inline four, V8.
    private static string Shape(EngineSheet engine)
    {
        var n = engine.Cylinders;
        var count = n is > 1 and < 7 ? Counts[n - 2] : $"{n}";
        return engine.Layout switch
        {
            CylinderArrangement.Inline when n > 1 => $"Inline {count}",
            CylinderArrangement.Flat when n > 1 => $"Flat {count}",
            CylinderArrangement.V => $"V{n}",
            CylinderArrangement.W => $"W{n}",
            _ => $"{n}-cylinder engine",
        };
    }

    private static readonly string[] Counts = ["two", "three", "four", "five", "six"];

    /// <summary>A fuel as it is spoken.</summary>
    public static string Fuel(Fuel fuel) => fuel is Core.Records.Fuel.Lpg or Core.Records.Fuel.Cng
        ? RecordWords.Of(fuel).ToUpperInvariant()
        : RecordWords.Of(fuel);

    /// <summary>A hyphenated word of a closed list as people read it.</summary>
    public static string Words<T>(T member)
        where T : struct, Enum => member is Observation seen ? ObservationWords.Of(seen) : RecordWords.Of(member).Replace('-', ' ');

    /// <summary>A hyphenated word as a sentence begins with it.</summary>
    public static string Sentence(string word) => char.ToUpperInvariant(word[0]) + word[1..].Replace('-', ' ');

    /// <summary>The leading cause of the whole engine in a line.</summary>
    public static string WholeEngine(EngineSuspect leading) => leading.Fault == Fault.None ? "No whole-engine cause" : $"Whole engine: {leading.Says}, {Percent(leading.Probability)} %";

    /// <summary>What is done, as a sentence begins with it.</summary>
    public static string Action(RepairAction action) => action == RepairAction.None ? "No action" : action == RepairAction.RunClearRetest ? "Run clear and retest" : Sentence(RecordWords.Of(action));

    /// <summary>Text that goes on in a sentence.</summary>
    public static string LowerFirst(string text) => text.Length == 0 ? text : char.ToLowerInvariant(text[0]) + text[1..];

    /// <summary>A probability in whole percent; never 0 or 100, for nothing is certain.</summary>
    public static string Percent(double probability) => probability switch
    {
        < 0.01 => "<1",
        > 0.99 => ">99",
        _ => (100 * probability).ToString("0", CultureInfo.CurrentCulture),
    };

    /// <summary>A weight in decibans with its sign.</summary>
    public static string Db(double db) => db.ToString("+0.0;−0.0;0.0", CultureInfo.CurrentCulture);

    /// <summary>A share of one in whole percent, a dash where there is none; what rounds to nothing has no sign.</summary>
    public static string Share(double? share) => share is { } s ? (100 * s).ToString("0;−0;0", CultureInfo.CurrentCulture) + " %" : "–";

    /// <summary>The same of a change, with its sign.</summary>
    public static string Change(double? share) => share is { } s ? (100 * s).ToString("+0;−0;0", CultureInfo.CurrentCulture) + " %" : "–";

    /// <summary>A firing order as it is stamped on an engine.</summary>
    public static string FiringOrder(EngineSheet engine) => CylinderList.Text(engine.FiringOrder);

    /// <summary>A sentence whose figures keep their unit beside them when a line breaks.</summary>
    public static string Unbroken(string sentence) => UnitAfterFigure().Replace(sentence, "\u00A0");

    [GeneratedRegex(@"(?<=\d) (?=%|psi|bar|kPa|kgf|m\b)")]
    private static partial Regex UnitAfterFigure();

    private static readonly NumberFormatInfo Thin = new() { NumberGroupSeparator = "\u202F" };

    private static DateTimeOffset Local(DateTimeOffset at, ShopPerson who) =>
        TimeZoneInfo.TryFindSystemTimeZoneById(who.TimeZone, out var zone) ? TimeZoneInfo.ConvertTime(at, zone) : at;
}
