namespace Zandrik.Core.Records;

/// <summary>
/// What a field of the open record means and which values it may hold. The one source of the checks on
/// reading and of the published JSON Schema, so that the two cannot drift apart.
/// </summary>
/// <param name="says">The meaning of the field in the trade's words, with its unit.</param>
[AttributeUsage(AttributeTargets.Property)]
public sealed class RecordFieldAttribute(string says) : Attribute
{
    /// <summary>The meaning of the field, with its unit; becomes the schema's description.</summary>
    public string Says { get; } = says;

    /// <summary>True when a record without this field cannot be read.</summary>
    public bool Required { get; init; }

    /// <summary>Smallest number allowed, inclusive; NaN when there is no lower bound; in the unit of its field.</summary>
    public double Min { get; init; } = double.NaN;

    /// <summary>Largest number allowed, inclusive; NaN when there is no upper bound; in the unit of its field.</summary>
    public double Max { get; init; } = double.NaN;
}
