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
