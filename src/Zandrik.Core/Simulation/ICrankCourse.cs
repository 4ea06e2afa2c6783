namespace Zandrik.Core.Simulation;

/// <summary>A crank that was turned by its starter: what a recorder could have taken down of it.</summary>
public interface ICrankCourse
{
    /// <summary>Times, s, rising.</summary>
    public IReadOnlyList<double> TimeS { get; }

    /// <summary>Crank angle at each, radians from the first firing top dead centre of the order.</summary>
    public IReadOnlyList<double> CrankRad { get; }

    /// <summary>Starter current at each, A.</summary>
    public IReadOnlyList<double> CurrentA { get; }

    /// <summary>Battery voltage at each, V.</summary>
    public IReadOnlyList<double> BatteryV { get; }
}
