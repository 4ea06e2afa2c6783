using Npgsql;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>What is done by hand on the machine itself, for who looks after it: the first foreman's link, a token for a script.</summary>
public static class HandCommands
{
    /// <summary><c>first-foreman ADDRESS</c> makes the first foreman's one-time link while nobody can sign in; <c>token LABEL</c> makes a token in the first foreman's name; <c>forget-code LOGIN</c> takes the second factor off whom nobody else can help.</summary>
    /// <returns>0 when it is done; 1 with the reason on the error output; 2 for what it does not understand.</returns>
    public static async Task<int> RunAsync(string[] arguments, CancellationToken cancel = default)
    {
        try
        {
            switch (arguments)
            {
                case ["first-foreman", var address] when Environment.GetEnvironmentVariable("ZANDRIK_OWNER_DB") is { Length: > 0 } owner:
                    if (await Migrator.FirstLinkAsync(owner, DateTimeOffset.UtcNow, cancel) is not { } link)
                    {
                        await Console.Error.WriteLineAsync("Somebody can sign in already. A foreman makes links for others: Shop, People.");
                        return 1;
                    }
                    Console.WriteLine($"The first foreman opens, once, within {PeopleStore.LinkGoodFor.TotalDays:0} days: {address}/welcome/{link}");
                    return 0;
                case ["token", var label] when Environment.GetEnvironmentVariable("ZANDRIK_DB") is { Length: > 0 } connection && label.Trim() is { Length: > 0 and <= 100 } name:
                    await using (var database = new ShopDatabase(connection))
                    {
                        var who = (await new SignInStore(database).FirstAsync(cancel))!;
                        Console.WriteLine(await new PeopleStore(database).MakeTokenAsync(who, name, endsAt: DateTimeOffset.UtcNow.AddDays(365), cancel: cancel));
                    }
                    await Console.Error.WriteLineAsync("It is shown this once. It speaks for the first foreman for a year, or until it is revoked: Shop, Tokens.");
                    return 0;
                case ["forget-code", var login] when Environment.GetEnvironmentVariable("ZANDRIK_DB") is { Length: > 0 } connection:
                    await using (var database = new ShopDatabase(connection))
                    {
                        var off = await new SignInStore(database).ByLoginAsync(login.Trim(), cancel) is { Who: var person } && await new SecondFactorStore(database).TurnOffAsync(person, person.PersonId, cancel);
                        Console.WriteLine(off ? $"{login} signs in with the password alone until the phone code is set up again." : $"Nobody called {login} signs in with a code.");
                        return off ? 0 : 1;
                    }
                default:
                    await Console.Error.WriteLineAsync("Use zandrik token LABEL, with a label of up to 100 characters, zandrik first-foreman, or zandrik forget-code NAME.");
                    return 2;
            }
        }
        catch (NpgsqlException away)
        {
            await Console.Error.WriteLineAsync($"The database did not answer: {away.Message}");
            return 1;
        }
    }
}
