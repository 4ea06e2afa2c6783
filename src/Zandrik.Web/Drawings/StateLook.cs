using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;

namespace Zandrik.Web.Drawings;

/// <summary>
/// The one place of state colours, textures, marks and words: state is never colour alone, and the four
/// always agree.
/// </summary>
public static class StateLook
{
    /// <summary>The word.</summary>
    public static string Word(CylinderState state) => state switch
    {
        CylinderState.Sound => "sound",
        CylinderState.Watch => "watch",
        CylinderState.Low => "low",
        CylinderState.Dead => "dead",
        CylinderState.High => "high",
        _ => "untested",
    };

    /// <summary>The word of a finding of the dry test: a reading with nothing to hold it against has no state yet.</summary>
    public static string Word(CylinderFinding finding) => finding.IsAlone ? "not judged" : Word(finding.State);

    /// <summary>The class that colours the word of a finding: as untested where there is nothing to hold it against.</summary>
    public static string Class(CylinderFinding finding) => Class(finding.IsAlone ? CylinderState.Untested : finding.State);

    /// <summary>The class that colours text and drawings.</summary>
    public static string Class(CylinderState state) => "is-" + Word(state);

    /// <summary>The class that colours what is said of a whole engine.</summary>
    public static string Class(EngineState state) => state switch { EngineState.Sound => "is-sound", EngineState.Faulty => "is-low", _ => "is-watch" };

    /// <summary>The mark, drawn about the origin in a square of 16: nothing for sound.</summary>
    public static string Mark(CylinderState state) => state switch
    {
        CylinderState.Watch => "<path class=\"mark\" d=\"M0-8 8 7H-8Z\"/>",
        CylinderState.Low => "<path class=\"mark\" d=\"M-7-7H7V7H-7Z\"/>",
        CylinderState.High => "<path class=\"mark-line\" d=\"M-8 4 0-5 8 4\"/>",
        CylinderState.Dead => "<path class=\"mark-line\" d=\"M-7-7 7 7M7-7-7 7\"/>",
        CylinderState.Untested => "<path class=\"mark-line\" d=\"M-7 0H7\"/>",
        _ => "",
    };

    /// <summary>The textures, as SVG definitions; once in each page, where every drawing of it finds them.</summary>
    public const string Textures =
        "<defs>"
        + "<pattern id=\"t-watch\" width=\"9\" height=\"9\" patternUnits=\"userSpaceOnUse\"><rect class=\"t-watch-ground\" width=\"9\" height=\"9\"/><circle class=\"t-watch-dot\" cx=\"2.5\" cy=\"2.5\" r=\"1.7\"/><circle class=\"t-watch-dot\" cx=\"7\" cy=\"7\" r=\"1.7\"/></pattern>"
        + "<pattern id=\"t-low\" width=\"9\" height=\"9\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(45)\"><rect class=\"t-low-ground\" width=\"9\" height=\"9\"/><rect class=\"t-low-line\" width=\"3.4\" height=\"9\"/></pattern>"
        + "<pattern id=\"t-oil\" width=\"6\" height=\"6\" patternUnits=\"userSpaceOnUse\"><rect class=\"t-oil-ground\" width=\"6\" height=\"6\"/><rect class=\"t-oil-line\" width=\"2.6\" height=\"6\"/></pattern>"
        + "</defs>";
}
