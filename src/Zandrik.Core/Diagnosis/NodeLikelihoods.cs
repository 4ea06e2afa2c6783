using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>What every cylinder has more when the engine runs, ln, and how far the readings lie about that where it is not the usual.</summary>
internal readonly record struct RunningMore(double Idle, double Snap, double? IdleSpread = null, double? SnapSpread = null);

/// <summary>
/// How well each severity of each fault would have predicted what was read at each cylinder, finding by finding. Worked out once for a job: the ledger asks for the same again at every stage.
/// Rows are handed out by where they start.
/// </summary>
internal sealed class NodeLikelihoods : IDisposable
{
    /// <summary>What the timing of one bank takes from its level, ln, and how its odds are shared among these.</summary>
    public static readonly (double Ln, double Share)[] BankShifts = [(-0.08, 0.35), (-0.15, 0.40), (-0.27, 0.25)];

    private const double LevelStep = 0.022;
    private const int MostLevels = 60;

    private static readonly int?[] Silent = new int?[LeakEvidence.Places];

    private readonly JobEvidence job;
    private readonly NodeTable nodes;
    private readonly RentedRows rows;
    private readonly Dictionary<(int Cylinder, EvidenceStage Finding, double First, double Second, double? Third), int> known = [];
    private readonly Dictionary<(EvidenceTarget, Fault), double> shifts = [];
    private readonly int[] dry;

    /// <summary>Of a job.</summary>
    public NodeLikelihoods(JobEvidence job)
    {
        this.job = job;
        nodes = job.Table;
        Levels = Grid();
        rows = new RentedRows(nodes.Nodes.Length, 1 + job.Cylinders.Count * (Levels.Length + 40));
        rows.Row(rows.Next()).Fill(1);
        dry = new int[job.Cylinders.Count * ShiftedLevels];
        Array.Fill(dry, -1);
    }

    /// <summary>The job.</summary>
    public JobEvidence Job => job;

    /// <summary>Where the row of a finding that was not made starts: one everywhere.</summary>
    public const int Unread = 0;

    /// <summary>The levels a sound cylinder of this engine may have, ln psi; the expected one alone without a dry reading.</summary>
    public double[] Levels { get; }

    /// <summary>All levels, and where there is more than one bank all of them again for each of <see cref="BankShifts"/>.</summary>
    public int ShiftedLevels => Levels.Length * (job.Banks.Count > 1 ? BankShifts.Length + 1 : 1);

    /// <summary>Which of <see cref="Levels"/> is nearest.</summary>
    /// <param name="ln">A level, ln psi.</param>
    public int NearestLevel(double ln) => Levels.Length == 1 ? 0 : (int)Math.Clamp(Math.Round((ln - Levels[0]) / (Levels[1] - Levels[0])), 0, Levels.Length - 1);

    /// <summary>The level before any reading.</summary>
    public double Expected => job.ExpectedLn + job.Everywhere.Shift;

    /// <summary>What was noticed before any reading does to the odds of one thing, as a factor.</summary>
    /// <param name="what">What is asked.</param>
    /// <param name="fault">The fault or cause; none for coolant and webs.</param>
    public double Shift(EvidenceTarget what, Fault fault)
    {
        if (job.Seen.Count == 0 && !job.CoolantInIntake)
        {
            return 1;
        }
        if (!shifts.TryGetValue((what, fault), out var shift))
        {
            shifts[(what, fault)] = shift = Math.Pow(10, ObservationWeights.Of(job.Seen, job.Suspected, what, fault, job.CoolantInIntake) / 10);
        }
        return shift;
    }

    /// <summary>A row.</summary>
    public ReadOnlySpan<double> this[int start] => rows.Row(start);

    public void Dispose() => rows.Dispose();

    /// <summary>The dry reading of a cylinder at one of <see cref="ShiftedLevels"/>.</summary>
    public int Dry(int index, int level)
    {
        var c = job.Cylinders[index];
        if (c.LnDry is not { } ln)
        {
            return Unread;
        }
        ref var place = ref dry[index * ShiftedLevels + level];
        if (place < 0)
        {
            place = rows.Next();
            var like = rows.Row(place);
            like.Fill(1);
            var at = Levels[level % Levels.Length] + (level < Levels.Length ? 0 : BankShifts[level / Levels.Length - 1].Ln);
            job.Curves.Dry(c.DrySpread).Multiply(Math.Max(SeverityNodes.LowestDry, ln - at), like);
        }
        return place;
    }

