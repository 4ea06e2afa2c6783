namespace Zandrik.Core.Records;

/// <summary>What was noticed before a test, in the workshop's words: one for the screens, the plan and the ledger.</summary>
public static class ObservationWords
{
    /// <summary>The words of an observation.</summary>
    /// <returns>The words, lower case; never empty.</returns>
    public static string Of(Observation observation) => observation switch
    {
        Observation.StoodLong => "sat unused",
        Observation.BlowBy => "blow-by",
        _ => RecordWords.Of(observation).Replace('-', ' '),
    };
}
