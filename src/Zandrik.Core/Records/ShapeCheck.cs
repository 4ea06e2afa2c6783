using System.Globalization;
using System.Text.Json;

namespace Zandrik.Core.Records;

/// <summary>Checks a JSON document against the shape of the record, gathering every problem with its pointer.</summary>
internal sealed class ShapeCheck
{
    private readonly List<FieldProblem> problems = [];

    internal static List<FieldProblem> Check(JsonElement document)
    {
        var check = new ShapeCheck();
        check.Look(document, RecordShape.Record, "");
        return check.problems;
    }

    private void Look(JsonElement element, RecordShape shape, string pointer)
    {
        if (element.ValueKind == JsonValueKind.Null)
        {
            Bad(pointer, "A value that is not known is left out, not null: remove the field.");
            return;
        }
        switch (shape)
        {
            case RecordShape.Part part:
                LookAtPart(element, part, pointer);
                break;
            case RecordShape.OneOf oneOf:
                LookAtOneOf(element, oneOf, pointer);
                break;
            case RecordShape.ListOf list:
                if (Is(element, JsonValueKind.Array, pointer, "a list"))
                {
                    var i = 0;
                    foreach (var item in element.EnumerateArray())
                    {
                        Look(item, list.Item, $"{pointer}/{i++}");
                    }
                }
                break;
            case RecordShape.MapOf map:
                LookAtMap(element, map, pointer);
                break;
            case RecordShape.Number number:
                LookAtNumber(element, number, pointer);
                break;
            case RecordShape.NumberOr either when element.ValueKind == JsonValueKind.Object:
                LookAtPart(element, either.Whole, pointer);
                break;
            case RecordShape.NumberOr either:
                LookAtNumber(element, either.Bare, pointer);
                break;
            case RecordShape.Word word:
                if (!word.Words.Contains(TextOf(element)))
                {
                    Bad(pointer, $"Use one of: {string.Join(", ", word.Words)}.");
                }
                break;
            case RecordShape.Text:
                LookAtText(element, pointer);
                break;
            case RecordShape.Instant:
                if (TextOf(element) is null || !element.TryGetDateTimeOffset(out _))
                {
                    Bad(pointer, "Give a date and time with its offset, as in 2026-03-02T09:40:00Z.");
                }
                break;
            case RecordShape.Day:
                if (!DateOnly.TryParseExact(TextOf(element), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out _))
                {
                    Bad(pointer, "Give a day as in 2026-01-15.");
                }
                break;
            case RecordShape.Flag:
                if (element.ValueKind is not (JsonValueKind.True or JsonValueKind.False))
                {
                    Bad(pointer, "Write true or false.");
                }
                break;
        }
    }

    private void LookAtPart(JsonElement element, RecordShape.Part part, string pointer)
    {
        if (!Is(element, JsonValueKind.Object, pointer, "an object"))
        {
            return;
        }
        foreach (var property in element.EnumerateObject())
        {
            var at = Below(pointer, property.Name);
            var field = part.Fields.FirstOrDefault(f => f.Name == property.Name);
            if (field is not null)
            {
                Look(property.Value, field.Shape, at);
            }
            else if (property.Name != part.Discriminator)
            {
                LookAtUnknown(property.Value, at);
            }
        }
        foreach (var field in part.Fields)
        {
            if (field.Required && !element.TryGetProperty(field.Name, out _))
            {
                Bad(Below(pointer, field.Name), $"Missing: {field.Says}");
            }
        }
    }

    private void LookAtOneOf(JsonElement element, RecordShape.OneOf oneOf, string pointer)
    {
        if (!Is(element, JsonValueKind.Object, pointer, "an object"))
        {
            return;
        }
        var kind = element.TryGetProperty(oneOf.Discriminator, out var value) ? TextOf(value) : null;
        if (kind is not null && oneOf.Parts.TryGetValue(kind, out var part))
        {
            LookAtPart(element, part, pointer);
        }
        else
        {
            Bad(Below(pointer, oneOf.Discriminator), $"Use one of: {string.Join(", ", oneOf.Parts.Keys)}.");
        }
    }

