namespace Zandrik.Core.Readings;

/// <summary>Whether limits that are absolute pressures can be held against a test at all.</summary>
public enum AbsoluteLimits
{
    /// <summary>They apply.</summary>
    Apply,

    /// <summary>The engine was cold: shown, but they make no cylinder low.</summary>
    Indicative,

    /// <summary>A slip in the test shifts every reading: withheld.</summary>
    Withheld,
}
