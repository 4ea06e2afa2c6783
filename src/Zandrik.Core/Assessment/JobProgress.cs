using Zandrik.Core.Engines;
using Zandrik.Core.Safety;
using Zandrik.Core.Units;

namespace Zandrik.Core.Assessment;

/// <summary>What was done on a job beside its readings, as the shop floor knows it and a record does not.</summary>
public sealed record JobProgress
{
    /// <summary>Everything ticked and done at the steps, oldest first; absent for a record that comes alone, which does not say how the engine stands now.</summary>
    public IReadOnlyList<SafetyEvent>? Events { get; init; }

    /// <summary>True for a job that is closed.</summary>
    public bool IsClosed { get; init; }

    /// <summary>The unit pressures are shown in; absent for each test's own.</summary>
    public PressureUnit? Shown { get; init; }

    /// <summary>What the shop knows of the engine beside its sheet; absent for nothing.</summary>
    public WorkshopSheet? Workshop { get; init; }

    /// <summary>The verdict that is signed and stands; absent for none.</summary>
    public SignedAnswer? Signed { get; init; }
}

/// <summary>A verdict that somebody signed.</summary>
/// <param name="Headline">What they say.</param>
/// <param name="By">Who.</param>
public sealed record SignedAnswer(string Headline, string By);
