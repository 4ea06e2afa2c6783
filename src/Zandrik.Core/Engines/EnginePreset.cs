using Zandrik.Core.Records;

namespace Zandrik.Core.Engines;

/// <summary>
/// A common arrangement of cylinders to start a new engine from. A preset carries no maker's figure:
/// every field of it can be changed, and the maker's numbering and firing order always win.
/// </summary>
/// <param name="Id">Stable name, as in <c>v6</c>.</param>
/// <param name="Label">What it is called on the shop floor.</param>
/// <param name="Fuel">The usual fuel.</param>
/// <param name="Layout">The arrangement.</param>
/// <param name="Banks">A usual numbering, by bank from the front.</param>
/// <param name="FiringOrders">Common firing orders for that numbering, the most usual first.</param>
public sealed record EnginePreset(
    string Id,
    string Label,
    Fuel Fuel,
    CylinderArrangement Layout,
    IReadOnlyList<IReadOnlyList<int>> Banks,
    IReadOnlyList<IReadOnlyList<int>> FiringOrders)
{
    /// <summary>Number of cylinders.</summary>
    public int Cylinders => Banks.Sum(b => b.Count);

    /// <summary>Every preset, small engines first.</summary>
    public static IReadOnlyList<EnginePreset> All { get; } =
    [
        Inline("i2", "Inline two", Fuel.Petrol, "1-2"),
        Inline("i3", "Inline three", Fuel.Petrol, "1-3-2", "1-2-3"),
        Inline("i4", "Inline four", Fuel.Petrol, "1-3-4-2", "1-2-4-3"),
        Inline("i5", "Inline five", Fuel.Petrol, "1-2-4-5-3"),
        Inline("i6", "Inline six", Fuel.Petrol, "1-5-3-6-2-4", "1-4-2-6-3-5"),
        Banked("v6", "V6, odd and even banks", CylinderArrangement.V, "1 3 5 / 2 4 6", "1-2-3-4-5-6", "1-6-5-4-3-2"),
        Banked("v6-in-a-row", "V6, 1 to 3 in one bank", CylinderArrangement.V, "1 2 3 / 4 5 6", "1-4-2-5-3-6", "1-4-3-6-2-5"),
        Banked("v8", "V8, odd and even banks", CylinderArrangement.V, "1 3 5 7 / 2 4 6 8", "1-8-4-3-6-5-7-2", "1-8-7-2-6-5-4-3", "1-2-7-8-4-5-6-3"),
        Banked("v8-in-a-row", "V8, 1 to 4 in one bank", CylinderArrangement.V, "1 2 3 4 / 5 6 7 8", "1-5-4-8-6-3-7-2", "1-5-4-2-6-3-7-8"),
        Banked("v10", "V10", CylinderArrangement.V, "1 2 3 4 5 / 6 7 8 9 10", "1-6-5-10-2-7-3-8-4-9"),
        Banked("v12", "V12", CylinderArrangement.V, "1 2 3 4 5 6 / 7 8 9 10 11 12", "1-7-5-11-3-9-6-12-2-8-4-10", "1-12-5-8-3-10-6-7-2-11-4-9"),
        Banked("flat2", "Flat two", CylinderArrangement.Flat, "1 / 2", "1-2"),
        Banked("flat4", "Flat four", CylinderArrangement.Flat, "1 3 / 2 4", "1-3-2-4", "1-4-3-2"),
        Banked("flat6", "Flat six", CylinderArrangement.Flat, "1 2 3 / 4 5 6", "1-6-2-4-3-5"),
        Inline("i6-truck", "Inline six, truck diesel", Fuel.Diesel, "1-5-3-6-2-4"),
    ];

    private static EnginePreset Inline(string id, string label, Fuel fuel, params string[] orders)
    {
        var order = CylinderList.Read(orders[0])!;
        return new EnginePreset(id, label, fuel, CylinderArrangement.Inline,
            [[.. Enumerable.Range(1, order.Count)]], [.. orders.Select(o => CylinderList.Read(o)!)]);
    }

    private static EnginePreset Banked(string id, string label, CylinderArrangement layout, string banks, params string[] orders) =>
        new(id, label, Fuel.Petrol, layout, CylinderList.ReadBanks(banks)!, [.. orders.Select(o => CylinderList.Read(o)!)]);
}
