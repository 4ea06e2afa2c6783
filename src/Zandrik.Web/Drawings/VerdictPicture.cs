using Zandrik.Core.Engines;
using Zandrik.Core.Verdicts;
using Zandrik.Web.Pages.Jobs;

namespace Zandrik.Web.Drawings;

/// <summary>Turns a verdict into the picture of its cylinders, as it was when it was signed.</summary>
public static class VerdictPicture
{
    /// <summary>The picture.</summary>
    public static ColumnsPicture Of(VerdictSnapshot said) => new()
    {
        Title = $"Cylinders as they sit, {said.ShownIn}",
        Banks = CylinderLayout.Of(said.Record.Engine).Banks,
        FullScale = 1.1,
        Webs = JudgementLinks.BurntWebs(said.Cylinders),
        Glasses = said.Cylinders.Zip(said.Shown).ToDictionary(p => p.First.Cylinder, p => new Glass(p.First.State, p.Second.Level, p.Second.Figure,
            $"Cylinder {p.First.Cylinder} {p.Second.Figure}{(p.Second.Figure.Length > 0 ? ", " : "")}{StateLook.Word(p.First.State)}")),
    };
}
