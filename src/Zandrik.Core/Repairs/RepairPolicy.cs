using Zandrik.Core.Records;

namespace Zandrik.Core.Repairs;

/// <summary>A figure of the shop, for one engine sheet or for all.</summary>
/// <param name="Sheet">The sheet; absent for every engine.</param>
/// <param name="Figure">The figure.</param>
public sealed record KeptFigure(int? Sheet, RepairFigure Figure);

/// <summary>A repair that a shop does not do on an engine family.</summary>
/// <param name="Family">Text that stands in the names of the engines it is for.</param>
/// <param name="Repair">The repair.</param>
/// <param name="Says">Why, in the shop's words.</param>
public sealed record RepairStrike(string Family, Repair Repair, string Says);

/// <summary>What a shop knows better than the rules about repairs, and what it does not do.</summary>
/// <param name="Figures">Its figures, one for each sheet and repair or level of access.</param>
/// <param name="Strikes">What it does not do.</param>
public sealed record RepairPolicy(IReadOnlyList<KeptFigure> Figures, IReadOnlyList<RepairStrike> Strikes)
{
    /// <summary>The rules alone.</summary>
    public static RepairPolicy None { get; } = new([], []);

    /// <summary>The figures for an engine of a sheet: those for every engine first, then the sheet's own.</summary>
    /// <param name="sheet">The sheet; absent for none.</param>
    /// <returns>Figures, the more special last.</returns>
    public IReadOnlyList<RepairFigure> For(int? sheet) => [.. Figures.Where(f => f.Sheet is null).Concat(Figures.Where(f => f.Sheet is not null && f.Sheet == sheet)).Select(f => f.Figure)];

    /// <summary>What is struck out on an engine, with the reason: by its name, whatever the case.</summary>
    /// <param name="engine">The engine; without a name nothing is struck out.</param>
    /// <returns>Reasons by repair.</returns>
    public IReadOnlyDictionary<Repair, string> StruckOn(EngineSheet engine) => Strikes.Where(s => engine.Name?.Contains(s.Family, StringComparison.OrdinalIgnoreCase) == true)
        .GroupBy(s => s.Repair).ToDictionary(g => g.Key, g => g.Last().Says);

    /// <summary>The same with a figure in place of the one there was.</summary>
    /// <returns>The policy; a figure that says nothing is taken out.</returns>
    public RepairPolicy With(KeptFigure figure) => this with
    {
        Figures = [.. Figures.Where(f => f.Sheet != figure.Sheet || f.Figure.What != figure.Figure.What), .. figure.Figure is { Minutes: null, Parts: null, Machining: null, Days: null } ? Array.Empty<KeptFigure>() : [figure]],
    };

    /// <summary>The same with a strike more.</summary>
    /// <returns>The policy; of the same family and repair only the new one stands.</returns>
    public RepairPolicy With(RepairStrike strike) => this with { Strikes = [.. Strikes.Where(s => !IsSame(s, strike.Family, strike.Repair)), strike] };

    /// <summary>The same without a strike.</summary>
    /// <returns>The policy.</returns>
    public RepairPolicy Without(string family, Repair repair) => this with { Strikes = [.. Strikes.Where(s => !IsSame(s, family, repair))] };

    private static bool IsSame(RepairStrike strike, string family, Repair repair) => strike.Repair == repair && string.Equals(strike.Family, family, StringComparison.OrdinalIgnoreCase);
}
