using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Setup;

/// <summary>An engine sheet with no more than what a first job needs, as it is typed.</summary>
public sealed class FirstEngineForm
{
    public string? Name { get; set; }
    public string? Preset { get; set; }
    public string? Fuel { get; set; } = "petrol";
    public string? Minimum { get; set; }
    public string? Nominal { get; set; }

    /// <summary>The sheet; absent where a field needs another look.</summary>
    public EngineDocument? Read(TypedFields fields, ShopPerson who)
    {
        var preset = EnginePreset.All.FirstOrDefault(p => p.Id == Preset);
        if (preset is null)
        {
            fields.Add("preset", "Choose how its cylinders sit.");
        }
        if (string.IsNullOrWhiteSpace(Name))
        {
            fields.Add("engine-name", "Say what the shop calls the engine.");
        }
        if (preset is null || fields.Problems.Count > 0)
        {
            return null;
        }
        var (engine, workshop) = SheetFile.Nodes(column => column switch
        {
            "name" => Name,
            "fuel" => Fuel,
            "cylinders" => TypedFields.Text(preset.Cylinders),
            "layout" => RecordWords.Of(preset.Layout),
            "banks" => CylinderList.BanksText(preset.Banks),
            "firingOrder" => CylinderList.Text(preset.FiringOrders[0]),
            "unit" => string.IsNullOrWhiteSpace(Minimum) && string.IsNullOrWhiteSpace(Nominal) ? null : who.Unit,
            "minimum" => Minimum,
            "nominal" => Nominal,
            _ => null,
        });
        var row = SheetFile.Row(1, engine, workshop);
        foreach (var problem in row.Problems)
        {
            var colon = problem.IndexOf(':', StringComparison.Ordinal);
            fields.Add(problem[..colon] is "name" ? "engine-name" : problem[..colon], problem[(colon + 1)..].Trim());
        }
        return row.Sheet;
    }
}
