using System.Reflection;
using System.Reflection.Emit;
using System.Runtime.CompilerServices;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using Zandrik.Core.Compression;

namespace Zandrik.Core.Tests;

/// <summary>What somebody reads who uses a part of Core: what comes back, what is thrown, and in which unit a number is.</summary>
public sealed partial class PublicDocsTests
{
    private static readonly Assembly Core = typeof(DryJudgement).Assembly;

    private static readonly Dictionary<string, XElement> Docs = XDocument.Load(Path.ChangeExtension(Core.Location, ".xml")).Descendants("member").ToDictionary(m => (string)m.Attribute("name")!);

    private static IEnumerable<Type> Types => Core.GetExportedTypes().Where(t => !t.IsEnum && !t.IsDefined(typeof(CompilerGeneratedAttribute)));

    // Members that are written down; what a record makes of itself is not.
    private static IEnumerable<MethodInfo> Methods => Types.SelectMany(t => t.GetMethods(BindingFlags.Public | BindingFlags.Instance | BindingFlags.Static | BindingFlags.DeclaredOnly))
        .Where(m => !m.IsSpecialName && !m.IsDefined(typeof(CompilerGeneratedAttribute)) && m.GetBaseDefinition() == m && m.Name is not ("PrintMembers" or "Deconstruct"));

    [Fact]
    public void Every_public_method_says_what_comes_back()
    {
        var silent = Methods.Where(m => m.ReturnType != typeof(void) && m.ReturnType != typeof(Task) && DocOf(m) is { } doc && doc.Element("inheritdoc") is null && doc.Element("returns") is null).Select(Named).ToList();
        silent.ShouldBeEmpty();
        Methods.Count().ShouldBeGreaterThan(200);
    }

    [Fact]
    public void Every_public_method_that_throws_says_what() =>
        Methods.Where(m => Throws(m) && DocOf(m) is { } doc && doc.Element("inheritdoc") is null && doc.Element("exception") is null).Select(Named).ShouldBeEmpty();

    [Fact]
    public void Every_public_number_has_a_unit_or_says_that_it_has_none()
    {
        var numbers = Types.SelectMany(t => t.GetProperties(BindingFlags.Public | BindingFlags.Instance | BindingFlags.Static | BindingFlags.DeclaredOnly))
            .Where(p => (Nullable.GetUnderlyingType(p.PropertyType) ?? p.PropertyType) == typeof(double) && p.GetMethod?.GetBaseDefinition() == p.GetMethod).ToList();
        numbers.Count.ShouldBeGreaterThan(100);
        numbers.Where(p => TextOf(p) is { } text && !Unit().IsMatch(text) && !Unit().IsMatch(Spaced(p.Name))).Select(p => $"{p.DeclaringType!.Name}.{p.Name}").ShouldBeEmpty();
    }

    // Of a property its summary; of a record's parameter what stands with the parameter.
    private static string? TextOf(PropertyInfo p)
    {
        var own = Docs.GetValueOrDefault($"P:{Full(p.DeclaringType!)}.{p.Name}");
        var parameter = Docs.GetValueOrDefault($"T:{Full(p.DeclaringType!)}")?.Elements("param").FirstOrDefault(e => (string?)e.Attribute("name") == p.Name);
        return (own ?? parameter) is not { } doc ? null : string.Join(' ', doc.DescendantsAndSelf().Attributes().Where(a => a.Name.LocalName is "cref" or "name").Select(a => a.Value.Split('.')[^1]).Prepend(doc.Value));
    }

    private static string Spaced(string name) => WordStart().Replace(name, " $1");

    private static string Full(Type type) => type.FullName!.Replace('+', '.');

    private static string Named(MethodInfo m) => $"{m.DeclaringType!.Name}.{m.Name}";

    // By name where it has only one of them; overloads are documented alike or found by how many parameters they have.
    private static XElement? DocOf(MethodInfo m)
    {
        var name = $"M:{Full(m.DeclaringType!)}.{m.Name}";
        var found = Docs.Where(d => d.Key == name || d.Key.StartsWith(name + "(", StringComparison.Ordinal) || d.Key.StartsWith(name + "`", StringComparison.Ordinal)).ToList();
        return found.Count == 1 ? found[0].Value
            : found.FirstOrDefault(d => m.GetParameters().All(p => d.Key.Contains((p.ParameterType.IsGenericType ? p.ParameterType.Name.Split('`')[0] : p.ParameterType.Name), StringComparison.Ordinal)) && Count(d.Key) == m.GetParameters().Length).Value;
    }

    private static int Count(string key)
    {
        if (!key.Contains('(', StringComparison.Ordinal))
        {
            return 0;
        }
        var (depth, count) = (0, 1);
        foreach (var c in key[(key.IndexOf('(', StringComparison.Ordinal) + 1)..])
        {
            depth += c is '{' or '[' or '(' ? 1 : c is '}' or ']' or ')' ? -1 : 0;
            count += c == ',' && depth == 0 ? 1 : 0;
        }
        return count;
    }

    // Whether a method throws something itself: what it calls says so where it is.
    private static bool Throws(MethodInfo method)
    {
        if (method.GetMethodBody()?.GetILAsByteArray() is not { } il)
        {
            return false;
        }
        for (var at = 0; at < il.Length;)
        {
            var code = il[at] == 0xFE ? Codes[0xFE00 | il[at + 1]] : Codes[il[at]];
            if (code == OpCodes.Throw)
            {
                return true;
            }
            at += code.Size;
            at += code.OperandType switch
            {
                OperandType.InlineNone => 0,
                OperandType.ShortInlineBrTarget or OperandType.ShortInlineI or OperandType.ShortInlineVar => 1,
                OperandType.InlineVar => 2,
                OperandType.InlineI8 or OperandType.InlineR => 8,
                OperandType.InlineSwitch => 4 + 4 * BitConverter.ToInt32(il, at),
                _ => 4,
            };
        }
        return false;
    }

    private static readonly Dictionary<int, OpCode> Codes = typeof(OpCodes).GetFields(BindingFlags.Public | BindingFlags.Static).Select(f => (OpCode)f.GetValue(null)!).ToDictionary(c => c.Value & 0xFFFF);

    [GeneratedRegex(@"(?i)\b(pa|psi|bar|kpa|mm²?|ml|cm³|m|h|m²|m³|degrees?|deg|radians?|rad|percent|db|bits|minutes|seconds|s|ms|km|metres|points|turns|rpm|volts?|v|amps?|a|hz|cycles?|ohm|kg·m²|n·m|nm|litres?|kelvin|k|unit|ratio|share|0 to 1|odds|probability|ln|of a cycle|g/s|distance)\b|%|²|³|°")]
    private static partial Regex Unit();

    [GeneratedRegex("(?<=[a-z0-9])([A-Z])")]
    private static partial Regex WordStart();
}
