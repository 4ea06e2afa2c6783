using System.Net.Sockets;
using System.Text;

namespace Zandrik.Web.Tests.Trust;

/// <summary>Whoever sends a body drop by drop, or never, does not hold a place for ever.</summary>
public sealed class SlowBodyTests(Site site) : IClassFixture<Site>
{
    [Fact]
    public async Task A_body_that_does_not_come_is_given_up_with_408_and_nobody_else_waits_for_it()
    {
        var cancel = TestContext.Current.CancellationToken;
        var address = new Uri(site.Address);
        using var tcp = new TcpClient();
        await tcp.ConnectAsync(address.Host, address.Port, cancel);
        var stream = tcp.GetStream();
        await stream.WriteAsync(Encoding.ASCII.GetBytes("POST /api/v1/jobs HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer zandrik-demo-token\r\nContent-Type: application/json\r\nContent-Length: 5000\r\n\r\n{ \"for"), cancel);
        using var reader = new StreamReader(stream, Encoding.ASCII);
        var answer = reader.ReadLineAsync(cancel).AsTask();
        // An honest record passes meanwhile.
        (await site.JobAsync("""{ "engine": { "cylinders": 4 } }""")).ShouldBeGreaterThan(0);
        answer.IsCompleted.ShouldBeFalse();
        (await answer)!.ShouldStartWith("HTTP/1.1 408");
    }

    [Fact]
    public async Task A_body_larger_than_any_page_sends_is_refused_before_it_comes()
    {
        var cancel = TestContext.Current.CancellationToken;
        var address = new Uri(site.Address);
        using var tcp = new TcpClient();
        await tcp.ConnectAsync(address.Host, address.Port, cancel);
        var stream = tcp.GetStream();
        await stream.WriteAsync(Encoding.ASCII.GetBytes("POST /sign-in HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 9000000\r\n\r\nlogin=x"), cancel);
        using var reader = new StreamReader(stream, Encoding.ASCII);
        (await reader.ReadLineAsync(cancel))!.ShouldStartWith("HTTP/1.1 413");
    }
}
