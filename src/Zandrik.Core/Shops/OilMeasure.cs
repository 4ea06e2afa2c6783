using System.Globalization;

namespace Zandrik.Core.Shops;

/// <summary>What test oil is poured with: nobody at an engine has a measuring glass.</summary>
/// <param name="Word">Its word, as a form sends it.</param>
/// <param name="Name">What it is called, several of it.</param>
/// <param name="One">What one of it is called.</param>
/// <param name="Ml">How much one holds, ml.</param>
public sealed record OilMeasure(string Word, string Name, string One, double Ml)
{
    /// <summary>A squirt of an oil can, ml, where the shop has not measured its own. A rule of thumb.</summary>
    public const double UsualSquirtMl = 1.5;

    /// <summary>A bottle cap, ml, where the shop has not measured its own. A rule of thumb.</summary>
    public const double UsualCapMl = 10;

    /// <summary>A spoon, ml, where the shop has not measured its own: a teaspoon.</summary>
    public const double UsualSpoonMl = 5;

    /// <summary>What a shop pours with, ml first.</summary>
    /// <returns>The measures; ml is always one.</returns>
    public static IReadOnlyList<OilMeasure> Of(ShopSettings shop) =>
    [
        new("ml", "ml", "ml", 1),
        new("squirt", "squirts", "squirt", shop.SquirtMl ?? UsualSquirtMl),
        new("cap", "caps", "cap", shop.CapMl ?? UsualCapMl),
        new("spoon", "spoons", "spoon", shop.SpoonMl ?? UsualSpoonMl),
    ];

    /// <summary>A number of them in words, with what it comes to in ml.</summary>
    /// <returns>The words with their unit.</returns>
    public string Says(double count)
    {
        string Figure(double x) => x.ToString("0.#", CultureInfo.CurrentCulture);
        return Word == "ml" ? $"{Figure(count)} ml" : $"{Figure(count)} {(count == 1 ? One : Name)} ({Figure(count * Ml)} ml)";
    }
}
