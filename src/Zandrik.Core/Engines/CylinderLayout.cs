using Zandrik.Core.Records;

namespace Zandrik.Core.Engines;

/// <summary>Where the cylinders sit: banks from front to back, and who sits beside whom.</summary>
public sealed class CylinderLayout
{
    private CylinderLayout(IReadOnlyList<IReadOnlyList<int>> banks, bool assumed)
    {
        Banks = banks;
        IsAssumed = assumed;
    }

    /// <summary>Cylinder numbers by bank, each from the front of the engine to the back.</summary>
    public IReadOnlyList<IReadOnlyList<int>> Banks { get; }

    /// <summary>True when the sheet lists no banks and a usual numbering is assumed.</summary>
    public bool IsAssumed { get; }

    /// <summary>
    /// The layout of a sheet. Without banks, an inline engine (or one of unknown arrangement) is numbered
    /// from the front in one row; a V, flat or W engine is taken to have odd numbers in one bank and even
    /// numbers in the other, which many makers use and not all.
    /// </summary>
    /// <returns>The layout; every cylinder stands in one bank.</returns>
    public static CylinderLayout Of(EngineSheet engine)
    {
        if (engine.Banks is { Count: > 0 } banks)
        {
            return new CylinderLayout(banks, assumed: false);
        }
        var all = Enumerable.Range(1, engine.Cylinders).ToList();
        var inline = engine.Cylinders == 1 || engine.Layout is null or CylinderArrangement.Inline;
        return new CylinderLayout(
            inline ? [all] : [[.. all.Where(c => c % 2 == 1)], [.. all.Where(c => c % 2 == 0)]],
            assumed: engine.Layout is not CylinderArrangement.Inline);
    }

    /// <summary>Whether two cylinders share a wall, and so a strip of head gasket: next to each other in one bank.</summary>
    /// <returns>False for a cylinder and itself, and across banks.</returns>
    public bool AreNeighbours(int first, int second)
    {
        foreach (var bank in Banks)
        {
            for (var i = 1; i < bank.Count; i++)
            {
                if ((bank[i - 1] == first && bank[i] == second) || (bank[i - 1] == second && bank[i] == first))
                {
                    return true;
                }
            }
        }
        return false;
    }
}
