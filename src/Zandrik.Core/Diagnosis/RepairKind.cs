using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>What a fault has opened: suspects of one kind are not worth telling apart before that.</summary>
public enum RepairKind
{
    /// <summary>Nothing: it is sound, or the test was not.</summary>
    Nothing,

    /// <summary>Rings, bore, piston, rod.</summary>
    BottomEnd,

    /// <summary>A run, and the test again.</summary>
    Run,

    /// <summary>Valves, seats, lobes.</summary>
    TopEnd,

    /// <summary>The head gasket, or a crack.</summary>
    Gasket,

    /// <summary>Deposits.</summary>
    Deposits,
}

/// <summary>Which repair a fault needs.</summary>
public static class RepairKinds
{
    /// <summary>How many there are.</summary>
    public const int Count = 6;

    /// <summary>The repair of a fault of a cylinder.</summary>
    /// <param name="fault">The fault.</param>
    /// <returns>The kind; nothing for what is no fault of a cylinder.</returns>
    public static RepairKind Of(Fault fault) => fault switch
    {
        Fault.Rings or Fault.Piston or Fault.ShortStroke => RepairKind.BottomEnd,
        Fault.FuelWashed => RepairKind.Run,
        Fault.IntakeValve or Fault.ExhaustValve or Fault.IntakeNotOpening or Fault.ExhaustNotOpening => RepairKind.TopEnd,
        Fault.GasketCoolant or Fault.GasketAdjacent => RepairKind.Gasket,
        Fault.Carbon => RepairKind.Deposits,
        _ => RepairKind.Nothing,
    };
}
