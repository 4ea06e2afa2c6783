using System.Text.Json;
using System.Text.Json.Serialization;

namespace Zandrik.Core.Records;

/// <summary>
/// Any object of the open test record. What version 1 of the format does not name is kept here when a
/// record is read and written back beside the known fields, so that a newer program's record passes
/// through this one unharmed.
/// </summary>
public abstract record RecordPart
{
    /// <summary>Fields this version does not know, as they were read; absent when there were none.</summary>
    [JsonExtensionData]
    public Dictionary<string, JsonElement>? Unknown { get; init; }
}
