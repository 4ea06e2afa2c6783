using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;

namespace Zandrik.Web.Practice;

/// <summary>A gauge on the practice bench, with what can be done with it.</summary>
/// <param name="Job">The job of the run.</param>
/// <param name="Title">What stands over it.</param>
/// <param name="Cylinder">The cylinder the hose is in.</param>
/// <param name="Engine">The engine.</param>
/// <param name="Unit">The unit of its scale.</param>
/// <param name="Act">What the button does.</param>
/// <param name="Button">What the button says.</param>
/// <param name="Back">The page it stands on.</param>
public sealed record GaugePanel(int Job, string Title, int Cylinder, EngineSheet Engine, PressureUnit Unit, string Act, string Button, string Back)
{
    /// <summary>What the gauge shows, Pa.</summary>
    public double Pascals { get; init; }

    /// <summary>True where the number of compressions is asked.</summary>
    public bool AsksCompressions { get; init; }

    /// <summary>Why the button does nothing yet; absent where it does.</summary>
    public string? Locked { get; init; }

    /// <summary>A second thing that can be done, after the first.</summary>
    public (string Act, string Button, bool Locked)? Second { get; init; }

    /// <summary>The reading as it is kept, with its trace; absent for none.</summary>
    public KeptReading? Kept { get; init; }

    /// <summary>The maker's least, Pa; absent for none.</summary>
    public double? MinimumPa => Engine.Spec is { Minimum: { } least } spec ? least * (spec.Unit ?? PressureUnit.Psi).Pascals() : null;

    /// <summary>Where the scale ends, Pa.</summary>
    public double FullScalePa => GaugeDial.FullScalePa(Engine);
}
