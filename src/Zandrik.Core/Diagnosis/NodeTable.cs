namespace Zandrik.Core.Diagnosis;

/// <summary>
/// All severities of an engine's faults side by side, one array for each thing they predict, so that a curve runs over all of them at once: the nodes a cylinder can be at by itself, fault by
/// fault, then every pair of webs, front and behind.
/// </summary>
internal sealed class NodeTable
{
    private static readonly BoundedCache<NodeSetting, NodeTable> Known = new(16, s => new NodeTable(s));

    private NodeTable(NodeSetting setting)
    {
        Setting = setting;
        double[] webs = [0, .. SeverityNodes.WebAreas];
        var local = SeverityNodes.Local(setting);
        Local = local.Count;
        // A warped head burns a row: both webs of one cylinder go together. A row of pairs is filled up to whole vectors with webs that weigh nothing.
        var none = SeverityNodes.Web(setting, 0, 0) with { Weight = 0 };
        Nodes = [.. local, .. webs.SelectMany((front, f) => webs.Select((behind, b) => SeverityNodes.Web(setting, front, behind) with { Weight = f > 0 && b > 0 ? FaultOdds.BothWebs : 1 })
            .Concat(Enumerable.Repeat(none, BankChain.Stride - BankChain.States)))];
        double[] Of(Func<SeverityNode, double> what) => [.. Nodes.Select(what)];
        (Weight, Dry, DrySpread, Wet, Idle, Snap, Relative) = (Of(k => k.Weight), Of(k => k.Dry), Of(k => k.DrySpread), Of(k => k.Wet), Of(k => k.Idle), Of(k => k.Snap), Of(k => k.Relative));
        LikeSound = [.. Enumerable.Range(0, Nodes.Length).Where(k => Nodes[k].LeaksLikeSound)];
        var from = 0;
        OfFault = [.. FaultOdds.Local.Select(f =>
        {
            var start = from;
            while (from < Local && Nodes[from].Fault == f)
            {
                from++;
            }
            return (start, from);
        })];
    }

    /// <summary>What they hang on.</summary>
    public NodeSetting Setting { get; }

    /// <summary>The nodes themselves.</summary>
    public SeverityNode[] Nodes { get; }

    /// <summary>How many of them a cylinder can be at by itself; the pairs of webs come after.</summary>
    public int Local { get; }

    /// <summary>Where the nodes of each fault of <see cref="FaultOdds.Local"/> begin and end.</summary>
    public (int From, int To)[] OfFault { get; }

    /// <summary>The nodes that leak no more than a sound cylinder.</summary>
    public int[] LikeSound { get; }

    public double[] Weight { get; }

    public double[] Dry { get; }

    public double[] DrySpread { get; }

    public double[] Wet { get; }

    public double[] Idle { get; }

    public double[] Snap { get; }

    public double[] Relative { get; }

    /// <summary>The pair of webs at two severities, 0 for whole.</summary>
    public int Pair(int front, int behind) => Local + front * BankChain.Stride + behind;

    /// <summary>The curves over these nodes.</summary>
    public TableCurves Curves => field ??= new TableCurves(this);

    /// <summary>What is thought before any reading.</summary>
    public BoundedCache<BeforeReadings.Figures, BeforeReadings> Before { get; } = BeforeReadings.Store();

    /// <summary>The table of a setting. Most engines of a shop have one of a few.</summary>
    public static NodeTable Of(NodeSetting setting) => Known.Of(setting);
}
