using System.Text.RegularExpressions;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Web.Tests.Front;

/// <summary>Words that a technician has to puzzle out stay out of what is shown.</summary>
public sealed partial class WorkshopWordsTests
{
    internal static readonly string[] Out =
    [
        "a slip in the test", "school by school", "Schools of spread", "What it says", "Everybody's", "how often this is what is found", "Together: odds", "hardly pumps", "hear each other", "as any engine",
        "walls washed by fuel", "a short stroke, as of", "nothing engine-wide", "accuses a cylinder", "Wants checking", "Bring it", "Judge it", "Opened to be heard", "To the work", "It stands.", "Looked at again",
        "open something", "look further", "cooling water", "steam-cleaned", "firing top dead centre", "Take it back", "What makes it false", "Brought back", "brought back", "Has left", "the sheet away", "not enough yet", "stood long", "mostly plug", "faintly at", "\"Slot\"", "slot that is dead", "gasket to cylinder",
    ];

    [Fact]
    public void They_are_in_no_text_of_the_program()
    {
        string[] kinds = [".cs", ".cshtml", ".js"];
        var found = Directory.EnumerateFiles(Path.Combine(Repository.Root, "src"), "*", SearchOption.AllDirectories)
            .Where(f => kinds.Contains(Path.GetExtension(f)) && !f.Split(Path.DirectorySeparatorChar).Any(p => p is "obj" or "bin" or "lib"))
            .SelectMany(f => File.ReadLines(f).Where(l => !Comment().IsMatch(l)).SelectMany(l => Out.Where(w => l.Contains(w, StringComparison.Ordinal)).Select(w => $"{Path.GetFileName(f)}: {w}")));
        found.ShouldBeEmpty();
    }

    [Fact]
    public void Every_fault_has_words_of_the_trade() =>
        Enum.GetValues<Fault>().Select(f => FaultWords.Of(f)).ShouldAllBe(w => w.Length > 3 && !Out.Any(o => w.Contains(o, StringComparison.Ordinal)));

    [Fact]
    public void Messages_and_paper_say_none_of_the_words_that_only_code_may_use()
    {
        var found = Directory.EnumerateFiles(Path.Combine(Repository.Root, "src"), "*.cs", SearchOption.AllDirectories)
            // The API's description speaks to those who read figures by program; decibans and bits stand behind Why.
            .Where(f => !f.Split(Path.DirectorySeparatorChar).Any(p => p is "obj" or "bin" or "Api" or "Explanation.cs"))
            .SelectMany(f => File.ReadLines(f).Where(l => !Comment().IsMatch(l)).SelectMany(l => Literal().Matches(l)).Select(m => Hole().Replace(m.Groups[1].Value, ""))
                // A word alone is a name of the code.
                .Where(t => t.Contains(' ', StringComparison.Ordinal)).SelectMany(t => OnScreens().Matches(t)).Select(m => $"{Path.GetFileName(f)}: {m.Value}"));
        found.ShouldBeEmpty();
    }

    // Words of the list that code may well use and a screen may not; "School minibus" is a vehicle of the demo.
    [GeneratedRegex(@"(?<!\.)\b(Keep it|Kept|Keep the|[Ss]chools?(?! minibus)|Slips?|blow by|Refit|decibans?|bits|Everybody's|Taken back|All together|Together:)\b")]
    internal static partial Regex OnScreens();

    [GeneratedRegex("\"((?:[^\"\\\\]|\\\\.)*)\"")]
    private static partial Regex Literal();

    [GeneratedRegex(@"\{[^{}]*\}")]
    private static partial Regex Hole();

    [GeneratedRegex(@"^\s*(//|@\*|\*)")]
    private static partial Regex Comment();
}
