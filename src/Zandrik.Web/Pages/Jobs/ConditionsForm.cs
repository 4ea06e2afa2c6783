using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Web.Front;

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
    public string? CountMode { get; set; }
    public string? BarometricKPa { get; set; }
    public string? NeedleAtZero { get; set; }

    /// <summary>
    /// These over what is recorded: fields that were not sent stay as they are. A tap sends only what was tapped, so that two
    /// people at one test do not undo each other.
    /// </summary>
    /// <param name="before">What is recorded.</param>
    /// <param name="fields">Takes the messages.</param>
    /// <param name="sent">Whether a field came with the form.</param>
    public TestConditions Over(TestConditions? before, TypedFields fields, Func<string, bool> sent)
    {
        var now = before ?? new TestConditions();
        return now with
        {
            EngineTemperature = sent(nameof(EngineTemperature)) ? Word<EngineTemperature>(EngineTemperature) : now.EngineTemperature,
            Throttle = sent(nameof(Throttle)) ? Word<ThrottlePlate>(Throttle) : now.Throttle,
            Plugs = sent(nameof(Plugs)) ? Word<PlugsRemoved>(Plugs) : now.Plugs,
            Fuel = sent(nameof(Fuel)) ? Word<Supply>(Fuel) : now.Fuel,
            Ignition = sent(nameof(Ignition)) ? Word<Supply>(Ignition) : now.Ignition,
            Battery = sent(nameof(Battery)) ? Word<BatteryState>(Battery) : now.Battery,
            CheckValve = sent(nameof(CheckValve)) ? Word<CheckValvePlace>(CheckValve) : now.CheckValve,
            CountMode = sent(nameof(CountMode)) ? Word<CountMode>(CountMode) : now.CountMode,
            BarometricKPa = sent(nameof(BarometricKPa)) ? fields.Number(BarometricKPa, "barometer", 40, 115) : now.BarometricKPa,
            NeedleAtZero = sent(nameof(NeedleAtZero)) ? NeedleAtZero switch { "yes" => true, "no" => false, _ => null } : now.NeedleAtZero,
        };
    }

    /// <summary>
    /// The choices as they are shown. Which of them changes what the numbers can say is Core's to know: a
    /// choice is marked when the test carries one of its validity codes.
    /// </summary>
    public static IReadOnlyList<ConditionChoice> Choices(TestConditions? now, bool throttled, IReadOnlyList<ValidityNote> validity)
    {
        var c = now ?? new TestConditions();
        ConditionChoice Choice(string name, string label, string word, ValidityCode[] codes, params (string, string)[] words) =>
            new(name, label, word, word.Length > 0 && validity.Any(v => v.Cylinders.Count == 0 && codes.Contains(v.Code)), words);
        var choices = new List<ConditionChoice>
        {
            Choice(nameof(EngineTemperature), "Engine", Of(c.EngineTemperature), [ValidityCode.EngineCold], ("warm", "warm"), ("cold", "cold")),
            Choice(nameof(Throttle), "Throttle", Of(c.Throttle), [ValidityCode.ThrottleClosed, ValidityCode.ThrottleUnverified], ("open", "seen open"), ("closed", "shut"), ("unverified", "not looked at")),
            Choice(nameof(Plugs), "Plugs", Of(c.Plugs), [ValidityCode.PlugsOneAtATime], ("all-out", "all out"), ("one-at-a-time", "one at a time")),
            Choice(nameof(Fuel), "Fuel", Of(c.Fuel), [ValidityCode.FuelOn], ("off", "off"), ("on", "on")),
            Choice(nameof(Ignition), "Ignition", Of(c.Ignition), [ValidityCode.IgnitionOn], ("off", "off"), ("on", "on")),
            Choice(nameof(Battery), "Battery", Of(c.Battery), [ValidityCode.BatteryWeak], ("charger", "on charger"), ("good", "good"), ("weak", "weak")),
            Choice(nameof(NeedleAtZero), "Needle", c.NeedleAtZero switch { true => "yes", false => "no", null => "" }, [ValidityCode.GaugeNotZero], ("yes", "at zero"), ("no", "not at zero")),
            Choice(nameof(CountMode), "Cranked", Of(c.CountMode), [ValidityCode.PulsesFew, ValidityCode.PulsesUnequal], ("until-stopped", "until it stops"), ("pulses", "a set count"), ("seconds", "a set time")),
            Choice(nameof(CheckValve), "Check valve", Of(c.CheckValve), [ValidityCode.CheckValveInHead], ("hose-tip", "at hose tip"), ("gauge-head", "in gauge head")),
        };
        if (!throttled)
        {
            choices.RemoveAt(1);
        }
        return choices;
    }

    /// <summary>What differs between a test as it stood and as it stands: "Throttle: shut, now seen open". Empty where nothing a person can note differs.</summary>
    /// <param name="before">As it stood.</param>
    /// <param name="after">As it stands.</param>
    public static IReadOnlyList<string> Differences(DryCompressionTest before, DryCompressionTest after)
    {
        static IEnumerable<(string Label, string Says)> Noted(DryCompressionTest test) =>
        [
            .. Choices(test.Conditions, throttled: true, []).Select(c => (c.Label, c.Words.FirstOrDefault(w => w.Word == c.Now).Text ?? "not noted")),
            ("Barometer", test.Conditions?.BarometricKPa is { } kPa ? $"{TypedFields.Text(kPa)} kPa" : "not noted"),
            ("Gauge", test.Tester is { } gauge ? gauge.Label ?? "no name" : "not noted"),
            ("Compressions each", test.Count is { } count ? $"{count}" : "not noted"),
            ("Order", test.TestOrder is { } order ? CylinderList.Text(order) : "as the plan says"),
            ("This test", test.Role == TestRole.GaugeCheck ? "is a gauge check" : "judges the engine"),
        ];
        return [.. Noted(before).Zip(Noted(after)).Where(p => p.First.Says != p.Second.Says).Select(p => $"{p.First.Label}: {p.First.Says}, now {p.Second.Says}")];
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
/// <param name="IsSlip">True when what is recorded changes what the numbers can say.</param>
/// <param name="Words">The words, and what they are called.</param>
public sealed record ConditionChoice(string Name, string Label, string Now, bool IsSlip, IReadOnlyList<(string Word, string Text)> Words);
