using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Shop;

/// <summary>The shop's settings as they are typed.</summary>
public sealed class SettingsForm
{
    public string? Name { get; set; }
    public string? TimeZone { get; set; }
    public string? Unit { get; set; }
    public string? Numbers { get; set; }
    public string? Dates { get; set; }
    public string? LabourRate { get; set; }
    public string? Currency { get; set; }
    public string? Deciding { get; set; }
    public List<MethodForm> Methods { get; set; } = [];
    public string? Altitude { get; set; }
    public string? Barometer { get; set; }
    public string? LeakDown { get; set; }
    public string? Relative { get; set; }
    public string? Wet { get; set; }
    public string? Squirt { get; set; }
    public string? Cap { get; set; }
    public string? Spoon { get; set; }
    public string? HouseRules { get; set; }

    public static SettingsForm Of(ShopPerson who)
    {
        var s = who.Settings;
        // As the trade has it where the shop has chosen nothing: fixed pounds are for small engines.
        var inUse = s.JudgeBy?.MethodsInUse ?? [.. Enum.GetValues<SpreadMethod>().Where(x => x != SpreadMethod.FixedPressure)];
        return new SettingsForm
        {
            Name = who.Shop,
            TimeZone = who.TimeZone,
            Unit = who.Unit,
            Numbers = RecordWords.Of(s.Numbers),
            Dates = RecordWords.Of(s.Dates),
            LabourRate = TypedFields.Text(s.LabourRate),
            Currency = s.Currency,
            Deciding = s.JudgeBy?.DecidingMethod is { } deciding ? RecordWords.Of(deciding) : "",
            Methods = [.. Enum.GetValues<SpreadMethod>().Select(x => new MethodForm
            {
                Method = RecordWords.Of(x),
                InUse = inUse.Contains(x),
                Good = TypedFields.Text(s.JudgeBy?.Limits?.GetValueOrDefault(x)?[0]),
                Marginal = TypedFields.Text(s.JudgeBy?.Limits?.GetValueOrDefault(x)?[1]),
            })],
            Altitude = TypedFields.Text(s.JudgeBy?.AltitudeM),
            Barometer = TypedFields.Text(s.BarometricKPa),
            LeakDown = s.JudgeBy?.LeakDownMethod is { } leak ? RecordWords.Of(leak) : "workshop",
            Relative = TypedFields.Text(s.JudgeBy?.RelativeLimitPercent),
            Wet = RecordWords.Of(s.Wet),
            Squirt = TypedFields.Text(s.SquirtMl),
            Cap = TypedFields.Text(s.CapMl),
            Spoon = TypedFields.Text(s.SpoonMl),
            HouseRules = string.Join("\n", s.HouseRules.Select(r => $"{r.Family}: {r.Says}")),
        };
    }

    /// <summary>Reads the form; every field that needs another look is in <paramref name="fields"/>.</summary>
    public ShopSettings Read(TypedFields fields)
    {
        if (string.IsNullOrWhiteSpace(Name) || Name.Trim().Length > 100)
        {
            fields.Add("name", "Write the shop's name, at most 100 characters.");
        }
        if (string.IsNullOrWhiteSpace(TimeZone) || !TimeZoneInfo.TryFindSystemTimeZoneById(TimeZone.Trim(), out var zone) || !zone.HasIanaId)
        {
            fields.Add("time-zone", "Choose one of the list: a continent or ocean, a slash, and a place.");
        }
        var limits = new Dictionary<SpreadMethod, IReadOnlyList<double>>();
        var inUse = new List<SpreadMethod>();
        foreach (var row in Methods)
        {
            if (!RecordWords.TryParse<SpreadMethod>(row.Method, out var method))
            {
                continue;
            }
            if (row.InUse)
            {
                inUse.Add(method);
            }
            var field = "limit-" + row.Method;
            var (good, marginal) = (fields.Number(row.Good, field, 0, 100), fields.Number(row.Marginal, field, 0, 100));
            if (good is { } g && marginal is { } m)
            {
                if (method == SpreadMethod.LowestToHighest ? g < m : g > m)
                {
                    fields.Add(field, method == SpreadMethod.LowestToHighest ? "Good starts higher than marginal here." : "Marginal goes on where good ends: write the larger figure there.");
                }
                limits[method] = [g, m];
            }
            else if (fields.Problem(field) is null && (good is null) != (marginal is null))
            {
                fields.Add(field, "Write both limits, or none.");
            }
        }
        var rules = new List<HouseRule>();
        foreach (var line in (HouseRules ?? "").Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            if (colon < 1 || colon == line.Length - 1)
            {
                fields.Add("house-rules", $"Write family, colon, rule: “{(line.Length > 40 ? line[..40] + "…" : line)}” has no colon between the two.");
                continue;
            }
            rules.Add(new HouseRule(line[..colon].Trim(), line[(colon + 1)..].Trim()));
        }
        var usual = Enum.GetValues<SpreadMethod>().Where(x => x != SpreadMethod.FixedPressure);
        var judgeBy = new JudgeBy
        {
            DecidingMethod = RecordWords.TryParse<SpreadMethod>(Deciding, out var deciding) ? deciding : null,
            Limits = limits.Count > 0 ? limits : null,
            MethodsInUse = inUse.SequenceEqual(usual) ? null : inUse,
            LeakDownMethod = RecordWords.TryParse<LeakDownMethod>(LeakDown, out var leak) && leak != LeakDownMethod.Workshop ? leak : null,
            RelativeLimitPercent = fields.Number(Relative, "relative", 50, 99),
            AltitudeM = fields.Number(Altitude, "altitude", -500, 6000),
        };
        return new ShopSettings
        {
            Numbers = RecordWords.Parse(Numbers, NumberStyle.Point),
            Dates = RecordWords.Parse(Dates, DateStyle.YearFirst),
            JudgeBy = judgeBy == new JudgeBy() ? null : judgeBy,
            BarometricKPa = fields.Number(Barometer, "barometer", 40, 115),
            Wet = RecordWords.Parse(Wet, WetMethod.LeakDownFirst),
            SquirtMl = fields.Number(Squirt, "squirt", 0.1, 100),
            CapMl = fields.Number(Cap, "cap", 0.1, 100),
            SpoonMl = fields.Number(Spoon, "spoon", 0.1, 100),
            LabourRate = fields.Number(LabourRate, "labour-rate", 0, 1e6),
            Currency = string.IsNullOrWhiteSpace(Currency) ? null : Currency.Trim(),
            HouseRules = rules,
        };
    }
}

/// <summary>One method of the settings.</summary>
public sealed class MethodForm
{
    public string Method { get; set; } = "";
    public bool InUse { get; set; }
    public string? Good { get; set; }
    public string? Marginal { get; set; }

    public string Name => RecordWords.TryParse<SpreadMethod>(Method, out var method) ? SpreadFinding.NameOf(method) : Method;
}
