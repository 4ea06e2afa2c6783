using Zandrik.Core.Compression;

namespace Zandrik.Web.Drawings;

/// <summary>
/// Cylinders as they sit, each a sight glass whose level is a reading. The same picture serves every
/// kind of test: levels only have to share a scale (pressure, held air, percent).
/// </summary>
public sealed record ColumnsPicture
{
    /// <summary>What the picture shows, for people who cannot see it.</summary>
    public required string Title { get; init; }

    /// <summary>Cylinder numbers by bank, front of the engine first.</summary>
    public required IReadOnlyList<IReadOnlyList<int>> Banks { get; init; }

    /// <summary>The glass of each cylinder.</summary>
    public required IReadOnlyDictionary<int, Glass> Glasses { get; init; }

    /// <summary>The level that fills a glass to the brim.</summary>
    public required double FullScale { get; init; }

    /// <summary>Lines across all glasses: minimum, nominal.</summary>
    public IReadOnlyList<LevelLine> Lines { get; init; } = [];

    /// <summary>The allowed spread, hanging from the reference.</summary>
    public SpreadBand? Band { get; init; }

    /// <summary>Webs of gasket between two columns that are suspected burnt.</summary>
    public IReadOnlyList<BurntWeb> Webs { get; init; } = [];

    /// <summary>The cylinder the pad stands on.</summary>
    public int? Selected { get; init; }

    /// <summary>What stands beside the arrow in front of a row, and in its disc under each glass, where a row is no bank and its glasses are no cylinders; absent for cylinders as they sit.</summary>
    public (string Row, Func<int, string> Disc)? Named { get; init; }

    /// <summary>Address that puts the pad on a cylinder; absent for a picture to look at.</summary>
    public Func<int, string>? Link { get; init; }

    /// <summary>The part of the page that such an address fetches anew.</summary>
    public string LinkTarget { get; init; } = "#bench";
}

/// <summary>One cylinder of the picture.</summary>
/// <param name="State">Its state: texture, mark and word agree.</param>
/// <param name="Level">Its level; absent leaves the glass empty.</param>
/// <param name="Figure">The figure above it, without unit.</param>
/// <param name="Says">The words for people who cannot see it.</param>
/// <param name="Notch">Level of the first pulse.</param>
/// <param name="InQuestion">True for a reading that is not used yet.</param>
/// <param name="Ghost">Level of the test before this one.</param>
/// <param name="Wet">Level after oil: what it gained sits on top as a second texture.</param>
/// <param name="Error">Standard error of the level: a bar reaches as far both ways.</param>
public sealed record Glass(CylinderState State, double? Level, string Figure, string Says, double? Notch = null, bool InQuestion = false, double? Ghost = null, double? Wet = null, double? Error = null);

/// <summary>A line across the glasses.</summary>
/// <param name="Level">Where.</param>
/// <param name="Name">What it is.</param>
/// <param name="Figure">Its figure, without unit.</param>
/// <param name="Firm">True for a limit that applies, false for one that is only shown.</param>
public sealed record LevelLine(double Level, string Name, string Figure, bool Firm);

/// <summary>The allowed spread.</summary>
/// <param name="Top">The reference.</param>
/// <param name="Bottom">The good limit of the deciding method below it.</param>
/// <param name="Name">What it is, in a word or two.</param>
public sealed record SpreadBand(double Top, double Bottom, string Name);

/// <summary>A web of gasket between two neighbours that is suspected burnt.</summary>
/// <param name="First">One cylinder.</param>
/// <param name="Second">The other.</param>
/// <param name="Says">The words for people who cannot see it.</param>
public sealed record BurntWeb(int First, int Second, string Says);
