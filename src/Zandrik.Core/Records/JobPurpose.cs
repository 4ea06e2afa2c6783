namespace Zandrik.Core.Records;

/// <summary>What a job is for. It is never part of the open record: practice is not a record.</summary>
public enum JobPurpose
{
    /// <summary>A real engine.</summary>
    Work,

    /// <summary>An engine that was made up for practice.</summary>
    Practice,
}
