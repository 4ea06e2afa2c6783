using Zandrik.Core.Practice;
using Zandrik.Core.Records;

namespace Zandrik.Web.Practice;

/// <summary>Words of the practice bench.</summary>
public static class PracticeText
{
    /// <summary>A level.</summary>
    public static string Of(PracticeLevel level) => level switch { PracticeLevel.Clear => "Clear", PracticeLevel.Everyday => "Everyday", _ => "Hard" };

    /// <summary>A theme.</summary>
    public static string Of(PracticeTheme theme) => theme switch
    {
        PracticeTheme.OneCylinder => "One cylinder",
        PracticeTheme.Gasket => "Head gasket",
        PracticeTheme.Valves => "Valves",
        PracticeTheme.Diesel => "Diesel",
        PracticeTheme.TestErrors => "Test errors",
        PracticeTheme.NothingWrong => "Nothing wrong",
        PracticeTheme.TwoFaults => "Two faults",
        _ => "Cannot be told",
    };

    /// <summary>What is said of a state that was not so.</summary>
    public static string Of(Fault fault) => char.ToUpperInvariant(Core.Diagnosis.FaultWords.Of(fault)[0]) + Core.Diagnosis.FaultWords.Of(fault)[1..];
}
