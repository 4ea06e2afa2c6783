using System.Diagnostics.Metrics;

namespace Zandrik.Storage;

/// <summary>What Storage measures of itself, for whoever watches the server from outside. No reading, name or word of a person is in it.</summary>
public static class Measures
{
    /// <summary>The name of the meter that all parts of Zandrik measure on.</summary>
    public const string Name = "Zandrik";

    private static readonly Meter Meter = new(Name);

    /// <summary>How long a capture of starter current took to be judged.</summary>
    public static readonly Histogram<double> Capture = Meter.CreateHistogram<double>("zandrik.capture.duration", "s", "Captures of starter current: how long each took to be judged.");

    internal static readonly Histogram<double> Judgement = Meter.CreateHistogram<double>("zandrik.judgement.duration", "s", "Time to judge a job anew.");
}
