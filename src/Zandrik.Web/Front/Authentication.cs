using System.Globalization;
using System.Security.Claims;
using System.Security.Cryptography;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Identity;
using Npgsql;
using Zandrik.Storage;
using Zandrik.Web.Watching;

namespace Zandrik.Web.Front;

/// <summary>Lets people in and out: passwords, counted tries, sessions and their cookie.</summary>
public sealed partial class Authentication(SignInStore signIn, AuditStore audit, ShopMeter meter, IDataProtectionProvider protection, TimeProvider clock, ILogger<Authentication> log)
{
    internal const string ShopClaim = "zandrik.shop", StampClaim = "zandrik.stamp", SessionClaim = "zandrik.session";
    internal const string CookieName = "zandrik.person";
    private const string DeviceCookie = "zandrik.device";
    private static readonly SemaphoreSlim Hashing = new(1);
    private readonly IDataProtector devices = protection.CreateProtector("Zandrik.Device");
    private static readonly PasswordHasher<object> Hasher = new();
    private static readonly object Anybody = new();

    // Checked when nobody has the sign-in name, so that the answer takes as long as with a wrong password.
    private static readonly Lazy<string> NobodysHash = new(() => HashPassword(SignInStore.RandomWord()));

    /// <summary>The hash of a password, salted, in the form that ASP.NET Core stores.</summary>
    public static string HashPassword(string password) => Hasher.HashPassword(Anybody, password);

    /// <summary>
    /// Checks a sign-in name and password. Each try is counted first: by name where the device is not known, so that nobody is
    /// kept out of his own tablet by somebody elsewhere who guesses; by the device where it is; and by the address. After a
    /// few, each further try has to wait.
    /// </summary>
    /// <returns>The person with the stamp for the cookie, or what to tell; the same whether a name exists or not.</returns>
    public async Task<(SignInAttempt? Let, string? Problem)> CheckAsync(HttpContext http, string? login, string? password, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        var name = (login?.Trim() ?? "").ToLowerInvariant();
        var (own, address) = DeviceOf(http, name) is { } device ? ($"device|{device}|{name}", (string?)null) : ($"name|{name}", $"address|{AddressOf(http)}");
        if (await signIn.CountTryAsync(own, address, now, cancel) is { } until)
        {
            Waiting(log, AddressOf(http));
            meter.SignInFailed("wait");
            return (null, Waits(until - now));
        }
        var attempt = await signIn.ByLoginAsync(name, cancel);
        // One at a time: a row of sign-ins leaves the other processors to those who measure.
        await Hashing.WaitAsync(cancel);
        try
        {
            var hash = attempt?.PasswordHash ?? NobodysHash.Value;
            if (await Task.Run(() => Hasher.VerifyHashedPassword(Anybody, hash, password ?? ""), cancel) == PasswordVerificationResult.Failed || attempt is null)
            {
                Failed(log, AddressOf(http));
                meter.SignInFailed("wrong");
                if (attempt is not null)
                {
                    // Not waited for: a name that exists would be answered later than one that does not.
                    _ = NoteFailedAsync(attempt.Who, AddressOf(http));
                }
                return (null, "Sign-in name and password do not go together. Try again, or ask a foreman for a new link.");
            }
        }
        finally
        {
            Hashing.Release();
        }
        await signIn.ForgetTriesAsync(own, address, now, cancel);
        return (attempt, null);
    }

    /// <summary>Checks the password of somebody who is signed in. Wrong tries count as at sign-in: a tablet left signed in is no place to guess at.</summary>
    /// <returns>What is wrong; absent when it is right.</returns>
    public async Task<string?> OwnPasswordProblemAsync(HttpContext http, string? login, string? password, CancellationToken cancel) =>
        await CheckAsync(http, login, password, cancel) is not (null, { } problem) ? null : problem.StartsWith("Too many", StringComparison.Ordinal) ? problem : "That is not your password.";

    private async Task NoteFailedAsync(ShopPerson who, string address)
    {
        try
        {
            await audit.NoteAsync(who, AuditStore.SignInFailed, $"as {who.Person}, from {address}", known: false);
        }
        catch (NpgsqlException away)
        {
            NotNoted(log, away);
        }
    }

    [LoggerMessage(Level = LogLevel.Warning, Message = "A failed sign-in could not be noted.")]
    private static partial void NotNoted(ILogger log, Exception away);

    internal static string Waits(TimeSpan wait) => wait > TimeSpan.FromSeconds(90)
        ? $"Too many tries. Wait {Math.Ceiling(wait.TotalMinutes):0} minutes, then try again, or ask a foreman for a new link."
        : $"Too many tries. Wait {Math.Ceiling(wait.TotalSeconds):0} seconds, then try again, or ask a foreman for a new link.";

