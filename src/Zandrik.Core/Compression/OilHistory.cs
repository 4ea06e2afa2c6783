using Zandrik.Core.Records;

namespace Zandrik.Core.Compression;

/// <summary>
/// Test oil that is left in a cylinder raises its next dry reading and hides what its rings lose. Which readings were
/// taken over oil follows from the order of the tests and their times, where nobody said it of the reading itself.
/// </summary>
public static class OilHistory
{
    /// <summary>
    /// The record with every dry and leak-down reading that was taken over oil saying so in its own conditions. A
    /// reading or test that says yes or no itself is left as it is; nothing else is changed.
    /// </summary>
    /// <param name="record">The job.</param>
    /// <returns>The same record where nothing is to be marked.</returns>
    public static TestRecord Marked(TestRecord record)
    {
        var tests = record.Tests ?? [];
        var oiled = Oiled(tests);
        if (oiled.Count == 0)
        {
            return record;
        }
        var marked = new TestEntry[tests.Count];
        var any = false;
        for (var i = 0; i < tests.Count; i++)
        {
            var test = tests[i];
            bool AfterOil(CylinderReading r) => Said(r, test) is null
                && oiled.TryGetValue(r.Cylinder, out var poured) && poured.Exists(p => IsAfter(i, r.At ?? test.At, p.Place, p.At));
            marked[i] = test switch
            {
                DryCompressionTest { Readings: { } r } t when r.Any(AfterOil) => t with { Readings = [.. r.Select(x => AfterOil(x) ? x with { Conditions = With(x) } : x)] },
                LeakDownTest { Readings: { } r } t when r.Any(AfterOil) => t with { Readings = [.. r.Select(x => AfterOil(x) ? x with { Conditions = With(x) } : x)] },
                _ => test,
            };
            any |= !ReferenceEquals(marked[i], test);
        }
        return any ? record with { Tests = marked } : record;
    }

    /// <summary>True where a reading says that it was taken over test oil.</summary>
    /// <param name="reading">The reading.</param>
    /// <param name="test">Its test, whose conditions hold where the reading has none.</param>
    /// <returns>False where nobody said anything about oil.</returns>
    public static bool IsOverOil(CylinderReading reading, TestEntry test) => Said(reading, test) == true;

    private static bool? Said(CylinderReading reading, TestEntry test) => (reading as LeakDownReading)?.Oiled ?? reading.Conditions?.OilBefore ?? test.Conditions?.OilBefore;

    private static TestConditions With(CylinderReading reading) => (reading.Conditions ?? new TestConditions()) with { OilBefore = true };

    private static Dictionary<int, List<(int Place, DateTimeOffset? At)>> Oiled(IReadOnlyList<TestEntry> tests)
    {
        var found = new Dictionary<int, List<(int, DateTimeOffset?)>>();
        for (var i = 0; i < tests.Count; i++)
        {
            foreach (var r in (tests[i] as WetCompressionTest)?.Readings?.Where(r => r.Value is not null && r.SupersededBy is null) ?? [])
            {
                (found.TryGetValue(r.Cylinder, out var poured) ? poured : found[r.Cylinder] = []).Add((i, r.At ?? tests[i].At));
            }
        }
        return found;
    }

    // Times decide where both are known and differ; else the order in which the tests stand.
    private static bool IsAfter(int place, DateTimeOffset? at, int pouredPlace, DateTimeOffset? pouredAt) =>
        at is { } a && pouredAt is { } p && a != p ? a > p : place > pouredPlace;
}
