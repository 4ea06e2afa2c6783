using Zandrik.Core.Records;

namespace Zandrik.Web.Front;

/// <summary>What was noted about a reading, and why one was struck out, as it is said on the bench and on paper.</summary>
public static class ReadingNotes
{
    /// <summary>What was noted about a reading, in a few words; empty for nothing.</summary>
    public static string Of(RepeatReading noted) => string.Join(" · ", new[]
    {
        (noted.Pulses ?? noted.PulseValues?.Count) is { } n ? n == 1 ? "1 compression" : $"{n} compressions" : null,
        noted.Seconds is { } s ? $"{TypedFields.Text(s)} s" : null,
        noted.BatteryV is { } v ? $"{TypedFields.Text(v)} V" : null,
        noted.CrankingRpm is { } rpm ? $"{TypedFields.Text(rpm)} rpm" : null,
        noted.Says,
        noted.Struck is { } struck ? $"struck out: {WhyStruck(struck)}" : null,
    }.OfType<string>());

    /// <summary>The reasons a reading is struck out for, as they are said.</summary>
    public static IReadOnlyList<(StruckReason Reason, string Says)> StruckReasons { get; } =
        [(StruckReason.CrankedTooShort, "cranked too short"), (StruckReason.HoseLeaked, "hose or adapter leaked"), (StruckReason.WrongCylinder, "wrong cylinder"), (StruckReason.Other, "other")];

    private static string WhyStruck(StruckOut struck) => struck is { Reason: StruckReason.Other, Says: { } says } ? says
        : StruckReasons.First(r => r.Reason == struck.Reason).Says + (struck.Says is { } more ? $", {more}" : "");
}
