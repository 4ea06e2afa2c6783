using System.Numerics.Tensors;

namespace Zandrik.Core.Diagnosis;

/// <summary>Where the air of each node goes: its whole leak against the restriction, and each place's share of it as an ear has it.</summary>
internal sealed class LeakPaths
{
    // Below this share nothing is heard whatever it is.
    private const double Silence = 1e-6;

    private readonly NodeTable nodes;
    private readonly double[][] areas = new double[LeakEvidence.Places][];
    private readonly double[] whole;
    private readonly double[]?[] shares = new double[LeakEvidence.Places][];

    /// <summary>The paths.</summary>
    /// <param name="nodes">The nodes.</param>
    /// <param name="size">Cylinder over half a litre.</param>
    /// <param name="restrictionMm2">Area of the tester's restriction.</param>
    /// <param name="oiled">True with test oil still in the cylinder.</param>
    /// <param name="moreRings">Ring leak that every cylinder has more, mm² for half a litre.</param>
    public LeakPaths(NodeTable nodes, double size, double restrictionMm2, bool oiled, double moreRings)
    {
        this.nodes = nodes;
        MoreRings = moreRings;
        var usual = LikelihoodTable.UsualArea(size);
        whole = new double[nodes.Nodes.Length];
        for (var p = 0; p < areas.Length; p++)
        {
            var area = areas[p] = new double[whole.Length];
            for (var k = 0; k < area.Length; k++)
            {
                area[k] = LikelihoodTable.AreaOf(nodes.Nodes[k], p, size, usual, oiled, moreRings);
            }
            TensorPrimitives.Add(whole, area, whole);
        }
        LnRatio = new double[whole.Length];
        TensorPrimitives.Multiply(whole, 1 / restrictionMm2, LnRatio);
        TensorPrimitives.Log<double>(LnRatio, LnRatio);
    }

    /// <summary>Ring leak that every cylinder has more, mm² for half a litre.</summary>
    public double MoreRings { get; }

    /// <summary>ln of leak area over restriction, by node.</summary>
    public double[] LnRatio { get; }

    /// <summary>A place's share of the flow in dB, with how loud it is there, by node.</summary>
    public double[] ShareDb(int place)
    {
        if (shares[place] is { } known)
        {
            return known;
        }
        // Shared by all jobs at once: seen by others only when it is finished.
        var share = new double[whole.Length];
        TensorPrimitives.Divide(areas[place], whole, share);
        TensorPrimitives.Max(share, Silence, share);
        TensorPrimitives.Log10<double>(share, share);
        for (var k = 0; k < share.Length; k++)
        {
            share[k] = 20 * share[k] + LikelihoodTable.EarDb(nodes.Nodes[k], place);
        }
        shares[place] = share;
        return share;
    }
}
