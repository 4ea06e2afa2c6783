namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Where the sync channel says that cylinder 1 (or whichever) stands on the track. Section 5 of docs/relative-compression.md: events by their phase, never by counting, so that missing
/// and extra ones do no harm.
/// </summary>
internal sealed record SyncEvents
{
    /// <summary>Phase of the event that marks the cylinder's compression stroke, cycles (0 to under 1); absent where it cannot be told.</summary>
    public double? Phase { get; init; }

    /// <summary>How far the events scatter about it, cycles.</summary>
    public double Spread { get; init; }

    /// <summary>Events found in the settled part, and how many of them agree.</summary>
    public int Found { get; init; }

    /// <summary>Those that agree on the phase.</summary>
    public int Agreeing { get; init; }

    /// <summary>Events expected in the settled part.</summary>
    public int Expected { get; init; }

    /// <summary>How far apart the events are, cycles of the track, where they are evenly spaced; absent where they are not.</summary>
    public double? Apart { get; init; }

    /// <summary>True for even events that do not keep step with the track: the engine's cycle is another.</summary>
    public bool Contradicts => Phase is null && !Ambiguous && Apart is not null;

    /// <summary>Two candidates half a cycle apart that differ too little.</summary>
    public bool Ambiguous { get; init; }

    /// <summary>Times of the agreeing events, s from the start of the capture.</summary>
    public IReadOnlyList<double> TimesS { get; init; } = [];

    /// <summary>True when some were missing or too many, and the rest agree.</summary>
    public bool IsIrregular => Phase is not null && (Agreeing < Found || Math.Abs(Agreeing - Expected) > 1);

    private const double Cluster = 0.035;

    // Events whose spacing scatters by less than this share are even, from so many on.
    private const double Even = 0.06;
    private const int FewestEven = 4;

    /// <summary>Finds them.</summary>
    /// <param name="channel">The sync channel of the settled part.</param>
    /// <param name="theta">The track of that part, cycles.</param>
    /// <param name="kind">What the channel carries.</param>
    public static SyncEvents Of(SyncChannel channel, double[] theta, SyncKind kind)
    {
        var cycles = theta[^1] - theta[0];
        var expected = (int)Math.Round(kind == SyncKind.WasteSpark ? 2 * cycles : cycles);
        var height = channel.Excursion(kind);
        var perCycle = height.Length / cycles;
        var picked = Pick(height, Math.Max(2, (int)(perCycle * (kind == SyncKind.WasteSpark ? 0.2 : 0.3))), expected);
        if (picked.Count < 2)
        {
            return new SyncEvents { Found = picked.Count, Expected = expected };
        }
        double PhaseAt(int block)
        {
            var at = channel.SampleOf(block);
            var i = Math.Clamp((int)Math.Floor(at), 0, theta.Length - 2);
            return theta[i] + (at - i) * (theta[i + 1] - theta[i]);
        }
        var turn = kind == SyncKind.WasteSpark ? 0.5 : 1.0;
        var phases = picked.Select(p => (Phase: PhaseAt(p), Height: height[p], Block: p)).ToList();
        var middle = Densest([.. phases.Select(p => p.Phase)], turn);
        var agreeing = phases.Where(p => Math.Abs(Away(p.Phase, middle, turn)) < Cluster).ToList();
        var found = new SyncEvents
        {
            Found = picked.Count, Expected = expected, Agreeing = agreeing.Count,
            Apart = Spacing([.. phases.Select(p => p.Phase)]),
            TimesS = [.. agreeing.Select(p => channel.TimeOf(p.Block))],
            Spread = Math.Sqrt(agreeing.Average(p => Math.Pow(Away(p.Phase, middle, turn), 2))),
        };
        if (agreeing.Count < 2 || agreeing.Count < 0.5 * Math.Min(picked.Count, expected))
        {
            return found;
        }
        middle += agreeing.Average(p => Away(p.Phase, middle, turn));
        if (kind != SyncKind.WasteSpark)
        {
            return found with { Phase = middle - Math.Floor(middle) };
        }
        var classes = agreeing.ToLookup(p => (int)Math.Round((p.Phase - middle) / 0.5) % 2 == 0);
        var (even, odd) = (classes[true].Select(p => p.Height).ToArray(), classes[false].Select(p => p.Height).ToArray());
        if (even.Length == 0 || odd.Length == 0)
        {
            // One event a cycle after all: the other spark is too small to be seen.
            var only = middle + (even.Length == 0 ? 0.5 : 0);
            return found with { Phase = only - Math.Floor(only) };
        }
        var (a, b) = (Smoothing.Quantile(even, 0.5), Smoothing.Quantile(odd, 0.5));
        var scatter = Math.Max(Spreading(even, a), Spreading(odd, b));
        if (Math.Abs(a - b) < 2 * scatter / Math.Sqrt(Math.Min(even.Length, odd.Length)) || Math.Abs(a - b) < 0.08 * Math.Max(a, b))
        {
            return found with { Ambiguous = true };
        }
        var higher = middle + (a > b ? 0 : 0.5);
        return found with { Phase = higher - Math.Floor(higher) };
    }

    private static double? Spacing(double[] phases)
    {
        if (phases.Length < FewestEven)
        {
            return null;
        }
        double[] apart = [.. phases.Zip(phases.Skip(1), (a, b) => b - a)];
        var middle = Smoothing.Quantile(apart, 0.5);
        return Spreading(apart, middle) < Even * middle ? middle : null;
    }

    private static double Spreading(double[] values, double middle) => 1.48 * Smoothing.Quantile([.. values.Select(v => Math.Abs(v - middle))], 0.5);

    // The highest, each with a time of its own; then all above a share of what is usual among them.
    private static List<int> Pick(double[] height, int apart, int expected)
    {
        var noise = 1.48 * Smoothing.Quantile([.. height.Select(Math.Abs)], 0.5);
        var order = Enumerable.Range(0, height.Length).Where(i => height[i] > 6 * noise && height[i] > 0).OrderByDescending(i => height[i]).ToList();
        var taken = new bool[height.Length];
        var picked = new List<int>();
        foreach (var i in order)
        {
            if (taken[i])
            {
                continue;
            }
            picked.Add(i);
            for (var j = Math.Max(0, i - apart); j < Math.Min(height.Length, i + apart); j++)
            {
                taken[j] = true;
            }
        }
        if (picked.Count == 0)
        {
            return picked;
        }
        var usual = Smoothing.Quantile([.. picked.Take(Math.Max(1, expected)).Select(i => height[i])], 0.5);
        return [.. picked.Where(i => height[i] > 0.35 * usual).OrderBy(i => i)];
    }

    private static double Densest(double[] phases, double turn)
    {
        var best = phases[0];
        var most = -1.0;
        foreach (var candidate in phases)
        {
            var near = phases.Sum(p => Math.Max(0, 1 - Math.Abs(Away(p, candidate, turn)) / Cluster));
            if (near > most)
            {
                (best, most) = (candidate, near);
            }
        }
        return best;
    }

    private static double Away(double phase, double middle, double turn)
    {
        var off = (phase - middle) / turn;
        return (off - Math.Round(off)) * turn;
    }
}
