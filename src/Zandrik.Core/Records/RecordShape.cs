using System.Collections;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Zandrik.Core.Records;

/// <summary>
/// The shape of a part of the record, read once from the record types: the checker and the JSON Schema
/// both follow it.
/// </summary>
internal abstract record RecordShape
{
    internal sealed record Field(string Name, string Says, bool Required, RecordShape Shape);

    /// <summary>An object with named fields; others are allowed and kept.</summary>
    internal sealed record Part(string Name, IReadOnlyList<Field> Fields, string? Discriminator) : RecordShape;

    /// <summary>An object whose fields depend on one of them (a test on its kind).</summary>
    internal sealed record OneOf(string Discriminator, IReadOnlyDictionary<string, Part> Parts) : RecordShape;

    internal sealed record ListOf(RecordShape Item) : RecordShape;

    internal sealed record MapOf(IReadOnlyList<string> Keys, RecordShape Value) : RecordShape;

    internal sealed record Number(double Min, double Max, bool Whole) : RecordShape;

    /// <summary>A number where nothing else is known, else an object.</summary>
    internal sealed record NumberOr(Number Bare, Part Whole) : RecordShape;

    internal sealed record Word(IReadOnlyList<string> Words) : RecordShape;

    internal sealed record Text : RecordShape;

    internal sealed record Instant : RecordShape;

    internal sealed record Day : RecordShape;

    internal sealed record Flag : RecordShape;

    /// <summary>The whole test record.</summary>
    internal static RecordShape Record { get; } = Of(typeof(TestRecord), null);

    /// <summary>Longest text a field holds, characters: a page of a complaint, not a book.</summary>
    internal const int LongestText = 4000;

    private static RecordShape Of(Type type, RecordFieldAttribute? field)
    {
        var bare = Nullable.GetUnderlyingType(type) ?? type;
        if (bare == typeof(string))
        {
            return new Text();
        }
        if (bare == typeof(bool))
        {
            return new Flag();
        }
        if (bare == typeof(DateTimeOffset))
        {
            return new Instant();
        }
        if (bare == typeof(DateOnly))
        {
            return new Day();
        }
        if (bare == typeof(double) || bare == typeof(int) || bare == typeof(long))
        {
            return new Number(field?.Min ?? double.NaN, field?.Max ?? double.NaN, bare != typeof(double));
        }
        if (bare.IsEnum)
        {
            return new Word(RecordWords.All(bare));
        }
        if (bare.IsGenericType && bare.GetGenericTypeDefinition() == typeof(IReadOnlyDictionary<,>))
        {
            var arguments = bare.GetGenericArguments();
            return new MapOf(RecordWords.All(arguments[0]), Of(arguments[1], null));
        }
        if (bare.IsGenericType && bare.IsAssignableTo(typeof(IEnumerable)))
        {
            // The bounds on a list of numbers are the bounds of its numbers.
            return new ListOf(Of(bare.GetGenericArguments()[0], field));
        }
        if (bare == typeof(RepeatReading))
        {
            return new NumberOr(new Number(field?.Min ?? double.NaN, field?.Max ?? double.NaN, Whole: false), PartOf(bare, null));
        }
        var variants = bare.GetCustomAttributes<JsonDerivedTypeAttribute>(inherit: false).ToList();
        if (variants.Count > 0)
        {
            var name = bare.GetCustomAttribute<JsonPolymorphicAttribute>()?.TypeDiscriminatorPropertyName ?? "kind";
            return new OneOf(name, variants.ToDictionary(
                v => (string)v.TypeDiscriminator!, v => PartOf(v.DerivedType, name), StringComparer.Ordinal));
        }
        return PartOf(bare, null);
    }

    private static Part PartOf(Type type, string? discriminator)
    {
        var fields = type.GetProperties(BindingFlags.Public | BindingFlags.Instance)
            .Select(p => (Property: p, Field: p.GetCustomAttribute<RecordFieldAttribute>()))
            .Where(p => p.Field is not null)
            .OrderBy(p => p.Property.DeclaringType == type ? 0 : 1)
            .Select(p => new Field(
                p.Property.GetCustomAttribute<JsonPropertyNameAttribute>()?.Name ?? JsonNamingPolicy.CamelCase.ConvertName(p.Property.Name),
                p.Field!.Says,
                p.Field.Required,
                Of(p.Property.PropertyType, p.Field)))
            .ToList();
        return new Part(type.Name, fields, discriminator);
    }
}
