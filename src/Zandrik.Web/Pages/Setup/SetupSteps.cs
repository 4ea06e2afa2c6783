using Zandrik.Storage;

namespace Zandrik.Web.Pages.Setup;

/// <summary>A step of the guided set-up of a new shop.</summary>
/// <param name="Word">Its word in the address.</param>
/// <param name="Name">What it is called.</param>
public sealed record SetupStep(string Word, string Name)
{
    /// <summary>The steps in their order. The foreman came in by the first link, so that one is done.</summary>
    public static IReadOnlyList<SetupStep> All { get; } =
    [
        new("foreman", "Foreman"), new("shop", "Shop"), new("units", "Units"), new("method", "Limits"), new("tester", "First tester"), new("engine", "First engine sheet"), new("sample", "Sample job"),
    ];

    /// <summary>True where it was done or skipped.</summary>
    public bool IsDone(ShopPerson who) => Word == "foreman" || who.Setup.Contains(Word);

    /// <summary>The first step that was neither done nor skipped; absent when none is left.</summary>
    public static SetupStep? Next(ShopPerson who) => All.FirstOrDefault(s => !s.IsDone(who));

    /// <summary>The step after this one; absent for the last.</summary>
    public SetupStep? After => All.SkipWhile(s => s != this).Skip(1).FirstOrDefault();

    /// <summary>The step before this one; absent for the first that asks something.</summary>
    public SetupStep? Before => All.TakeWhile(s => s != this).Skip(1).LastOrDefault();
}
