using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Practice;

/// <summary>How hard an exercise is.</summary>
public enum PracticeLevel
{
    /// <summary>It shows at the first test.</summary>
    Clear,

    /// <summary>As they come in.</summary>
    Everyday,

    /// <summary>Small, or with a complaint that points elsewhere.</summary>
    Hard,
}

/// <summary>What an exercise is about.</summary>
public enum PracticeTheme
{
    /// <summary>Rings, a piston or a rod of one cylinder.</summary>
    OneCylinder,

    /// <summary>A head gasket: to the neighbour, or to the coolant.</summary>
    Gasket,

    /// <summary>A valve that leaks, or a lobe that is gone.</summary>
    Valves,

    /// <summary>A diesel.</summary>
    Diesel,

    /// <summary>The engine is sound and the test is not.</summary>
    TestErrors,

    /// <summary>Nothing is wrong.</summary>
    NothingWrong,

    /// <summary>Two cylinders, each with its own fault.</summary>
    TwoFaults,

    /// <summary>Two explanations that these tests cannot part.</summary>
    CannotTell,
}

/// <summary>What is wrong with the test rather than with the engine.</summary>
public enum PracticeTrap
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>The check valve of the first gauge is in its head: the hose is part of the chamber, and everything reads low.</summary>
    CheckValveInHead,

    /// <summary>The first gauge reads an eighth low.</summary>
    GaugeReadsLow,

    /// <summary>The adapter does not seal at one cylinder until it is put in anew.</summary>
    SealLeaks,

    /// <summary>The check valve was left in the hose of the leak-down tester: its first reading loses nothing.</summary>
    LeakValveLeftIn,
}

/// <summary>What is really wrong at one place.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Fault">The fault.</param>
/// <param name="Severity">How bad, 0 mild to 2 severe; no unit.</param>
/// <param name="With">The neighbour, for a gasket between two cylinders.</param>
/// <param name="Or">The fault that reads alike and cannot be told from it; absent where it can.</param>
public sealed record PracticeTruth(int Cylinder, Fault Fault, double Severity, int? With = null, Fault? Or = null);

/// <summary>
/// An exercise: an engine that was made up, what its owner says, and what is hidden in it. The same number is the same
/// exercise for everybody, on every machine.
/// </summary>
public sealed record PracticeCase
{
    /// <summary>Its number, from 1.</summary>
    public required int Number { get; init; }

    /// <summary>How hard it is.</summary>
    public required PracticeLevel Level { get; init; }

    /// <summary>What it is about.</summary>
    public required PracticeTheme Theme { get; init; }

    /// <summary>What is written down at intake: vehicle, engine, complaint and what was noticed; no test.</summary>
    public required TestRecord Intake { get; init; }

    /// <summary>What is hidden in the engine; empty for a sound one.</summary>
    public required IReadOnlyList<PracticeTruth> Truths { get; init; }

    /// <summary>What is wrong with the test.</summary>
    public PracticeTrap Trap { get; init; }

    /// <summary>The cylinder at which <see cref="PracticeTrap.SealLeaks"/> shows.</summary>
    public int? TrapAt { get; init; }

    /// <summary>True where the crank stands a turn away from compression when somebody first sets it to a mark.</summary>
    public bool StartsOnExhaust { get; init; }

    /// <summary>The engine as it stands there.</summary>
    public required EngineUnderTest Engine { get; init; }

    /// <summary>Cylinders of the engine.</summary>
    public int Cylinders => Intake.Engine.Cylinders;

    /// <summary>True for a cylinder with a fault, or beside a gasket that leaks.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>True where something is wrong there.</returns>
    public bool IsFaulty(int cylinder) => Truths.Any(t => t.Cylinder == cylinder || t.With == cylinder);

    /// <summary>How a cylinder was built and what is wrong with it.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>Its condition.</returns>
    public CylinderCondition At(int cylinder) => Engine.Condition.GetValueOrDefault(cylinder) ?? new CylinderCondition();
}
