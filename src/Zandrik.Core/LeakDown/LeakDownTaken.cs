using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>One time the gauges of a leak-down were read at a cylinder, and what became of it.</summary>
/// <param name="Reading">The reading, with what was heard under it.</param>
/// <param name="Percent">Loss, percent of the supply, as read; absent where it cannot be worked out.</param>
/// <param name="AfterOil">True when test oil was in the cylinder, as far as is known (<see cref="Compression.OilHistory"/>).</param>
/// <param name="IsJudged">True for the one reading of its cylinder that is judged.</param>
/// <param name="WhyNot">Why another one is judged, in a few words; absent for the one that is.</param>
public sealed record LeakDownTaken(LeakDownReading Reading, double? Percent, bool AfterOil, bool IsJudged, string? WhyNot);
