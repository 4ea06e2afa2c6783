namespace Zandrik.Core.Records;

/// <summary>
/// Where the figure of a reading came from. Whoever took the reading is named on it either way
/// (<see cref="CylinderReading.By"/>): an instrument shows, a person measures.
/// </summary>
/// <param name="Instrument">Name of the instrument the figure was sent by; not empty.</param>
/// <param name="Trace">What it recorded meanwhile, as it sent it; empty where it records nothing.</param>
public sealed record ReadingSource(string Instrument, ReadOnlyMemory<byte> Trace);