    private void LookAtMap(JsonElement element, RecordShape.MapOf map, string pointer)
    {
        if (!Is(element, JsonValueKind.Object, pointer, "an object"))
        {
            return;
        }
        foreach (var property in element.EnumerateObject())
        {
            if (map.Keys.Contains(property.Name))
            {
                Look(property.Value, map.Value, Below(pointer, property.Name));
            }
            else
            {
                Bad(Below(pointer, property.Name), $"Use one of: {string.Join(", ", map.Keys)}.");
            }
        }
    }

    private void LookAtNumber(JsonElement element, RecordShape.Number number, string pointer)
    {
        if (element.ValueKind != JsonValueKind.Number || !element.TryGetDouble(out var value) || !double.IsFinite(value))
        {
            Bad(pointer, "Write a number, without quotes or a unit.");
        }
        else if (number.Whole && !element.TryGetInt64(out _))
        {
            Bad(pointer, "Write a whole number.");
        }
        else if (value < number.Min || value > number.Max)
        {
            var min = number.Min.ToString(CultureInfo.InvariantCulture);
            var max = number.Max.ToString(CultureInfo.InvariantCulture);
            Bad(pointer, double.IsNaN(number.Max) ? $"Write a number of {min} or more."
                : double.IsNaN(number.Min) ? $"Write a number of {max} or less."
                : min == max ? $"Write {min}."
                : $"Write a number from {min} to {max}.");
        }
    }

    private void LookAtText(JsonElement element, string pointer)
    {
        var text = TextOf(element);
        if (text is null)
        {
            Bad(pointer, "Write a text in quotes, of whole characters.");
        }
        else if (text.Length == 0)
        {
            Bad(pointer, "An empty text says nothing: leave the field out.");
        }
        else if (text.Length > RecordShape.LongestText)
        {
            Bad(pointer, $"Shorten this text to {RecordShape.LongestText} characters.");
        }
        else if (text.Contains('\0', StringComparison.Ordinal))
        {
            Bad(pointer, "Remove the null character.");
        }
    }

    // Unknown fields are kept as they are, so they only have to be something a database can hold.
    private void LookAtUnknown(JsonElement element, string pointer)
    {
        switch (element.ValueKind)
        {
            case JsonValueKind.Object:
                foreach (var property in element.EnumerateObject())
                {
                    LookAtUnknown(property.Value, Below(pointer, property.Name));
                }
                break;
            case JsonValueKind.Array:
                var i = 0;
                foreach (var item in element.EnumerateArray())
                {
                    LookAtUnknown(item, $"{pointer}/{i++}");
                }
                break;
            case JsonValueKind.String:
                if (TextOf(element)?.Contains('\0', StringComparison.Ordinal) ?? true)
                {
                    Bad(pointer, "Remove the null or broken character.");
                }
                break;
            case JsonValueKind.Number:
                if (!element.TryGetDouble(out var value) || !double.IsFinite(value))
                {
                    Bad(pointer, "This number is too large to keep.");
                }
                break;
        }
    }

    private bool Is(JsonElement element, JsonValueKind kind, string pointer, string name)
    {
        if (element.ValueKind == kind)
        {
            return true;
        }
        Bad(pointer, $"Write {name} here.");
        return false;
    }

    private void Bad(string pointer, string says) => problems.Add(new FieldProblem(pointer, says));

    // A lone surrogate ("\ud800") is legal JSON text and no character: null, like anything that is no text.
    private static string? TextOf(JsonElement element)
    {
        if (element.ValueKind != JsonValueKind.String)
        {
            return null;
        }
        try
        {
            return element.GetString();
        }
        catch (InvalidOperationException)
        {
            return null;
        }
    }

    private string Below(string pointer, string name)
    {
        if (name.Contains('\0', StringComparison.Ordinal))
        {
            Bad(pointer, "Remove the null character from the name of a field.");
        }
        return $"{pointer}/{name.Replace("~", "~0", StringComparison.Ordinal).Replace("/", "~1", StringComparison.Ordinal)}";
    }
}
