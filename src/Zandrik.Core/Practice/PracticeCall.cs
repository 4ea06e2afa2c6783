using Zandrik.Core.Diagnosis;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Practice;

/// <summary>What a trainee says is wrong at one place.</summary>
/// <param name="Cylinder">The cylinder; absent for the whole engine.</param>
/// <param name="Fault">The fault.</param>
/// <param name="With">The neighbour, for a gasket between two cylinders.</param>
/// <param name="Or">The fault it could be as well: cannot be told with what was measured.</param>
public sealed record PracticeSuspect(int? Cylinder, Fault Fault, int? With = null, Fault? Or = null)
{
    /// <summary>The suspect in words.</summary>
    public string Says => (Cylinder is { } c ? FormattableString.Invariant($"cylinder {c}: ") : "") + FaultWords.Of(Fault, With, Cylinder) + (Or is { } or ? " or " + FaultWords.Of(or) : "");
}

/// <summary>A trainee's call: what is wrong, and what is to be done. Nothing called wrong is a call too.</summary>
/// <param name="Suspects">What is wrong; empty for a sound engine.</param>
/// <param name="Repairs">What is to be done; empty counts as leaving it.</param>
public sealed record PracticeCall(IReadOnlyList<PracticeSuspect> Suspects, IReadOnlyList<Repair> Repairs)
{
    /// <summary>What may be said of a cylinder.</summary>
    public static IReadOnlyList<Fault> OfCylinder { get; } =
        [Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketAdjacent, Fault.GasketCoolant, Fault.IntakeNotOpening, Fault.ExhaustNotOpening, Fault.ShortStroke, Fault.FuelWashed, Fault.Carbon];

    /// <summary>What may be said of the whole engine.</summary>
    public static IReadOnlyList<Fault> OfEngine { get; } = [Fault.TestError, Fault.CamTiming, Fault.GeneralWear];

    /// <summary>What may be done.</summary>
    public static IReadOnlyList<Repair> Doable { get; } =
        [Repair.Leave, Repair.RunAndRetest, Repair.AdjustValves, Repair.FreeRings, Repair.CleanDeposits, Repair.SetTiming, Repair.Gasket, Repair.TopEnd, Repair.BottomEnd, Repair.Overhaul, Repair.Exchange];

    /// <summary>Why a call cannot be taken, with what to do; absent where it can.</summary>
    /// <param name="engine">The engine.</param>
    /// <returns>One sentence; null where it can be taken.</returns>
    public string? Problem(EngineSheet engine)
    {
        if (Suspects.Select(s => s.Cylinder).Distinct().Count() != Suspects.Count)
        {
            return "Say one thing of each cylinder; where it could be either of two, use “or”.";
        }
        foreach (var s in Suspects)
        {
            if (s.Cylinder is { } c && (c < 1 || c > engine.Cylinders))
            {
                return FormattableString.Invariant($"This engine has {engine.Cylinders} cylinders.");
            }
            if (!(s.Cylinder is null ? OfEngine : OfCylinder).Contains(s.Fault) || (s.Or is { } or && (or == s.Fault || !OfCylinder.Contains(or) || s.Cylinder is null)))
            {
                return "Choose what is wrong from the list, and another fault after “or”.";
            }
            if (s.Fault == Fault.GasketAdjacent && s.With is { } with && s.Cylinder is { } at && !Neighbours.Of(engine, at).Contain(with))
            {
                return FormattableString.Invariant($"Cylinder {with} is no neighbour of {at}: no gasket lies between them.");
            }
        }
        return Repairs.Except(Doable).Any() ? "Choose what is to be done from the list." : null;
    }
}
