namespace Zandrik.Core.Safety;

/// <summary>What keeps a line of the reassembly from being ticked: air on anywhere, and a start with liquid in a cylinder.</summary>
public static class RefitGuard
{
    /// <summary>The line of the start.</summary>
    public const string Started = "started";

    /// <summary>Why a line is not ticked now, with what to do; absent when it may be. A tick may always be taken away.</summary>
    /// <param name="safety">How the job stands.</param>
    /// <param name="item">The word of the line.</param>
    /// <param name="done">False for a tick taken away.</param>
    /// <returns>One sentence with what to do first; null when it may be ticked.</returns>
    public static string? Refuses(JobSafety safety, string item, bool done) =>
        safety.ForbidsWriting ?? (!done ? null : safety.ForbidsUnderAir ?? (item == Started ? safety.ForbidsStart : null));
}
