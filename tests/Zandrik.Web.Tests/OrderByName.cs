using Xunit.Sdk;
using Xunit.v3;
using Zandrik.Web.Tests;

// A browser, a server and a database fill the machine: one class after the other, each with a site of its own.
[assembly: Parallelization(Mode = ParallelMode.None)]
[assembly: TestCaseOrderer(typeof(OrderByName))]

namespace Zandrik.Web.Tests;

/// <summary>The same order on every machine: without it the order follows the path of the assembly.</summary>
public sealed class OrderByName : ITestCaseOrderer
{
    public IReadOnlyCollection<TTestCase> OrderTestCases<TTestCase>(IReadOnlyCollection<TTestCase> testCases)
        where TTestCase : notnull, ITestCase =>
        [.. testCases.OrderBy(c => c.TestCaseDisplayName, StringComparer.Ordinal)];
}
