using System.Globalization;
using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;
using OtpNet;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>
/// One-time codes of a phone as the second half of a sign-in (RFC 6238: six digits, half a minute each, SHA-1, which is what
/// the programs on phones know). A code of the half minute before or after is good too, no code is good twice, and wrong ones
/// are counted as wrong passwords are.
/// </summary>
public sealed class SecondFactor(SecondFactorStore store, SignInStore signIn, IDataProtectionProvider protection, TimeProvider clock)
{
    private const string HalfCookie = "zandrik.half";
    private static readonly TimeSpan HalfLasts = TimeSpan.FromMinutes(5);
    private static readonly VerificationWindow Window = new(previous: 1, future: 1);
    private readonly IDataProtector secrets = protection.CreateProtector("Zandrik.SecondFactor");
    private readonly ITimeLimitedDataProtector offers = protection.CreateProtector("Zandrik.SecondFactor.Offer").ToTimeLimitedDataProtector();
    private readonly ITimeLimitedDataProtector halves = protection.CreateProtector("Zandrik.HalfSignIn").ToTimeLimitedDataProtector();

    /// <summary>A new secret for a phone: nothing is kept until a code of it was typed.</summary>
    /// <param name="who">For whom.</param>
    /// <returns>The secret as it is typed, the address for the phone's camera, and what the form sends back, which is good for an hour and for this person.</returns>
    public (string Secret, string Address, string Offer) Make(ShopPerson who)
    {
        var secret = Base32Encoding.ToString(RandomNumberGenerator.GetBytes(20));
        return Shown(who, secret);
    }

    /// <summary>The same for an offer that was made before, after a mistyped code; absent when it is over.</summary>
    public (string Secret, string Address, string Offer)? Again(ShopPerson who, string? offer) => Read(who, offer) is { } secret ? Shown(who, secret) : null;

    /// <summary>Turns it on, when the code is one of the offered secret.</summary>
    /// <returns>The recovery codes; absent when the code is wrong or the offer is over.</returns>
    public async Task<IReadOnlyList<string>?> TurnOnAsync(ShopPerson who, string? offer, string? code, CancellationToken cancel) =>
        Read(who, offer) is { } secret && Step(secret, code) is { } step ? await store.TurnOnAsync(who, secrets.Protect(secret), step, clock.GetUtcNow(), cancel) : null;

    /// <summary>Checks a code of the phone, or a recovery code; each is taken once. Tries are counted first.</summary>
    /// <returns>What is wrong; absent when it is right.</returns>
    public async Task<string?> ProblemAsync(ShopPerson who, string? typed, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        var counted = string.Create(CultureInfo.InvariantCulture, $"code|{who.PersonId}");
        if (await signIn.CountTryAsync(counted, null, now, cancel) is { } until)
        {
            return Authentication.Waits(until - now);
        }
        var code = (typed ?? "").Replace(" ", "", StringComparison.Ordinal).ToLowerInvariant();
        if (code.Length == 6 && code.All(char.IsAsciiDigit))
        {
            string? secret;
            try
            {
                secret = await store.SecretAsync(who, cancel) is { } kept ? secrets.Unprotect(kept) : null;
            }
            catch (CryptographicException)
            {
                return "The secret of this code cannot be read any more. Use a recovery code, or ask a foreman to remove the phone code.";
            }
            if (secret is null || Step(secret, code) is not { } step)
            {
                return "That code is not right. Check the phone again, and that its clock is right.";
            }
            if (!await store.TakeStepAsync(who, step, cancel))
            {
                return "That code was used already. Wait for the next one, at most half a minute.";
            }
        }
        else if (!await store.TakeRecoveryAsync(who, code, now, cancel))
        {
            return "Type the six digits the phone shows, or a recovery code that was not used yet.";
        }
        await signIn.ForgetTriesAsync(counted, null, now, cancel);
        return null;
    }

    /// <summary>Remembers in the browser, for five minutes, that the password was right.</summary>
    public void Begin(HttpContext http, SignInAttempt let, string login) =>
        http.Response.Cookies.Append(HalfCookie, halves.Protect($"{let.Stamp:N}|{login}", HalfLasts), new CookieOptions { HttpOnly = true, Secure = http.Request.IsHttps, SameSite = SameSiteMode.Strict, MaxAge = HalfLasts, IsEssential = true, Path = "/sign-in" });

    /// <summary>Forgets it.</summary>
    public static void End(HttpContext http) => http.Response.Cookies.Delete(HalfCookie, new CookieOptions { Path = "/sign-in" });

    /// <summary>Whose password was right in this browser just now; absent when nobody's was, it was too long ago, or the password is another by now.</summary>
    public async Task<(SignInAttempt Let, string Login)?> HalfAsync(HttpContext http, CancellationToken cancel)
    {
        if (http.Request.Cookies[HalfCookie] is not { Length: > 0 and < 2000 } cookie)
        {
            return null;
        }
        try
        {
            var said = halves.Unprotect(cookie).Split('|', 2);
            return await signIn.ByLoginAsync(said[1], cancel) is { } let && let.Stamp.ToString("N") == said[0] ? (let, said[1]) : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    private (string Secret, string Address, string Offer) Shown(ShopPerson who, string secret) =>
        (string.Join(' ', secret.Chunk(4).Select(c => new string(c))),
            $"otpauth://totp/{Uri.EscapeDataString($"Zandrik:{who.Person}, {who.Shop}")}?secret={secret}&issuer=Zandrik",
            offers.Protect(string.Create(CultureInfo.InvariantCulture, $"{who.PersonId}|{secret}"), TimeSpan.FromHours(1)));

    private string? Read(ShopPerson who, string? offer)
    {
        try
        {
            var said = offers.Unprotect(offer ?? "").Split('|', 2);
            return said[0] == who.PersonId.ToString(CultureInfo.InvariantCulture) ? said[1] : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    // The half minute whose code it is.
    private long? Step(string secret, string? code) =>
        new Totp(Base32Encoding.ToBytes(secret)).VerifyTotp(clock.GetUtcNow().UtcDateTime, (code ?? "").Replace(" ", "", StringComparison.Ordinal), out var step, Window) ? step : null;
}