    // An IPv6 network is one house: whoever has it has all its addresses.
    internal static string AddressOf(HttpContext http) => http.Connection.RemoteIpAddress switch
    {
        null => "",
        { IsIPv4MappedToIPv6: true } mapped => mapped.MapToIPv4().ToString(),
        { AddressFamily: System.Net.Sockets.AddressFamily.InterNetworkV6 } six => Convert.ToHexString(six.GetAddressBytes().AsSpan(0, 8)),
        var four => four.ToString(),
    };

    /// <summary>Gives the browser a new cookie for a person, whatever it had before, and begins a session.</summary>
    public async Task SignInAsync(HttpContext http, ShopPerson who, Guid stamp, string? login, CancellationToken cancel)
    {
        var session = await signIn.BeginSessionAsync(who, DeviceWords(http.Request.Headers.UserAgent.ToString()), clock.GetUtcNow(), cancel);
        SignedIn(log, who.PersonId, who.ShopId, AddressOf(http));
        var ticket = Ticket(who, stamp, session);
        await http.SignInAsync(ticket.Principal, ticket.Properties);
        if (login is not null)
        {
            // Known from here on for this name (it may lie in a bay for a year).
            var known = devices.Protect($"{Guid.NewGuid():N}|{login.Trim().ToLowerInvariant()}");
            http.Response.Cookies.Append(DeviceCookie, known, new CookieOptions { HttpOnly = true, Secure = http.Request.IsHttps, SameSite = SameSiteMode.Lax, MaxAge = TimeSpan.FromDays(365), IsEssential = true });
        }
    }

    // The device's own number, where somebody signed in on it with this name before.
    private string? DeviceOf(HttpContext http, string name)
    {
        if (http.Request.Cookies[DeviceCookie] is not { Length: > 0 and < 2000 } cookie)
        {
            return null;
        }
        try
        {
            var said = devices.Unprotect(cookie).Split('|', 2);
            return said[1] == name ? said[0] : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    [LoggerMessage(Level = LogLevel.Information, Message = "Person {Person} of shop {Shop} signed in from {Address}.")]
    private static partial void SignedIn(ILogger log, int person, int shop, string address);

    [LoggerMessage(Level = LogLevel.Warning, Message = "A sign-in from {Address} failed.")]
    private static partial void Failed(ILogger log, string address);

    [LoggerMessage(Level = LogLevel.Warning, Message = "A sign-in from {Address} has to wait: too many tries.")]
    private static partial void Waiting(ILogger log, string address);

    private static string DeviceWords(string agent) =>
        agent.Contains("Mobi", StringComparison.OrdinalIgnoreCase) ? "phone"
        : agent.Contains("Tablet", StringComparison.OrdinalIgnoreCase) || agent.Contains("Touch", StringComparison.OrdinalIgnoreCase) ? "tablet"
        : agent.Length > 0 ? "computer or tablet" : "program";

    /// <summary>What the cookie of a person says.</summary>
    internal static AuthenticationTicket Ticket(ShopPerson who, Guid stamp, Guid session)
    {
        var identity = new ClaimsIdentity(
        [
            new Claim(ClaimTypes.NameIdentifier, who.PersonId.ToString(CultureInfo.InvariantCulture)),
            new Claim(ShopClaim, who.ShopId.ToString(CultureInfo.InvariantCulture)),
            new Claim(StampClaim, stamp.ToString("N")),
            new Claim(SessionClaim, session.ToString("N")),
        ], CookieAuthenticationDefaults.AuthenticationScheme);
        return new AuthenticationTicket(new ClaimsPrincipal(identity), new AuthenticationProperties { IsPersistent = true }, CookieAuthenticationDefaults.AuthenticationScheme);
    }

    /// <summary>Adds sign-in to the application; <see cref="SessionMiddleware"/> checks the cookie against the database with each page.</summary>
    public static void AddTo(IServiceCollection services)
    {
        services.AddHttpContextAccessor();
        services.AddSingleton<Authentication>();
        services.AddSingleton<SecondFactor>();
        services.AddScoped<Visitor>();
        services.AddAuthorization();
        services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie(o =>
        {
            o.Cookie.Name = CookieName;
            o.Cookie.SameSite = SameSiteMode.Lax;
            o.Cookie.HttpOnly = true;
            // Over https it never travels in the clear; on loopback there is nothing else.
            o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
            o.ExpireTimeSpan = SignInStore.Idle;
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
}
