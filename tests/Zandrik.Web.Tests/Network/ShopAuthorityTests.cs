using System.Net;
using System.Security.Cryptography.X509Certificates;
using Zandrik.Web.Network;

namespace Zandrik.Web.Tests.Network;

/// <summary>The shop's own authority, and what it may and may not vouch for.</summary>
public sealed class ShopAuthorityTests : IDisposable
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private readonly string folder = Directory.CreateTempSubdirectory("zandrik-tls-").FullName;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    [Fact]
    public void It_is_made_once_and_its_key_is_for_nobody_else()
    {
        using var first = ShopAuthority.Open(folder, ["office"], Now);
        using var again = ShopAuthority.Open(folder, ["another"], Now.AddDays(3));
        again.Fingerprint.ShouldBe(first.Fingerprint);
        first.Fingerprint.ShouldMatch("^([0-9A-F]{4} ){15}[0-9A-F]{4}$");
        first.Until.ShouldBe(Now.AddYears(ShopAuthority.Years));
        File.GetUnixFileMode(Path.Combine(folder, "authority.key")).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }

    [Fact]
    public void It_vouches_for_this_machine_as_long_as_browsers_allow()
    {
        using var authority = ShopAuthority.Open(folder, ["office", "office.local"], Now);
        using var server = authority.Issue(["office", "office.local"], [IPAddress.Parse("192.168.7.4"), IPAddress.Parse("203.0.113.9")], Now);
        authority.Vouches(server, Now.AddDays(ShopAuthority.ServerDays).AddMinutes(-1)).ShouldBeTrue();
        authority.Vouches(server, Now.AddDays(ShopAuthority.ServerDays).AddMinutes(1)).ShouldBeFalse();
        server.MatchesHostname("office.local").ShouldBeTrue();
        server.MatchesHostname("192.168.7.4").ShouldBeTrue();
        server.MatchesHostname("localhost").ShouldBeTrue();
        server.MatchesHostname("203.0.113.9").ShouldBeFalse("an address of the internet is left out");
        server.GetECDsaPrivateKey().ShouldNotBeNull();
    }

    [Fact]
    public void It_cannot_play_another_site_to_a_tablet()
    {
        using var authority = ShopAuthority.Open(folder, ["office"], Now);
        Should.Throw<InvalidOperationException>(() => authority.Issue(["bank.example"], [], Now)).Message.ShouldContain("--certificate");
        using var other = ShopAuthority.Open(Path.Combine(folder, "other"), ["office"], Now);
        using var theirs = other.Issue(["office"], [], Now);
        authority.Vouches(theirs, Now).ShouldBeFalse();
    }

    [Theory]
    [InlineData("10.1.2.3", true)]
    [InlineData("172.31.255.1", true)]
    [InlineData("172.32.0.1", false)]
    [InlineData("192.168.0.1", true)]
    [InlineData("169.254.9.9", true)]
    [InlineData("203.0.113.9", false)]
    [InlineData("127.0.0.1", true)]
    [InlineData("::1", true)]
    [InlineData("fd00::2", true)]
    [InlineData("fe80::1", true)]
    [InlineData("2001:db8::1", false)]
    [InlineData("::ffff:192.168.0.1", true)]
    [InlineData("::ffff:203.0.113.9", false)]
    public void Networks_of_ones_own_are_told_from_the_internet(string address, bool isPrivate) => MachineNames.IsPrivate(IPAddress.Parse(address)).ShouldBe(isPrivate);
}
