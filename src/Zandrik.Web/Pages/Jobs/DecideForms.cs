using Zandrik.Core.Engines;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The owner's side, as it is typed.</summary>
public sealed class InputsForm
{
    public string? Worth { get; set; }

    public string? DayRate { get; set; }

    public string? KmAYear { get; set; }

    public string? YearsToLast { get; set; }

    public string? Wishes { get; set; }

    /// <summary>True where somebody typed something.</summary>
    public bool IsTyped => (Worth ?? DayRate ?? KmAYear ?? YearsToLast ?? Wishes) is not null;

    /// <summary>The form of what is kept.</summary>
    public static InputsForm Of(DecisionInputs i) => new()
    {
        Worth = TypedFields.Text(i.Worth), DayRate = TypedFields.Text(i.DayRate), KmAYear = TypedFields.Text(i.KmAYear), YearsToLast = TypedFields.Text(i.YearsToLast), Wishes = i.Wishes,
    };

    /// <summary>What it says.</summary>
    public DecisionInputs Read(TypedFields fields) => new()
    {
        Worth = fields.Number(Worth, "worth", 0, DecisionInputs.MostMoney),
        DayRate = fields.Number(DayRate, "day-rate", 0, DecisionInputs.MostMoney),
        KmAYear = fields.Number(KmAYear, "km-a-year", 0, 1_000_000),
        YearsToLast = fields.Number(YearsToLast, "years", 0, 50),
        Wishes = fields.Text(Wishes, "wishes", DecisionInputs.LongestWishes),
    };
}

/// <summary>What was done, as it is typed.</summary>
public sealed class RepairForm
{
    public string? Option { get; set; }

    public string? Cylinders { get; set; }

    public string? Hours { get; set; }

    public string? Right { get; set; }

    public string? Day { get; set; }

    public string? Says { get; set; }

    /// <summary>The entry it puts right; absent for a new one.</summary>
    public long? Replaces { get; set; }

    /// <summary>What it says; absent where it needs another look.</summary>
    /// <param name="fields">Takes what is wrong.</param>
    /// <param name="cylinders">How many the engine has.</param>
    /// <param name="today">The day it is in the shop.</param>
    public (RepairDone Done, DateOnly? Day)? Read(TypedFields fields, int cylinders, DateOnly today)
    {
        if (Option is null || RepairWords.Parse(Option) is null)
        {
            fields.Add("done-option", "Choose what was done.");
        }
        var touched = string.IsNullOrWhiteSpace(Cylinders) ? [] : CylinderList.Read(Cylinders);
        if (touched is null || touched.Any(c => c < 1 || c > cylinders))
        {
            fields.Add("done-cylinders", $"Write cylinder numbers from 1 to {cylinders} with a blank between, or leave it empty for all.");
        }
        var hours = fields.Number(Hours, "done-hours", 0, RepairDone.MostMinutes / 60);
        var day = fields.Day(Day, "done-day");
        if (day > today)
        {
            fields.Add("done-day", "That day has not come yet.");
        }
        var says = fields.Text(Says, "done-says", RepairDone.LongestRemark);
        return fields.Problems.Count > 0 ? null
            : (new RepairDone { Option = Option!, Cylinders = [.. touched!.Distinct().Order()], Minutes = hours * 60, WasRight = Right switch { "yes" => true, "no" => false, _ => null }, Says = says }, day);
    }

    /// <summary>The form of an entry that is put right.</summary>
    public static RepairForm Of(KeptRepair kept, ShopPerson who) => new()
    {
        Option = kept.Done.Option, Cylinders = string.Join(" ", kept.Done.Cylinders), Hours = TypedFields.Text(kept.Done.Minutes / 60), Right = kept.Done.WasRight switch { true => "yes", false => "no", _ => "" },
        Day = ShopText.LocalDay(kept.DoneAt, who).ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture), Says = kept.Done.Says, Replaces = kept.Id,
    };
}

/// <summary>A figure of a repair, as it is typed: low, likely and high of each, all three or none.</summary>
public sealed class FigureForm
{
    public string? What { get; set; }

    /// <summary>True for every engine, false for those of the sheet.</summary>
    public bool EveryEngine { get; set; }

    public string?[] Minutes { get; set; } = [];

    public string?[] Parts { get; set; } = [];

    public string?[] Machining { get; set; } = [];

    public string?[] Days { get; set; } = [];

    /// <summary>What it says; absent where it needs another look.</summary>
    public RepairFigure? Read(TypedFields fields)
    {
        Estimate? Three(string?[] typed, string field, double most)
        {
            var read = Enumerable.Range(0, 3).Select(i => fields.Number(typed.ElementAtOrDefault(i), field, 0, most)).ToList();
            if (fields.Problem(field) is not null || read.All(r => r is null))
            {
                return null;
            }
            // The likely one alone is enough: the rule spreads it.
            if (read is [null, { } only, null])
            {
                return Estimate.About(only);
            }
            if (read is not [{ } low, { } likely, { } high] || low > likely || likely > high)
            {
                fields.Add(field, "Write the likely figure alone, or low, likely and high in that order.");
                return null;
            }
            return new Estimate(low, likely, high);
        }
        var figure = new RepairFigure(What ?? "", Three(Minutes, "minutes", 60_000), Three(Parts, "parts", DecisionInputs.MostMoney), Three(Machining, "machining", DecisionInputs.MostMoney), Three(Days, "days", 365));
        return fields.Problems.Count > 0 || !(figure.What.StartsWith("access-", StringComparison.Ordinal) || RecordWords.TryParse<Repair>(figure.What, out _)) ? null : figure;
    }
}
