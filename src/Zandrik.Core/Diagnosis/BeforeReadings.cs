using System.Runtime.InteropServices;

namespace Zandrik.Core.Diagnosis;

/// <summary>What is thought of an engine before anything was read on it. It hangs on few figures, and a job is judged again with every reading: it is kept by them.</summary>
/// <param name="Posterior">How likely everything is.</param>
/// <param name="Repairs">How likely each set of repairs is needed.</param>
internal sealed record BeforeReadings(Posterior Posterior, RepairOdds Repairs)
{
    // Engines and complaints that a shop has at hand on one day.
    private const int Most = 48;

    /// <summary>An empty store, for one table of severities.</summary>
    public static BoundedCache<Figures, BeforeReadings> Store() => new(Most);

    /// <summary>All that it hangs on, one after the other: equal where each of them is.</summary>
    internal readonly struct Figures(double[] all) : IEquatable<Figures>
    {
        private readonly double[] all = all;

        public bool Equals(Figures other) => all.AsSpan().SequenceEqual(other.all);

        public override bool Equals(object? obj) => obj is Figures other && Equals(other);

        public override int GetHashCode()
        {
            var hash = new HashCode();
            hash.AddBytes(MemoryMarshal.AsBytes(all.AsSpan()));
            return hash.ToHashCode();
        }
    }
}
