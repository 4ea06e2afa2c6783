namespace Zandrik.Core.Physics;

/// <summary>Seat-to-seat valve timing, crank degrees, and how far the cam is shifted.</summary>
/// <param name="IntakeOpens">Degrees before top dead centre; negative for after.</param>
/// <param name="IntakeCloses">Degrees after bottom dead centre.</param>
/// <param name="ExhaustOpens">Degrees before bottom dead centre.</param>
/// <param name="ExhaustCloses">Degrees after top dead centre.</param>
/// <param name="CamShift">Shift of all of them, degrees; positive for late.</param>
public sealed record ValveTiming(double IntakeOpens, double IntakeCloses, double ExhaustOpens, double ExhaustCloses, double CamShift = 0)
{
    /// <summary>How far the intake and the exhaust valves of a cylinder stand open, 0 to 1, at degrees from its firing top dead centre.</summary>
    /// <returns>0 shut to 1 fully open, each; no unit.</returns>
    public (double Intake, double Exhaust) Lifts(double degrees) => (
        Lift(degrees - CamShift, 360 - IntakeOpens, 540 + IntakeCloses), Lift(degrees - CamShift, 180 - ExhaustOpens, 360 + ExhaustCloses));

    private static double Lift(double at, double opens, double closes)
    {
        at = (at % 720 + 720) % 720;
        if (at < opens || at > closes)
        {
            return 0;
        }
        var s = Math.Sin(Math.PI * (at - opens) / (closes - opens));
        return s * s;
    }
}
