using System.Globalization;
using Zandrik.Core.Assessment;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>
/// A job of the <see cref="Whiteboard"/> and, after the arrow, what must come out of it, parts apart by semicolons; a bar stands for "or". "engine faulty"; "3 is low|dead"; "not 3 is high"; "3 leads rings"; "3 rings|piston 0.8"
/// (at least so likely, together); "not 3 rings 0.3" (less than that); "3 open" (no fault more likely than not); "3 named sound" (its leading suspect, in words); "cause cam-timing 0.5"; "not-cause carbon 0.3"; "nobody" (no cylinder is accused); "first leak-down 3", "next
/// leak-down 3" and "never leak-down 3" (offers, with that cylinder where one is named); "nothing" (no offer at all); "do head-off" and "dont overhaul"; "code throttle-closed" and "no-code …"; "headline …", "owner …",
/// "says …" and "unsaid …" (words that stand, or stand nowhere, in the headline, the owner's paragraph or any sentence of the judgement).
/// </summary>
internal static class Situation
{
    /// <summary>Fails with everything that is said of the job where a part does not hold.</summary>
    public static void Holds(string text)
    {
        var (job, expected) = (text.Split("=>")[0], text.Split("=>")[1]);
        var assessed = JobAssessment.Of(Whiteboard.Job(job), progress: new JobProgress { Shown = PressureUnit.Psi });
        var said = assessed.Diagnosis;
        var owner = VerdictSnapshot.Of(assessed).Owner;
        string[] sentences = [said.Headline, owner, .. said.Cylinders.Select(c => c.Says), .. said.Actions.Select(a => $"{a.Says} {string.Join(" ", a.Checks)}"), .. assessed.Next.Select(n => n.Why), .. said.Validity.Select(v => v.Says)];
        var all = $"{job}\n{said.State}: {said.Headline}\n{string.Join("\n", said.Cylinders.Select(c => $"{c.Cylinder} {c.State} [{c.Says}] {string.Join(" ", c.Suspects.Take(5).Select(s => $"{RecordWords.Of(s.Fault)}{(s.With is { } w ? $"({w})" : "")} {Figure(s.Probability)}"))}"))}\n"
            + $"{string.Join(" ", said.Suspects.Take(5).Select(s => $"{RecordWords.Of(s.Fault)} {Figure(s.Probability)}"))}\nnext {string.Join(", ", assessed.Next.Select(n => $"{RecordWords.Of(n.Kind)} {string.Join("-", n.Cylinders)} {n.GainBits}/{n.Minutes}"))}\n"
            + $"do {string.Join(", ", said.Actions.Select(a => RecordWords.Of(a.Action)))}\n{string.Join(" ", said.Validity.Select(v => RecordWords.Of(v.Code)))}\n{owner}";
        bool Is(string part)
        {
            var not = part.StartsWith("not ", StringComparison.Ordinal);
            var words = (not ? part[4..] : part).Split(' ');
            var rest = words.Length > 1 ? part[(part.IndexOf(' ', StringComparison.Ordinal) + 1)..] : "";
            var holds = words[0] switch
            {
                "engine" => words[1].Split('|').Contains(RecordWords.Of(said.State)),
                "nobody" => said.Cylinders.All(c => c.Of(Fault.Sound) + c.Of(Fault.TestError) > 0.5),
                "cause" => Cause(said, words[1]) >= Last(words),
                "not-cause" => Cause(said, words[1]) < Last(words),
                "code" => said.Validity.Any(v => RecordWords.Of(v.Code) == words[1]),
                "no-code" => said.Validity.All(v => RecordWords.Of(v.Code) != words[1]),
                "first" => Offered(assessed.Next.Take(1), words),
                "next" => Offered(assessed.Next, words),
                "never" => !Offered(assessed.Next, words),
                "nothing" => assessed.Next.Count == 0,
                "do" => said.Actions.Any(a => RecordWords.Of(a.Action) == words[1]),
                "dont" => said.Actions.All(a => RecordWords.Of(a.Action) != words[1]),
                "headline" => said.Headline.Contains(rest, StringComparison.OrdinalIgnoreCase),
                "owner" => owner.Contains(rest, StringComparison.OrdinalIgnoreCase),
                "says" => sentences.Any(s => s.Contains(rest, StringComparison.OrdinalIgnoreCase)),
                "unsaid" => sentences.All(s => !s.Contains(rest, StringComparison.OrdinalIgnoreCase)),
                _ => AtCylinder(said.Cylinders[int.Parse(words[0], CultureInfo.InvariantCulture) - 1], words),
            };
            return holds != not;
        }
        expected.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Where(part => !Is(part)).ShouldBeEmpty(all);
    }

    private static bool AtCylinder(CylinderDiagnosis at, string[] words) => words[1] switch
    {
        "is" or "state" => words[2].Split('|').Contains(RecordWords.Of(at.State)),
        "leads" => words[2].Split('|').Contains(RecordWords.Of(at.Leading.Fault)),
        "also" => at.AlsoLikely.Count > 0,
        "named" => at.NameOf(at.Leading) == string.Join(' ', words[2..]),
        "open" => at.Suspects.Where(s => s.Fault != Fault.Sound).GroupBy(s => s.Fault).All(g => g.Sum(s => s.Probability) <= FaultWords.Said),
        _ => words[1].Split('|').Sum(f => at.Of(Word(f))) >= Last(words),
    };

    private static bool Offered(IEnumerable<NextStep> offers, string[] words) =>
        offers.Any(n => words[1].Split('|').Contains(RecordWords.Of(n.Kind)) && (words.Length < 3 || n.Cylinders.Contains(int.Parse(words[2], CultureInfo.InvariantCulture))));

    private static double Cause(EngineDiagnosis said, string words) => words.Split('|').Sum(f => said.Suspects.Where(s => s.Fault == Word(f)).Sum(s => s.Probability));

    private static Fault Word(string word) => RecordWords.TryParse<Fault>(word, out var f) ? f : throw new ArgumentException(word);

    private static double Last(string[] words) => double.Parse(words[^1], CultureInfo.InvariantCulture);

    private static string Figure(double probability) => probability.ToString("0.000", CultureInfo.InvariantCulture);
}
