using ArchUnitNET.Domain;
using ArchUnitNET.Loader;
using ArchUnitNET.xUnitV3;
using Zandrik.Core.Compression;
using Zandrik.Storage;
using static ArchUnitNET.Fluent.ArchRuleDefinition;

namespace Zandrik.Web.Tests.Architecture;

/// <summary>Arrows point downward only: Web to Storage to Core, and Core to nothing of ours.</summary>
public sealed class ArrowsTests
{
    private static readonly ArchUnitNET.Domain.Architecture House = new ArchLoader()
        .LoadAssemblies(typeof(DryJudgement).Assembly, typeof(JobStore).Assembly, typeof(Program).Assembly).Build();

    private static readonly IObjectProvider<IType> Core = Types().That().ResideInAssembly(typeof(DryJudgement).Assembly);
    private static readonly IObjectProvider<IType> Storage = Types().That().ResideInAssembly(typeof(JobStore).Assembly);
    private static readonly IObjectProvider<IType> Web = Types().That().ResideInAssembly(typeof(Program).Assembly);

    [Fact]
    public void Core_knows_neither_storage_nor_web()
    {
        Types().That().Are(Core).Should().NotDependOnAny(Storage).AndShould().NotDependOnAny(Web).Check(House);
        References(typeof(DryJudgement)).ShouldNotContain(name => name.StartsWith("Microsoft.AspNetCore", StringComparison.Ordinal)
            || name.StartsWith("Npgsql", StringComparison.Ordinal) || name == "Dapper" || name.StartsWith("System.Net", StringComparison.Ordinal)
            // Unfolding gzipped bytes that it is given is no file of its own.
            || (name.StartsWith("System.IO", StringComparison.Ordinal) && name != "System.IO.Compression") || name.StartsWith("System.Data", StringComparison.Ordinal));
    }

    [Fact]
    public void Storage_knows_no_web() => Types().That().Are(Storage).Should().NotDependOnAny(Web).Check(House);

    // From what knows nothing of the others to what knows all of them: the list of docs/architecture.md.
    private static List<string> OrderOfCore() =>
        [.. File.ReadAllText(Path.Combine(Repository.Root, "docs", "architecture.md")).ReplaceLineEndings(" ").Split("namespaces of Core, lowest first:")[1].Split("```")[1].Split([' ', '\n', ','], StringSplitOptions.RemoveEmptyEntries)];

    [Fact]
    public void The_namespaces_of_core_use_only_those_below_them()
    {
        var order = OrderOfCore();
        static string? Place(IType type) => type.Namespace?.FullName is { } name && name.StartsWith("Zandrik.Core.", StringComparison.Ordinal) ? name.Split('.')[2] : null;
        var core = House.Types.Where(t => Place(t) is not null).ToList();
        core.Select(t => Place(t)!).Distinct().Order().ShouldBe(order.Order(), "every namespace of Core has its place in the list");
        var upward = core.SelectMany(t => t.Dependencies.Select(d => d.Target).Where(u => Place(u) is { } above && order.IndexOf(above) > order.IndexOf(Place(t)!)).Select(u => $"{t.FullName} uses {u.FullName}")).Distinct().ToList();
        upward.ShouldBeEmpty();
    }

    [Fact]
    public void Web_holds_no_sql_and_reaches_the_database_through_the_stores()
    {
        var source = Path.Combine(Repository.Root, "src", "Zandrik.Web");
        foreach (var file in Directory.EnumerateFiles(source, "*.cs*", SearchOption.AllDirectories).Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/bin/", StringComparison.Ordinal)))
        {
            File.ReadAllText(file).ShouldNotMatch(@"(?i)\b(select\s+.+\s+from\s|insert\s+into\s|update\s+\w+\s+set\s)", file);
        }
        References(typeof(Program)).ShouldNotContain("Dapper");
    }

    [Fact]
    public void A_job_is_judged_in_one_place()
    {
        // Pages, papers and stores are given an assessment. A record that comes alone is assessed by the API, a made-up one by the warm-up.
        string[] judges = ["EngineDiagnosis.Of(", "DryJudgement.Of(", "WetJudgement.Of(", "LeakDownJudgement.Of(", "RunningJudgement.Of(", "JobEvidence.Of(", "JobSafety.Of(", "TestPlan.For(", "LatestDryTest.", "NextStep.Of(", "StepProgress.For(", "JobClock.Spent(", "OfType<LeakDownTest>().Last()"];
        var sources = Sources("Zandrik.Web").Concat(Sources("Zandrik.Storage")).ToList();
        sources.Count.ShouldBeGreaterThan(100);
        foreach (var file in sources)
        {
            var text = File.ReadAllText(file);
            judges.Where(j => text.Contains(j, StringComparison.Ordinal)).ShouldBeEmpty(file);
        }
        sources.Where(f => File.ReadAllText(f).Contains("JobAssessment.Of(", StringComparison.Ordinal)).Select(Path.GetFileName).Order().ShouldBe(["DiagnosisApi.cs", "StepStore.cs", "WarmUp.cs"]);
    }

    [Fact]
    public void Page_models_hold_no_rule_of_the_trade()
    {
        // As far as words show it: which cylinders are asked, what a heard place means, whether two sheets are one engine, limits and percentages of readings.
        foreach (var file in Sources("Zandrik.Web").Where(f => f.Contains($"{Path.DirectorySeparatorChar}Pages{Path.DirectorySeparatorChar}", StringComparison.Ordinal)))
        {
            File.ReadAllText(file).ShouldNotMatch(@"not a gasket|InDoubt|\.Cylinders != \w+\.Cylinders|HeardStrength\.\w+ =>|(UnderMinimum|Pascals|LevelPa) ?[<>] ?0?\.\d", file);
        }
    }

    private static IEnumerable<string> Sources(string project) =>
        Directory.EnumerateFiles(Path.Combine(Repository.Root, "src", project), "*.cs*", SearchOption.AllDirectories).Where(f => f.EndsWith(".cs", StringComparison.Ordinal) || f.EndsWith(".cshtml", StringComparison.Ordinal))
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/bin/", StringComparison.Ordinal));

    [Fact]
    public void Core_reads_no_clock_and_draws_no_chance()
    {
        var source = Path.Combine(Repository.Root, "src", "Zandrik.Core");
        foreach (var file in Directory.EnumerateFiles(source, "*.cs", SearchOption.AllDirectories).Where(f => !f.Contains("/obj/", StringComparison.Ordinal)))
        {
            File.ReadAllText(file).ShouldNotMatch(@"\b(DateTime(Offset)?\.(Utc)?Now|Random\.Shared|new Random\(\)|Guid\.NewGuid|File\.|Console\.)", file);
        }
    }

    private static string[] References(System.Type type) => [.. type.Assembly.GetReferencedAssemblies().Select(a => a.Name!)];
}
