namespace Zandrik.Core.Planning;

/// <summary>
/// How long the steps take, minutes: the one table for the plan, the rail and whatever ranks tests. Rules of thumb of
/// the trade (docs/preparation.md); an engine sheet's own access minutes come on top.
/// </summary>
public static class StepMinutes
{
    /// <summary>Fuel and ignition off, throttle open, battery, gauge: before any plug is out.</summary>
    public const int Prepare = 10;

    /// <summary>Running an engine warm.</summary>
    public const int WarmUp = 15;

    /// <summary>Pulling one plug and setting it down in order.</summary>
    public const int EachPlug = 2;

    /// <summary>A capture of starter current, clamp on and off.</summary>
    public const int Relative = 8;

    /// <summary>Test fluid on the coolant: lowered cold, warmed up, drawn through.</summary>
    public const int CombustionGas = 10;

    /// <summary>Listening to the engine crank.</summary>
    public const int CrankSound = 1;

    /// <summary>Looking at oil and coolant.</summary>
    public const int Fluids = 3;

    /// <summary>Oil pressure at several speeds.</summary>
    public const int OilPressure = 15;

    /// <summary>Manifold vacuum.</summary>
    public const int Vacuum = 5;

    /// <summary>Blow-by at the oil filler.</summary>
    public const int BlowBy = 3;

    /// <summary>Oil use over a distance, from what is noted.</summary>
    public const int OilUse = 2;

    /// <summary>Dry compression of so many cylinders with the plugs out.</summary>
    /// <param name="cylinders">How many.</param>
    /// <returns>Minutes.</returns>
    public static int Dry(int cylinders) => 5 + 2 * cylinders;

    /// <summary>The same with the plugs still in.</summary>
    /// <param name="cylinders">How many.</param>
    /// <returns>Minutes.</returns>
    public static int DryPlugsIn(int cylinders) => 12 + 2 * cylinders;

    /// <summary>Cylinders that are read once more with everything as it is.</summary>
    /// <param name="cylinders">How many.</param>
    /// <returns>Minutes.</returns>
    public static int DryAgain(int cylinders) => 3 + 2 * cylinders;

    /// <summary>All cylinders once more, with a slip put right first.</summary>
    /// <param name="cylinders">How many.</param>
    /// <returns>Minutes.</returns>
    public static int DryPutRight(int cylinders) => 8 + 2 * cylinders;

    /// <summary>Leak-down of so many cylinders.</summary>
    /// <param name="cylinders">How many.</param>
    /// <param name="connected">True where air and tester are set up already, and the crank is held: the next one costs less.</param>
    /// <returns>Minutes.</returns>
    public static int LeakDown(int cylinders, bool connected = false) => connected ? 4 * cylinders : 10 + 6 * cylinders;

    /// <summary>A leak-down figure that cannot be, taken once more.</summary>
    /// <param name="cylinders">How many.</param>
    /// <returns>Minutes.</returns>
    public static int LeakDownAgain(int cylinders) => 2 + 6 * cylinders;

    /// <summary>Wet compression of so many cylinders.</summary>
    /// <param name="cylinders">How many.</param>
    /// <returns>Minutes.</returns>
    public static int Wet(int cylinders) => 4 + 3 * cylinders;

    /// <summary>Idle and snap of so many cylinders.</summary>
    /// <param name="cylinders">How many.</param>
    /// <param name="begun">True where the gauge is in already.</param>
    /// <returns>Minutes.</returns>
    public static int Running(int cylinders, bool begun = false) => (begun ? 0 : 6) + 6 * cylinders;

    /// <summary>Reading the plugs that are out.</summary>
    /// <param name="cylinders">How many.</param>
    /// <returns>Minutes.</returns>
    public static int Plugs(int cylinders) => 1 + cylinders;

    /// <summary>Valve clearance and lift of so many cylinders, cover off.</summary>
    /// <param name="cylinders">How many.</param>
    /// <returns>Minutes.</returns>
    public static int ValveClearance(int cylinders) => 20 + 3 * cylinders;
}
