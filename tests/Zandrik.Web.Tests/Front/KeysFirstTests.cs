using Microsoft.AspNetCore.Http;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Front;

public sealed class KeysFirstTests
{
    [Theory]
    [InlineData("zandrik.person=something", true)]
    [InlineData("zandrik.person=something; zandrik.form=more", true)]
    [InlineData("zandrik.form=more", false)]
    [InlineData("", false)]
    public async Task Without_keys_a_cookie_is_neither_good_nor_bad_and_the_database_is_said_to_be_away(string cookies, bool refused)
    {
        await using var away = new ShopDatabase("Host=127.0.0.1;Port=1;Username=nobody;Timeout=1");
        var went = false;
        var gate = new KeysFirst(_ =>
        {
            went = true;
            return Task.CompletedTask;
        }, new KeyRing(away));
        var context = new DefaultHttpContext();
        context.Request.Headers.Cookie = cookies;
        if (refused)
        {
            await Should.ThrowAsync<Npgsql.NpgsqlException>(() => gate.InvokeAsync(context));
        }
        else
        {
            await gate.InvokeAsync(context);
        }
        went.ShouldBe(!refused);
    }
}
