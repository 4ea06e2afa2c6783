using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;

namespace Zandrik.Web.Drawings;

/// <summary>Leak-down states in the look that every state has: texture, mark, word and colour agree.</summary>
public static class LeakLook
{
    /// <summary>The state whose look it has.</summary>
    public static CylinderState State(LeakState state) => state switch
    {
        LeakState.Good => CylinderState.Sound,
        LeakState.Watch => CylinderState.Watch,
        LeakState.Bad => CylinderState.Low,
        _ => CylinderState.Untested,
    };

    /// <summary>The word.</summary>
    public static string Word(LeakState state) => state switch
    {
        LeakState.Good => "good",
        LeakState.Watch => "watch",
        LeakState.Bad => "bad",
        LeakState.NotUsed => "not used",
        _ => "not read",
    };

    /// <summary>The class that colours it.</summary>
    public static string Class(LeakState state) => StateLook.Class(State(state));
}
