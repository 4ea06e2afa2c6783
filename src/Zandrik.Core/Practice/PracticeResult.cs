namespace Zandrik.Core.Practice;

/// <summary>What was called, and what it was worth.</summary>
/// <param name="Call">The call.</param>
/// <param name="Score">The points.</param>
/// <param name="Minutes">Minutes of work it took.</param>
/// <param name="GoodMinutes">Minutes of the good way.</param>
/// <param name="Hazards">How often somebody could have been hurt.</param>
public sealed record PracticeResult(PracticeCall Call, PracticeScore Score, double Minutes, double GoodMinutes, int Hazards);

/// <summary>How somebody stands at a theme.</summary>
/// <param name="Theme">The theme.</param>
/// <param name="Runs">How many exercises of it were called.</param>
/// <param name="Average">Mean of their points, 0 to 100; 0 for none.</param>
/// <param name="Best">The best of them, points.</param>
public sealed record PracticeStanding(PracticeTheme Theme, int Runs, double Average, int Best)
{
    /// <summary>Somebody's standing at every theme.</summary>
    /// <param name="called">Number and points of each exercise that was called.</param>
    /// <returns>One for each theme, in their order.</returns>
    public static IReadOnlyList<PracticeStanding> Of(IReadOnlyCollection<(int Case, int Points)> called) =>
        [.. Enum.GetValues<PracticeTheme>().Select(t => called.Where(c => PracticeCases.ThemeOf(c.Case) == t).Select(c => c.Points).ToList() is { Count: > 0 } some ? new PracticeStanding(t, some.Count, some.Average(), some.Max()) : new(t, 0, 0, 0))];

    /// <summary>What to try next: the theme that went worst, a level up where the last ones went well.</summary>
    /// <param name="called">Number and points of each exercise that was called, oldest first.</param>
    /// <returns>The number of an exercise that was not called yet where there is one.</returns>
    public static int Next(IReadOnlyList<(int Case, int Points)> called)
    {
        var weakest = Of(called).OrderBy(s => s.Runs == 0 ? 60 : s.Average).ThenBy(s => s.Theme).First().Theme;
        var last = called.Where(c => PracticeCases.ThemeOf(c.Case) == weakest).TakeLast(2).ToList();
        var level = last.Count == 0 ? PracticeLevel.Clear : last.All(c => c.Points >= 75) ? (PracticeLevel)Math.Min(2, 1 + (int)PracticeCases.LevelOf(last[^1].Case)) : PracticeCases.LevelOf(last[^1].Case);
        var done = called.Select(c => c.Case).ToHashSet();
        return Enumerable.Range(1, PracticeCases.Count).OrderBy(n => done.Contains(n)).ThenBy(n => PracticeCases.ThemeOf(n) != weakest).ThenBy(n => Math.Abs(PracticeCases.LevelOf(n) - level)).ThenBy(n => n).First();
    }
}
