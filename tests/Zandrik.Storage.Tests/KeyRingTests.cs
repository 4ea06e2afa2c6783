using System.Xml.Linq;
using CsCheck;

namespace Zandrik.Storage.Tests;

public sealed class KeyRingTests(TestDatabase db) : IClassFixture<TestDatabase>, IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("zandrik-keys-").FullName;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    [Fact]
    public void What_is_sealed_opens_with_its_key_and_with_no_other() =>
        Gen.Select(Gen.Byte.Array[32], Gen.Byte.Array[32], Gen.String).Where((a, b, _) => !a.SequenceEqual(b)).Sample((right, wrong, text) =>
        {
            var plain = System.Text.Encoding.UTF8.GetString(System.Text.Encoding.UTF8.GetBytes(text));
            var shut = new KeySeal(right).Seal(plain);
            new KeySeal(right).Open(shut).ShouldBe(plain);
            Should.Throw<KeySealException>(() => new KeySeal(wrong).Open(shut)).Message.ShouldContain("another key file");
            new KeySeal(right).Seal(plain).ShouldNotBe(shut, "a nonce of its own each time");
            var changed = shut.ToCharArray();
            changed[20] = changed[20] == 'A' ? 'B' : 'A';
            Should.Throw<KeySealException>(() => new KeySeal(right).Open(new string(changed)));
        }, iter: 200);

    [Fact]
    public async Task Two_that_make_the_key_file_at_once_have_the_same_key_which_only_its_owner_reads()
    {
        var path = Path.Combine(folder, "tls", "ring.key");
        var seals = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Task.Run(() => KeySeal.FromFile(path), Cancel)));
        var shut = seals[0].Seal("a key");
        seals.ShouldAllBe(s => s.Open(shut) == "a key");
        Directory.GetFiles(Path.Combine(folder, "tls")).ShouldBe([path], "no halves are left");
        if (!OperatingSystem.IsWindows())
        {
            File.GetUnixFileMode(path).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
        }
        await File.WriteAllTextAsync(path, "something else", Cancel);
        Should.Throw<KeySealException>(() => KeySeal.FromFile(path)).Message.ShouldContain(path);
    }

    [Fact]
    public async Task Keys_of_a_version_before_are_sealed_where_they_lie_and_then_need_the_file()
    {
        await db.AsOwnerAsync("truncate data_protection_key");
        var seal = KeySeal.FromFile(Path.Combine(folder, "ring.key"));
        var (clear, ring) = (new KeyRing(db.Database), new KeyRing(db.Database, seal));
        clear.StoreElement(new XElement("key", new XAttribute("id", 1), "old"), "old");
        (await ring.SealAsync(Cancel)).ShouldBe(1);
        ring.StoreElement(new XElement("key", new XAttribute("id", 2), "new"), "new");
        (await ring.SealAsync(Cancel)).ShouldBe(0);
        ring.GetAllElements().Select(e => e.Value).ShouldBe(["old", "new"]);

        (await Should.ThrowAsync<KeySealException>(() => clear.SealAsync(Cancel))).Message.ShouldContain("ZANDRIK_KEY_FILE");
        var other = new KeyRing(db.Database, KeySeal.FromFile(Path.Combine(folder, "another.key")));
        (await Should.ThrowAsync<KeySealException>(() => other.SealAsync(Cancel))).Message.ShouldContain("another key file");
        var stored = (string)(await db.AsOwnerAsync("select string_agg(xml, ' ') from data_protection_key"))!;
        // As it stands between the tags: three letters alone are in what is sealed by chance, sooner or later.
        stored.ShouldNotContain(">old<");
        stored.ShouldNotContain(">new<");
        stored.ShouldNotContain("<key");
    }

    [Fact]
    public async Task Copies_that_start_at_once_have_one_first_key_and_keep_it_while_the_database_is_away()
    {
        await db.AsOwnerAsync("truncate data_protection_key");
        var copies = Enumerable.Range(0, 4).Select(_ => new KeyRing(db.Database)).ToList();
        copies.ShouldAllBe(c => !c.IsKnown);
        var made = await Task.WhenAll(copies.Select((copy, n) => Task.Run(() => copy.MakeFirstAsync(() => copy.StoreElement(new XElement("key", $"by {n}"), "first"), Cancel), Cancel)));
        made.Count(m => m).ShouldBe(1);
        copies.SelectMany(c => c.GetAllElements()).Select(e => e.Value).Distinct().ShouldHaveSingleItem();
        copies.ShouldAllBe(c => c.IsKnown);

        await using var away = new ShopDatabase("Host=127.0.0.1;Port=1;Username=x;Timeout=1");
        Should.Throw<Npgsql.NpgsqlException>(() => new KeyRing(away).GetAllElements());
        await using var goes = new ShopDatabase(db.Connection);
        var ring = new KeyRing(goes);
        var known = ring.GetAllElements().Single().Value;
        await db.AsOwnerAsync("alter table data_protection_key rename to data_protection_key_away");
        try
        {
            ring.GetAllElements().Single().Value.ShouldBe(known);
        }
        finally
        {
            await db.AsOwnerAsync("alter table data_protection_key_away rename to data_protection_key");
        }
    }
}
