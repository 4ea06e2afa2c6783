using Zandrik.Core.Records;

namespace Zandrik.Core.Engines;

/// <summary>What a shop knows of an engine beside its figures: how to get there, how it is turned and held, and where it tends to fail.</summary>
public sealed record WorkshopSheet
{
    /// <summary>Thread of the plugs (or glow plugs), as in M14; absent when not known.</summary>
    public string? PlugThread { get; init; }

    /// <summary>Pitch of that thread, mm.</summary>
    public double? PlugPitchMm { get; init; }

    /// <summary>Reach of the plug, mm: an adapter of another reach hits piston or valve, or seals on nothing.</summary>
    public double? PlugReachMm { get; init; }

    /// <summary>Socket for the plug, mm across flats.</summary>
    public double? PlugSocketMm { get; init; }

    /// <summary>Depth of the plug well, mm.</summary>
    public double? WellDepthMm { get; init; }

    /// <summary>What has to come off, in order.</summary>
    public IReadOnlyList<AccessStep> Access { get; init; } = [];

    /// <summary>Socket for the crank bolt, mm across flats.</summary>
    public double? CrankBoltMm { get; init; }

    /// <summary>What must come off before the crank can be turned by hand.</summary>
    public string? CrankAccess { get; init; }

    /// <summary>How the crank is held for a leak-down.</summary>
    public string? HeldBy { get; init; }

    /// <summary>Known weaknesses of this engine family, in the shop's own words.</summary>
    public string? Weaknesses { get; init; }

    /// <summary>Where each figure comes from.</summary>
    public IReadOnlyList<FigureSource> Sources { get; init; } = [];

    /// <summary>Minutes until the plugs can be reached.</summary>
    public double AccessMinutes => Access.Sum(a => a.Minutes);
}

/// <summary>One step on the way to the plugs.</summary>
/// <param name="Says">What is done.</param>
/// <param name="Minutes">How long it takes.</param>
public sealed record AccessStep(string Says, double Minutes);

/// <summary>Where a figure of the maker comes from.</summary>
/// <param name="Figure">The figure: nominal, minimum, maxDifference, maxLeakPercent or wetAllowed.</param>
/// <param name="Source">The document, page or plate.</param>
/// <param name="CheckedBy">Who checked it against that.</param>
/// <param name="CheckedOn">When.</param>
public sealed record FigureSource(string Figure, string Source, string? CheckedBy = null, DateOnly? CheckedOn = null)
{
    /// <summary>The figures that can have a source, with what they are called.</summary>
    public static IReadOnlyList<(string Figure, string Name)> Figures { get; } =
    [
        ("nominal", "Nominal"), ("minimum", "Minimum"), ("maxDifference", "Largest difference"), ("maxLeakPercent", "Largest leak-down loss"), ("wetAllowed", "Wet test"),
    ];
}

/// <summary>A whole sheet: the engine as it stands in the open record, and what the shop knows besides.</summary>
/// <param name="Engine">The engine; its name is the sheet's.</param>
/// <param name="Workshop">The shop's own part.</param>
public sealed record EngineDocument(EngineSheet Engine, WorkshopSheet Workshop);
