namespace Zandrik.Core.RelativeCompression;

/// <summary>What the search is over: the starter's time constant, where the first slot's top dead centre stands on the track, and in which way each slot pumps less.</summary>
/// <param name="TauS">Time constant J·R/K² of starter and crank, s.</param>
/// <param name="Phase">Top dead centre of slot 1 on the track, cycles.</param>
/// <param name="Uneven">How unevenly the crank turns within the cycle, against what the motor equation gives with the usual figures: 0 as given, 1 for <see cref="CyclePhase.MoreUneven"/> times that.</param>
/// <param name="Wear">In which state the sound cylinders are, of <see cref="CompressionTemplate.Wears"/>.</param>
/// <param name="Losses">Why each slot pumps less, where it does.</param>
/// <param name="Gasket">Two slots with a leaking gasket between them; absent for none.</param>
/// <param name="Series">How far the starter's field follows its current, 0 to 1: 0 for permanent magnets, 1 for one wound in series.</param>
/// <param name="Free">True to let the sound cylinders be as different as the trace has them; else they are held to be about alike.</param>
internal sealed record FitPoint(double TauS, double Phase, double Uneven, int Wear, PressureLoss[] Losses, GasketLeak? Gasket = null, bool Free = false, double Series = 0)
{
    /// <summary>True for a slot that is taken for sound: neither weak by itself nor beside a leaking gasket.</summary>
    public bool IsSound(int slot) => Losses[slot] == PressureLoss.None && Gasket?.Has(slot) != true;
}

/// <summary>A gasket that leaks between two slots.</summary>
/// <param name="First">One slot, from 0.</param>
/// <param name="Second">The other.</param>
/// <param name="Size">Which of the sizes of <see cref="CompressionTemplate.GasketSizes"/>.</param>
internal sealed record GasketLeak(int First, int Second, int Size)
{
    /// <summary>True for one of the two slots.</summary>
    public bool Has(int slot) => slot == First || slot == Second;
}
