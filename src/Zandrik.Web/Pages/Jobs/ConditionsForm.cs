using Zandrik.Core.Records;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The conditions of a test as they are tapped: words of the closed lists, empty for not noted.</summary>
public sealed class ConditionsForm
{
    public string? EngineTemperature { get; set; }
    public string? Throttle { get; set; }
    public string? Plugs { get; set; }
    public string? Fuel { get; set; }
    public string? Ignition { get; set; }
    public string? Battery { get; set; }
    public string? CheckValve { get; set; }
    public string? NeedleAtZero { get; set; }

    /// <summary>These over what is recorded: fields that the form does not show stay as they are.</summary>
    public TestConditions Over(TestConditions? before) => (before ?? new TestConditions()) with
    {
        EngineTemperature = Word<EngineTemperature>(EngineTemperature),
        Throttle = Word<ThrottlePlate>(Throttle),
        Plugs = Word<PlugsRemoved>(Plugs),
        Fuel = Word<Supply>(Fuel),
        Ignition = Word<Supply>(Ignition),
        Battery = Word<BatteryState>(Battery),
        CheckValve = Word<CheckValvePlace>(CheckValve),
        NeedleAtZero = NeedleAtZero switch { "yes" => true, "no" => false, _ => null },
    };

    /// <summary>The choices as they are shown: name of the field, label, words with what they mean, and which of them is a slip.</summary>
    public static IReadOnlyList<ConditionChoice> Choices(TestConditions? now, bool throttled)
    {
        var c = now ?? new TestConditions();
        var choices = new List<ConditionChoice>
        {
            new(nameof(EngineTemperature), "Engine", Of(c.EngineTemperature), [("warm", "warm", false), ("cold", "cold", true)]),
            new(nameof(Throttle), "Throttle", Of(c.Throttle), [("open", "seen open", false), ("closed", "shut", true), ("unverified", "not looked at", true)]),
            new(nameof(Plugs), "Plugs", Of(c.Plugs), [("all-out", "all out", false), ("one-at-a-time", "one at a time", true)]),
            new(nameof(Fuel), "Fuel", Of(c.Fuel), [("off", "off", false), ("on", "on", true)]),
            new(nameof(Ignition), "Ignition", Of(c.Ignition), [("off", "off", false), ("on", "on", true)]),
            new(nameof(Battery), "Battery", Of(c.Battery), [("charger", "on charger", false), ("good", "good", false), ("weak", "weak", true)]),
            new(nameof(NeedleAtZero), "Needle", c.NeedleAtZero switch { true => "yes", false => "no", null => "" }, [("yes", "at zero", false), ("no", "not at zero", true)]),
            new(nameof(CheckValve), "Check valve", Of(c.CheckValve), [("hose-tip", "at hose tip", false), ("gauge-head", "in gauge head", true)]),
        };
        if (!throttled)
        {
            choices.RemoveAt(1);
        }
        return choices;
    }

    private static string Of<T>(T? member)
        where T : struct, Enum => member is { } m ? RecordWords.Of(m) : "";

    private static T? Word<T>(string? typed)
        where T : struct, Enum => RecordWords.TryParse<T>(typed, out var member) ? member : null;
}

/// <summary>One condition to tap.</summary>
/// <param name="Name">Name of the field.</param>
/// <param name="Label">What it is called.</param>
/// <param name="Now">The word that is recorded; empty for none.</param>
/// <param name="Words">The words, what they are called, and whether they change what the numbers can say.</param>
public sealed record ConditionChoice(string Name, string Label, string Now, IReadOnlyList<(string Word, string Text, bool Slip)> Words)
{
    /// <summary>True when the recorded word changes what the numbers can say.</summary>
    public bool IsSlip => Words.Any(w => w.Word == Now && w.Slip);
}
