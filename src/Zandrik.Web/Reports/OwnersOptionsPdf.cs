namespace Zandrik.Web.Reports;

/// <summary>Sets <see cref="OwnersOptions"/> on paper.</summary>
public sealed class OwnersOptionsPdf : PaperPdf
{
    private readonly OwnersOptions options;

    private OwnersOptionsPdf(OwnersOptions options)
        : base($"{options.Vehicle}: what can be done", options.Shop, $"{options.Vehicle} · {options.Shop} · job {options.Number}", options.Made) => this.options = options;

    /// <summary>The PDF of the options.</summary>
    public static byte[] Make(OwnersOptions options)
    {
        using var pdf = new OwnersOptionsPdf(options);
        return pdf.Bytes();
    }

    private protected override void Fill()
    {
        Text($"{options.Shop} · job {options.Number} · {options.Made}", Small);
        Text(options.Vehicle, Title);
        Text(options.Engine, Bold);
        Heading("What the tests say");
        Text(options.Finding, Plain);
        foreach (var option in options.Options)
        {
            Heading(option.Title + (option.IsChosen ? ": this is what we would do" : ""));
            Text(option.Figure + (option.Between is null ? "" : $" (between {option.Between})"), Bold);
            Text(option.Does, Plain);
            Text($"{option.Chance} {option.Days}".TrimEnd(), Plain);
            foreach (var more in option.More)
            {
                Text(more, Plain);
            }
        }
        Space();
        Text(options.HowCounted, Small);
        if (options.Until is { } until)
        {
            Text($"The page behind the link can be opened until {until}.", Small);
        }
        Signatures("For the shop, day", "Owner, day");
    }
}
