namespace Zandrik.Core.Conditions;

/// <summary>How much a slip or a condition weighs.</summary>
public enum Severity
{
    /// <summary>Worth knowing.</summary>
    Note,

    /// <summary>Changes what the numbers can say.</summary>
    Caution,

    /// <summary>The reading is not used.</summary>
    Invalid,
}

/// <summary>What the way of testing did to the numbers: one code of the open format, in plain words.</summary>
/// <param name="Code">Which; in the open format its word, as in <c>throttle-closed</c>.</param>
/// <param name="Severity">How much it weighs.</param>
/// <param name="Says">One plain sentence that says what to do.</param>
/// <param name="Cylinders">The cylinders it concerns; empty when it concerns the whole test.</param>
public sealed record ValidityNote(ValidityCode Code, Severity Severity, string Says, IReadOnlyList<int> Cylinders);
