using System.Text.Json.Nodes;
using System.Xml.Linq;

namespace Zandrik.Web.Tests.Architecture;

/// <summary>What is shipped is on the list, with the version and the licence it has.</summary>
public sealed class LicencesTests
{
    private static readonly string[] Taken = ["MIT", "MIT-0", "Apache-2.0", "PostgreSQL", "BSD-3-Clause", "MS-PL OR Apache-2.0"];

    private static IReadOnlyDictionary<string, string> Shipped { get; } = Directory.GetDirectories(Path.Combine(Repository.Root, "src")).Select(d => Path.Combine(d, "packages.lock.json")).Where(File.Exists)
        .SelectMany(f => JsonNode.Parse(File.ReadAllText(f))!["dependencies"]!.AsObject().SelectMany(framework => framework.Value!.AsObject()))
        .Where(p => (string)p.Value!["type"]! != "Project").GroupBy(p => p.Key).ToDictionary(g => g.Key, g => (string)g.First().Value!["resolved"]!);

    // Names its licence by the address of its text alone.
    private static readonly Dictionary<string, (string Ending, string Licence)> ByAddress = new() { ["K4os.Compression.LZ4"] = ("/K4os.Compression.LZ4/blob/master/LICENSE?raw=true", "MIT") };

    private static string LicenceOf(string package, string version)
    {
        var folder = Path.Combine(Environment.GetEnvironmentVariable("NUGET_PACKAGES") ?? Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".nuget", "packages"), package.ToLowerInvariant(), version);
        var about = XDocument.Load(Path.Combine(folder, $"{package.ToLowerInvariant()}.nuspec")).Descendants().ToList();
        if (ByAddress.TryGetValue(package, out var known) && about.Any(e => e.Name.LocalName == "licenseUrl" && e.Value.EndsWith(known.Ending, StringComparison.Ordinal)))
        {
            return known.Licence;
        }
        var licence = about.Single(e => e.Name.LocalName == "license");
        // A text in a file: what it begins with says which.
        return (string?)licence.Attribute("type") == "expression" ? licence.Value : File.ReadAllText(Path.Combine(folder, licence.Value)).Contains("Permission is hereby granted, free of charge, to any person", StringComparison.Ordinal) ? "MIT" : licence.Value;
    }

    [Fact]
    public void Every_package_that_is_shipped_stands_on_the_list_with_its_own_licence()
    {
        var rows = Shipped.OrderBy(p => p.Key, StringComparer.OrdinalIgnoreCase).Select(p => $"| {p.Key} | {p.Value} | {LicenceOf(p.Key, p.Value)} |").ToList();
        rows.Count.ShouldBeGreaterThan(20);
        var list = File.ReadAllLines(Path.Combine(Repository.Root, "docs", "third-party-licences.md")).SkipWhile(l => !l.StartsWith("## Every package", StringComparison.Ordinal)).Where(l => l.StartsWith("| ", StringComparison.Ordinal)).Skip(2);
        list.ShouldBe(rows, "bring docs/third-party-licences.md up to date with the lock files");
    }

    [Fact]
    public void Each_licence_is_one_that_asks_for_nothing_but_its_text() =>
        Shipped.Select(p => (p.Key, Licence: LicenceOf(p.Key, p.Value))).Where(p => !Taken.Contains(p.Licence)).ShouldBeEmpty();
}
