using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Core.Shops;

namespace Zandrik.Core.Assessment;

/// <summary>
/// By what a job is judged beside its readings. Limits and methods (<see cref="JudgeBy"/>) travel with the record, so
/// that changing the shop's later rewrites no verdict; what is done and in which order is the shop's as it is now.
/// Minutes are <see cref="Planning.StepMinutes"/> for everybody.
/// </summary>
/// <param name="Shop">The shop's settings: whether and when a wet test is done, oil measures, house rules.</param>
public sealed record JobPolicy(ShopSettings Shop)
{
    /// <summary>The trade's defaults, for a record that comes alone.</summary>
    public static readonly JobPolicy Usual = new(new ShopSettings());

    /// <summary>What the shop knows of the cost of repairs, and what it does not do.</summary>
    public RepairPolicy Repairs { get; init; } = RepairPolicy.None;

    /// <summary>The engine sheet the job is of; absent for none.</summary>
    public int? Sheet { get; init; }

    /// <summary>What is known of the owner's side.</summary>
    public DecisionInputs Inputs { get; init; } = DecisionInputs.None;
}
