using Zandrik.Core.Records;

namespace Zandrik.Core.Safety;

/// <summary>What keeps a line of the reassembly from being ticked: air on anywhere, and a start with liquid in a cylinder.</summary>
public static class RefitGuard
{
    /// <summary>The line of the start.</summary>
    public const string Started = "started";

    /// <summary>The rule by which a line is ticked while the job is open, for where nobody can be asked.</summary>
    /// <param name="item">The word of the line.</param>
    /// <returns>What it needs; it makes nothing so.</returns>
    public static GuardRule Rule(string item) => item == Started ? JobSafety.CrankingRule : new([JobSafety.CrankingRule.Needs[0]], []);

    /// <summary>Why a line is not ticked now, with what to do; absent when it may be. A tick may always be taken away.</summary>
    /// <param name="safety">How the job stands.</param>
    /// <param name="item">The word of the line.</param>
    /// <param name="done">False for a tick taken away.</param>
    /// <returns>One sentence with what to do first; null when it may be ticked.</returns>
    public static string? Refuses(JobSafety safety, string item, bool done) =>
        safety.ForbidsWriting ?? (!done ? null : safety.ForbidsUnderAir ?? (item == Started ? safety.ForbidsStart : null));
}