    /// <summary>The most a dry reading of this cylinder can come to at any level.</summary>
    public ReadOnlySpan<double> DryAtMost(int index) => job.Cylinders[index].LnDry is null ? this[Unread] : job.Curves.Dry(job.Cylinders[index].DrySpread).Most;

    /// <summary>Relative compression.</summary>
    public int Relative(int index) => job.Cylinders[index].Relative is not { } relative ? Unread
        : Once((index, EvidenceStage.Relative, 0, 0, null), like => job.Curves.Relative(relative.ErrorPercent).Multiply(relative.Ln, like));

    /// <summary>The leak-down, by how much was lost or with where it was heard too.</summary>
    /// <param name="index">The cylinder.</param>
    /// <param name="moreRings">Ring leak that every cylinder has more.</param>
    /// <param name="aged">True where the age of the engine is what is asked about: how engine and tester are off as a whole is not taken off then.</param>
    /// <param name="heard">True to count what was heard.</param>
    public int LeakDown(int index, double moreRings, bool aged, bool heard)
    {
        if (job.Cylinders[index].Leak is not { } leak)
        {
            return Unread;
        }
        heard &= leak.Heard.Any(h => h is not null);
        return Once((index, heard ? EvidenceStage.LeakDownHeard : EvidenceStage.LeakDownAmount, moreRings, aged ? 1 : 0, null), like =>
        {
            leak = leak with { LnRatio = leak.LnRatio - (aged ? 0 : job.LeakOffset), Heard = heard ? leak.Heard : Silent };
            LikelihoodTable.LeakDown(nodes, job.Curves.Paths(leak, moreRings), leak, like, leak.LnRatioWithOil is null ? null : job.Curves.Paths(leak with { Oiled = true }, moreRings));
        });
    }

    /// <summary>The wet reading, with what all cylinders gain more and its spread.</summary>
    public int Wet(int index, (double Gain, double Spread) more) => job.Cylinders[index] is not { LnWet: { } wet } c ? Unread
        : Once((index, EvidenceStage.Wet, more.Gain, more.Spread, null), like => job.Curves.Wet(more, c.NearlyDead).Multiply(wet, like));

    /// <summary>Idle and snap, with what all cylinders have more and its spread.</summary>
    public int Running(int index, RunningMore more)
    {
        var c = job.Cylinders[index];
        return c.LnIdle is null && c.LnSnap is null ? Unread : Once((index, EvidenceStage.Running, more.Idle, more.Snap, more.IdleSpread), like =>
        {
            if (c.LnIdle is { } idle)
            {
                job.Curves.Idle(more.Idle, more.IdleSpread).Multiply(idle, like);
            }
            if (c.LnSnap is { } snap)
            {
                job.Curves.Snap(more.Snap, more.SnapSpread).Multiply(snap, like);
            }
        });
    }

    private delegate void Multiply(Span<double> like);

    private int Once((int, EvidenceStage, double, double, double?) what, Multiply multiply)
    {
        if (!known.TryGetValue(what, out var place))
        {
            known[what] = place = rows.Next();
            rows.Row(place).Fill(1);
            multiply(rows.Row(place));
        }
        return place;
    }

    private double[] Grid()
    {
        var read = job.Cylinders.Where(c => c.LnDry is not null).Select(c => c.LnDry!.Value).ToList();
        if (read.Count == 0)
        {
            return [Expected];
        }
        var highest = read.Max();
        var from = Math.Max(highest - 0.20, Math.Min(highest - 0.12, Expected));
        var to = read.Count < 3 ? Math.Max(highest + 0.06, Expected + 0.08) : highest + 0.06;
        var count = Math.Clamp((int)Math.Ceiling((to - from) / LevelStep) + 1, 2, MostLevels);
        return [.. Enumerable.Range(0, count).Select(i => from + (to - from) * i / (count - 1))];
    }
}
