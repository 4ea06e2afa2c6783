namespace Zandrik.Core.Records;

/// <summary>
/// Something a person or a script can put right: which field, and what to do. Bad input is an expected
/// answer, never an exception.
/// </summary>
/// <param name="Pointer">JSON pointer (RFC 6901) of the field inside the record, "" for the whole document.</param>
/// <param name="Says">One plain sentence: what is wrong and what to do.</param>
public sealed record FieldProblem(string Pointer, string Says);
