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

    [GeneratedRegex(@"^\s*(//|@\*|\*)")]
    private static partial Regex Comment();
}
