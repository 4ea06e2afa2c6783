using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>Who sits beside a cylinder in its bank, front of the engine first.</summary>
/// <param name="Before">The one nearer the front; absent for the first of a bank.</param>
/// <param name="Behind">The one nearer the back; absent for the last.</param>
public readonly record struct Neighbours(int? Before, int? Behind)
{
    /// <summary>The neighbours of a cylinder.</summary>
    /// <returns>One before, one behind, or none at an end of its bank; none for a cylinder the engine does not have.</returns>
    public static Neighbours Of(EngineSheet engine, int cylinder)
    {
        foreach (var bank in CylinderLayout.Of(engine).Banks)
        {
            for (var i = 0; i < bank.Count; i++)
            {
                if (bank[i] == cylinder)
                {
                    return new Neighbours(i > 0 ? bank[i - 1] : null, i + 1 < bank.Count ? bank[i + 1] : null);
                }
            }
        }
        return default;
    }

    /// <summary>Whether a cylinder is one of the two.</summary>
    /// <returns>False for the cylinder itself.</returns>
    public bool Contain(int cylinder) => Before == cylinder || Behind == cylinder;
}
