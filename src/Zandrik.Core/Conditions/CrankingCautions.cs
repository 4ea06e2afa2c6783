using Zandrik.Core.Preparation;
using Zandrik.Core.Records;

namespace Zandrik.Core.Conditions;

/// <summary>What can hurt someone when an engine is cranked with its plugs out; shown once, at the step.</summary>
public static class CrankingCautions
{
    private const string Always =
        "Liquid in a cylinder does not compress and bends rods: a wet plug, or one you are not sure of, first cranks with every hole open. Face away from open plug holes, keep clear of fan, belts and pulleys, wear eye protection. Press the relief before undoing the gauge. "
        + "The maker's service information and local rules come first; a licensed technician decides.";

    /// <summary>The cautions for an engine, one short paragraph; an engine of unknown fuel is treated as petrol.</summary>
    /// <returns>A paragraph; never empty.</returns>
    public static string For(EngineSheet engine) => engine.Fuel switch
    {
        Fuel.Diesel => "Fuel shut off, glow harness isolated; high-pressure lines and rail stay closed. ",
        Fuel.Lpg or Fuel.Cng => "Gas tank valve shut and the line run empty, ventilated; ignition disabled with its energy led to ground. ",
        _ => "Fuel off and ignition disabled, with coil energy led to ground; fuel vapour and sparks do not mix. ",
    } + (engine.IsHybrid ? PreparationList.Hybrid + " " : "") + Always;
}
