using System.Net;

namespace Zandrik.Web.Tests.Pages;

/// <summary>What can hurt somebody, asked of every page and round them: air that is on, and a job that is closed.</summary>
public sealed class SafetyFlowTests(Site site) : IClassFixture<Site>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private const string Four = """{ "engine": { "cylinders": 4, "fuel": "petrol", "gearbox": "manual", "firingOrder": [1, 3, 4, 2] }, "tests": [ { "kind": "compression-dry", "unit": "psi", "conditions": { "plugs": "all-out" }, "readings": [ { "cylinder": 1, "value": 205 }, { "cylinder": 2, "value": 150 }, { "cylinder": 3, "value": 204 }, { "cylinder": 4, "value": 206 } ] } ] }""";

    private static readonly string[] Pages = ["dry", "plan", "prepare", "plugs", "wet", "running", "checks", "checks/fluids", "judgement", "verdict", "refit", "relative-compression", "intake", "labels", "paper", "type-in", "sheet", "caller", "liquid"];

    private static async Task<string> RefusedAsync(HttpClient client, string address, params (string, string)[] fields)
    {
        var answer = await client.PostFormAsync(address, fields);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, address);
        return await answer.Content.ReadAsStringAsync(Cancel);
    }

    private static async Task AirAsync(HttpClient client, int job, bool on)
    {
        foreach (var (item, way) in on ? [("turned", "2"), ("key", ""), ("stroke", ""), ("chocks", ""), ("held", ""), ("bar", ""), ("air", "")] : new[] { ("air", "") })
        {
            (await client.PostFormAsync($"/jobs/{job}/leak-down?handler=Crank&cylinder=2", ("item", item), ("way", way), ("done", item == "air" && !on ? "false" : "true"))).EnsureSuccessStatusCode();
        }
    }

    [Fact]
    public async Task While_air_is_on_every_page_says_so_and_the_only_next_step_is_air_off()
    {
        var job = await site.JobAsync(Four);
        using var client = await SignedIn.ClientAsync(site.Address);
        Task<string> PageAsync(string page) => client.GetStringAsync(new Uri($"/jobs/{job}/{page}", UriKind.Relative), Cancel);
        await AirAsync(client, job, on: true);
        foreach (var page in Pages)
        {
            var html = await PageAsync(page);
            html.ShouldContain("data-air-banner", customMessage: page);
            html.ShouldNotContain("data-card-next=\"leak-down\"", customMessage: page);
        }
        (await PageAsync("judgement")).ShouldContain("data-card-next=\"air-off\"");
        (await PageAsync("caller")).ShouldNotContain("Count in");
        var leak = await PageAsync("leak-down");
        leak.ShouldContain("data-air-off");
        leak.ShouldNotContain("data-turn-says");
        (await RefusedAsync(client, $"/jobs/{job}/dry?handler=Enter&cylinder=1", ("value", "200"), ("kind", "Reading"), ("unit", "psi"))).ShouldContain("The air is on");
        (await RefusedAsync(client, $"/jobs/{job}/refit", ("item", "counted"), ("done", "true"))).ShouldContain("Air off first");
        (await RefusedAsync(client, $"/jobs/{job}/refit?handler=Close", ("reason", "home time"), ("sure", "true"))).ShouldContain("Air off first");
        (await RefusedAsync(client, $"/jobs/{job}/wet?handler=Oil&cylinder=2", ("oil", "9"))).ShouldContain("Air off first");
        await AirAsync(client, job, on: false);
        (await PageAsync("dry")).ShouldNotContain("data-air-banner");
        (await client.PostFormAsync($"/jobs/{job}/dry?handler=Enter&cylinder=1", ("value", "201"), ("kind", "Reading"), ("unit", "psi"))).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task While_liquid_may_stand_in_a_cylinder_getting_it_out_is_the_next_step_everywhere()
    {
        var job = await site.JobAsync(Four);
        using var client = await SignedIn.ClientAsync(site.Address);
        Task<string> PageAsync(string page) => client.GetStringAsync(new Uri($"/jobs/{job}/{page}", UriKind.Relative), Cancel);
        (await client.PostFormAsync($"/jobs/{job}/plugs?cylinder=2", ("signs", "coolant-wet"))).EnsureSuccessStatusCode();
        foreach (var page in new[] { "dry", "leak-down", "wet", "running", "judgement", "checks/fluids" })
        {
            (await PageAsync(page)).ShouldContain("data-card-next=\"liquid-out\"", customMessage: page);
        }
        (await PageAsync("dry")).ShouldContain("next: get the liquid out");
        var signs = System.Text.RegularExpressions.Regex.Match(await PageAsync("liquid"), "name=\"signs\" value=\"([^\"]+)\"").Groups[1].Value;
        foreach (var line in new[] { "plugs-out", "clear", "spun", "dried" })
        {
            (await client.PostFormAsync($"/jobs/{job}/liquid?handler=Tick", ("item", line), ("done", "true"), ("signs", signs))).EnsureSuccessStatusCode();
        }
        (await PageAsync("judgement")).ShouldNotContain("data-card-next=\"liquid-out\"");
    }

    [Fact]
    public async Task A_test_that_needs_it_running_says_so_on_an_engine_that_does_not_start()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        async Task<string> RunningAsync(string seen) => await client.GetStringAsync(new Uri($"/jobs/{await site.JobAsync($$"""{ "engine": { "cylinders": 4, "fuel": "petrol" }, "observations": ["{{seen}}"] }""")}/running", UriKind.Relative), Cancel);
        (await RunningAsync("no-start")).ShouldContain("it does not start");
        (await RunningAsync("misfire")).ShouldNotContain("it does not start");
    }

    [Fact]
    public async Task A_closed_job_takes_nothing_on_any_way_and_is_opened_again()
    {
        var job = await site.JobAsync(Four);
        using var client = await SignedIn.ClientAsync(site.Address);
        async Task CloseAsync() => (await client.PostFormAsync($"/jobs/{job}/refit?handler=Close", ("reason", "towed away"), ("sure", "true"))).EnsureSuccessStatusCode();
        await CloseAsync();
        var before = (await site.RecordAsync(job)).ToJsonString();
        foreach (var (address, fields) in new (string, (string, string)[])[]
        {
            ("dry?handler=Enter&cylinder=1", [("value", "99"), ("kind", "Reading"), ("unit", "psi")]),
            ("dry?handler=Conditions", [("Throttle", "closed")]),
            ("dry?handler=Details&cylinder=1", [("Pulses", "6")]),
            ("dry?handler=Start", []),
            ("prepare", [("item", "fuel"), ("way", "pump-relay"), ("done", "true")]),
            ("refit", [("item", "counted"), ("done", "true")]),
            ("plugs?cylinder=1", [("signs", "normal")]),
            ("leak-down?handler=Crank&cylinder=1", [("item", "turned"), ("way", "1"), ("done", "true")]),
            ("wet?handler=Oil&cylinder=2", [("oil", "9")]),
            ("running?handler=Safe&cylinder=1", [("item", "place"), ("done", "true")]),
            ("checks/fluids", [("Findings", "clean")]),
            ("intake", [("Form.Vehicle", "Another"), ("Form.Cylinders", "4"), ("Form.Seen", "0")]),
        })
        {
            (await RefusedAsync(client, $"/jobs/{job}/{address}", fields)).ShouldContain("closed", customMessage: address);
        }
        var added = await site.Api.PostAsync(new Uri($"/api/v1/jobs/{job}/tests", UriKind.Relative), new StringContent("""{ "kind": "crank-sound", "result": "even" }""", System.Text.Encoding.UTF8, "application/json"), Cancel);
        added.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await site.RecordAsync(job)).ToJsonString().ShouldBe(before);
        (await client.PostFormAsync($"/jobs/{job}/dry?handler=Close", ("open", "true"))).EnsureSuccessStatusCode();
        (await client.PostFormAsync($"/jobs/{job}/checks/fluids", ("Findings", "clean"))).EnsureSuccessStatusCode();
    }

    [Fact]
    public async Task An_intake_form_that_was_opened_before_somebody_elses_change_says_so_and_hides_nothing()
    {
        var job = await site.JobAsync(Four);
        using var ostrel = await SignedIn.ClientAsync(site.Address);
        using var hallan = await SignedIn.ClientAsync(site.Address, "hallan");
        (string, string)[] Form(string complaint, int seen) => [("Form.Vehicle", "Two hands"), ("Form.Cylinders", "4"), ("Form.Complaint", complaint), ("Form.Seen", $"{seen}")];
        (await ostrel.PostFormAsync($"/jobs/{job}/intake", Form("rough when cold", 0))).EnsureSuccessStatusCode();
        var refused = await RefusedAsync(hallan, $"/jobs/{job}/intake", Form("no power", 0));
        refused.ShouldContain("M. Ostrel changed this intake after you opened it");
        refused.ShouldContain("no power", customMessage: "what was typed is not lost");
        ((string)(await site.RecordAsync(job))["complaint"]!).ShouldBe("rough when cold");
        (await hallan.PostFormAsync($"/jobs/{job}/intake", Form("no power", 1))).EnsureSuccessStatusCode();
        ((string)(await site.RecordAsync(job))["complaint"]!).ShouldBe("no power");
        (await ostrel.GetStringAsync(new Uri($"/jobs/{job}/intake", UriKind.Relative), Cancel)).ShouldContain("by M. Ostrel");
    }

    [Fact]
    public async Task The_intake_of_an_old_job_saved_after_its_vehicle_was_renamed_leaves_it_where_it_is()
    {
        var job = await site.JobAsync("""{ "engine": { "cylinders": 4 }, "vehicle": { "label": "Net tender 3" } }""");
        using var client = await SignedIn.ClientAsync(site.Address);
        async Task<string> VehicleAsync() => System.Text.RegularExpressions.Regex.Match(await client.GetStringAsync(new Uri("/vehicles", UriKind.Relative), Cancel), """/vehicles/(\d+)"><b>Net tender""").Groups[1].Value;
        var vehicle = await VehicleAsync();
        (await client.PostFormAsync($"/vehicles/{vehicle}", ("label", "Net tender Skarvi"))).EnsureSuccessStatusCode();
        (await client.GetStringAsync(new Uri($"/jobs/{job}/intake", UriKind.Relative), Cancel)).ShouldContain("Net tender Skarvi");
        (await client.PostFormAsync($"/jobs/{job}/intake", ("Form.Vehicle", "Net tender 3"), ("Form.Cylinders", "4"), ("Form.Complaint", "smokes"))).EnsureSuccessStatusCode();
        var list = await client.GetStringAsync(new Uri("/vehicles", UriKind.Relative), Cancel);
        System.Text.RegularExpressions.Regex.Count(list, "<b>Net tender").ShouldBe(1, "the old one is not made again");
        (await client.GetStringAsync(new Uri($"/vehicles/{vehicle}", UriKind.Relative), Cancel)).ShouldContain($"/jobs/{job}/");
    }
}
