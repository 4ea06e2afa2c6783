using System.Globalization;
using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Identity;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>Lets people in and out: passwords, lockout, and the sign-in cookie.</summary>
public sealed class Authentication(SignInStore signIn, TimeProvider clock)
{
    /// <summary>Shortest password taken.</summary>
    public const int ShortestPassword = 10;

    internal const string ShopClaim = "zandrik.shop", StampClaim = "zandrik.stamp";
    private static readonly PasswordHasher<object> Hasher = new();
    private static readonly object Anybody = new();

    // Checked when nobody has the sign-in name, so that the answer takes as long as with a wrong password.
    private static readonly Lazy<string> NobodysHash = new(() => HashPassword(SignInStore.RandomWord()));

    /// <summary>The hash of a password, salted, in the form that ASP.NET Core stores.</summary>
    public static string HashPassword(string password) => Hasher.HashPassword(Anybody, password);

    /// <summary>What keeps a text from being a password; absent when nothing does.</summary>
    public static string? Objection(string? password) => password switch
    {
        null or { Length: < ShortestPassword } => $"Take at least {ShortestPassword} characters: three or four words are easy to keep.",
        { Length: > 200 } => "Take at most 200 characters.",
        _ when password.Distinct().Count() < 4 => "That is too even to be a password: mix more characters.",
        _ => null,
    };

    /// <summary>Whether a password is the person's own.</summary>
    public static bool IsPassword(SignInAttempt attempt, string? password) =>
        Hasher.VerifyHashedPassword(Anybody, attempt.PasswordHash, password ?? "") != PasswordVerificationResult.Failed;

    /// <summary>Checks a sign-in name and password. Wrong ones are counted, and after too many nobody gets in for a while.</summary>
    /// <returns>The person with the stamp for the cookie, or what to tell.</returns>
    public async Task<(SignInAttempt? Let, string? Problem)> CheckAsync(string? login, string? password, CancellationToken cancel)
    {
        const string wrong = "Sign-in name and password do not go together. Try again, or ask a foreman for a new link.";
        var now = clock.GetUtcNow();
        if (await signIn.ByLoginAsync(login?.Trim() ?? "", cancel) is not { } attempt)
        {
            Hasher.VerifyHashedPassword(Anybody, NobodysHash.Value, password ?? "");
            return (null, wrong);
        }
        if (attempt.LockedUntil is { } locked && locked > now)
        {
            return (null, Locked(locked, attempt.Who));
        }
        if (!IsPassword(attempt, password))
        {
            return (null, await signIn.CountFailureAsync(attempt.Who, now, cancel) is { } until ? Locked(until, attempt.Who) : wrong);
        }
        await signIn.ForgetFailuresAsync(attempt.Who, cancel);
        return (attempt, null);
    }

    /// <summary>Gives the browser a new cookie for a person, whatever it had before.</summary>
    public static Task SignInAsync(HttpContext http, ShopPerson who, Guid stamp)
    {
        var ticket = Ticket(who, stamp);
        return http.SignInAsync(ticket.Principal, ticket.Properties);
    }

    /// <summary>What the cookie of a person says.</summary>
    internal static AuthenticationTicket Ticket(ShopPerson who, Guid stamp)
    {
        var identity = new ClaimsIdentity(
        [
            new Claim(ClaimTypes.NameIdentifier, who.PersonId.ToString(CultureInfo.InvariantCulture)),
            new Claim(ShopClaim, who.ShopId.ToString(CultureInfo.InvariantCulture)),
            new Claim(StampClaim, stamp.ToString("N")),
        ], CookieAuthenticationDefaults.AuthenticationScheme);
        return new AuthenticationTicket(new ClaimsPrincipal(identity), new AuthenticationProperties { IsPersistent = true }, CookieAuthenticationDefaults.AuthenticationScheme);
    }

    /// <summary>Adds sign-in to the application; <see cref="SessionMiddleware"/> checks the cookie against the database with each page.</summary>
    public static void AddTo(IServiceCollection services)
    {
        services.AddHttpContextAccessor();
        services.AddSingleton<Authentication>();
        services.AddScoped<Visitor>();
        services.AddAuthorization();
        services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie(o =>
        {
            o.Cookie.Name = "zandrik.person";
            o.Cookie.SameSite = SameSiteMode.Lax;
            o.Cookie.HttpOnly = true;
            // Over https it never travels in the clear; on loopback there is nothing else.
            o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
            o.ExpireTimeSpan = TimeSpan.FromDays(7);
            o.SlidingExpiration = true;
            o.LoginPath = "/sign-in";
            o.ReturnUrlParameter = "back";
            o.Events.OnRedirectToLogin = context =>
            {
                // A part of a page cannot be answered with the sign-in page: the script says what to do.
                if (context.Request.IsHtmx())
                {
                    context.Response.StatusCode = StatusCodes.Status401Unauthorized;
                }
                else
                {
                    context.Response.Redirect(context.RedirectUri);
                }
                return Task.CompletedTask;
            };
        });
    }

    private static string Locked(DateTimeOffset until, ShopPerson who) =>
        $"Too many wrong passwords. Wait until {ShopText.Clock(until, who)}, or ask a foreman for a new link.";
}
