using Xunit.Sdk;
using Xunit.v3;
using Zandrik.Web.Tests;

// Each class has a site and a browser of its own and waits most of its time for one of them: four at once keep two cores busy.
[assembly: Parallelization(Mode = ParallelMode.Collections, MaxThreads = 4)]
[assembly: TestCollectionOrderer(typeof(LongestFirst))]
[assembly: TestCaseOrderer(typeof(OrderByName))]

namespace Zandrik.Web.Tests;

/// <summary>The same order on every machine: without it the order follows the path of the assembly.</summary>
public sealed class OrderByName : ITestCaseOrderer
{
    public IReadOnlyCollection<TTestCase> OrderTestCases<TTestCase>(IReadOnlyCollection<TTestCase> testCases)
        where TTestCase : notnull, ITestCase =>
        [.. testCases.OrderBy(c => c.TestCaseDisplayName, StringComparer.Ordinal)];
}

/// <summary>The classes that take minutes begin first, so that none of them is left to run alone at the end.</summary>
public sealed class LongestFirst : ITestCollectionOrderer
{
    private static readonly string[] Long = ["KillTests", "LaptopAccessibilityTests", "PhoneAccessibilityTests", "MutatedFormsTests", "MutatedCapturesTests", "DryInFullTests", "DryFlowTests", "LeakDownFlowTests", "NothingLostTests", "StartTests"];

    public IReadOnlyCollection<TTestCollection> OrderTestCollections<TTestCollection>(IReadOnlyCollection<TTestCollection> testCollections)
        where TTestCollection : notnull, ITestCollection =>
        [.. testCollections.OrderBy(c => Place(c.TestCollectionDisplayName)).ThenBy(c => c.TestCollectionDisplayName, StringComparer.Ordinal)];

    private static int Place(string collection)
    {
        var place = Array.FindIndex(Long, name => collection.Contains(name, StringComparison.Ordinal));
        return place < 0 ? Long.Length : place;
    }
}

/// <summary>What holds for the whole process.</summary>
internal static class TestProcess
{
    // A browser test holds a thread while it waits for a server that needs threads of the same pool.
    [System.Runtime.CompilerServices.ModuleInitializer]
    internal static void EnoughThreads() => ThreadPool.SetMinThreads(64, 64);
}
