namespace Zandrik.Web.Help;

/// <summary>A page of help, short enough to be read at the engine: what a step tells, how it is done, what fools it, what can hurt.</summary>
/// <param name="Word">Its word in the address.</param>
/// <param name="Title">What it is called, as the step is.</param>
/// <param name="Tells">What it tells, a sentence or two.</param>
/// <param name="How">How it is done, in order.</param>
/// <param name="Fools">What can fool it; empty where nothing is measured.</param>
/// <param name="Cautions">What can hurt somebody; empty where nothing can.</param>
public sealed record HelpTopic(string Word, string Title, string Tells, IReadOnlyList<string> How, IReadOnlyList<string> Fools, IReadOnlyList<string> Cautions)
{
    /// <summary>What every page of help ends with.</summary>
    public const string MakerFirst = "The maker's service information and local rules come first; a licensed technician decides.";

    /// <summary>Every page, in working order.</summary>
    public static IReadOnlyList<HelpTopic> All => HelpPages.All;

    /// <summary>The page of a step by what the step is called; absent where it has none of its own.</summary>
    public static HelpTopic? OfStep(string step) => All.FirstOrDefault(t => t.Title == step || step.StartsWith(t.Title + " ", StringComparison.Ordinal)) ?? (step.Length > 0 && SmallChecks.Contains(step) ? All.First(t => t.Word == "checks") : null);

    private static readonly HashSet<string> SmallChecks = [.. Core.Checks.SupportingCheck.All.Select(c => c.Name), .. Core.Checks.SupportingCheck.All.Select(c => c.Short)];

    /// <summary>The pages in which every word stands, those that have it in their title first.</summary>
    /// <param name="text">What is looked for; nothing for all pages.</param>
    public static IReadOnlyList<HelpTopic> Find(string? text)
    {
        var words = (text ?? "").Split([' ', ',', '.', '?'], StringSplitOptions.RemoveEmptyEntries);
        bool In(string where, string word) => where.Contains(word, StringComparison.OrdinalIgnoreCase);
        return [.. All.Where(t => words.All(w => t.Text.Any(line => In(line, w)))).OrderByDescending(t => words.Count(w => In(t.Title, w)))];
    }

    /// <summary>The sentence that answers a search; the first one for none.</summary>
    public string Answer(string? text)
    {
        var words = (text ?? "").Split([' ', ',', '.', '?'], StringSplitOptions.RemoveEmptyEntries);
        return words.Length == 0 ? Tells : Text.Skip(1).OrderByDescending(line => words.Count(w => line.Contains(w, StringComparison.OrdinalIgnoreCase))).First();
    }

    private IEnumerable<string> Text => [Title, Tells, .. How, .. Fools, .. Cautions];
}
