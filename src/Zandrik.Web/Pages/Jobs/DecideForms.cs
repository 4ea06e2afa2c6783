using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
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
