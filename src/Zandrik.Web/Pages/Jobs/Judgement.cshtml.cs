using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What the readings of all tests together say: suspects, how sure, why, and what to measure next. Live with every reading.</summary>
public sealed class JudgementModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "judgement";

    protected override string Part => "_Judgement";

    public EngineDiagnosis Said => Assessment.Diagnosis;

    /// <summary>The cylinder that is explained; the worst unless one is chosen.</summary>
    public CylinderDiagnosis At { get; private set; } = null!;

    /// <summary>True where readings of two kinds of test say where the air goes.</summary>
    public bool CanShowAir => Assessment.CanSayWhereAirGoes;

    /// <summary>What figure is asked about, as <see cref="Explanation"/> has it; absent for none.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Why { get; set; }

    /// <summary>How that figure comes about; absent for none.</summary>
    public Explanation? Explained { get; private set; }

    protected override string Here => Address + "?cylinder=" + At.Cylinder + (Why is null ? "" : "&why=" + Uri.EscapeDataString(Why));

    /// <summary>Where a figure of the cylinder that is shown is explained.</summary>
    public string WhyOf(string ask) => $"{Address}?cylinder={At.Cylinder}&why={Uri.EscapeDataString(ask)}";

    /// <summary>The cylinders as they sit, each as full as it is likely to be sound.</summary>
    public ColumnsPicture Picture => new()
    {
        Title = "Cylinders as they sit, how likely each is sound, in percent",
        Banks = CylinderLayout.Of(Engine).Banks,
        FullScale = 1.05,
        Glasses = Said.Cylinders.ToDictionary(c => c.Cylinder, c => new Glass(c.State, c.State == CylinderState.Untested ? null : Math.Max(0.02, c.Of(Fault.Sound)),
            c.State == CylinderState.Untested ? "" : ShopText.Percent(c.Of(Fault.Sound)), c.State == CylinderState.Untested ? $"Cylinder {c.Cylinder} untested" : $"Cylinder {c.Cylinder} {ShopText.Percent(c.Of(Fault.Sound))} percent sound, {StateLook.Word(c.State)}")),
        Webs = JudgementLinks.BurntWebs(Said.Cylinders),
        Selected = At.Cylinder,
        Link = c => $"{Address}?cylinder={c}",
        LinkTarget = "#step",
    };

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        At = Cylinder is { } c && c >= 1 && c <= Said.Cylinders.Count ? Said.Cylinders[c - 1] : Assessment.LeastSound ?? Said.Cylinders.MinBy(x => x.Of(Fault.Sound))!;
        Explained = Why is null ? null : Explanation.Of(Said, Why, At.Cylinder);
        return true;
    }
}
