using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Extensions.Options;
using Microsoft.Net.Http.Headers;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Storage;
using Zandrik.Web.Captures;

namespace Zandrik.Web.Api;

/// <summary>Relative compression from a capture of starter current: a multipart request in, an answer out; kept only where a job is named.</summary>
public static class RelativeApi
{
    private const int LongestField = 4096;
    private const long LargestBatch = 4L * CaptureDesk.LargestCapture;

    /// <summary>Maps the address.</summary>
    public static void MapRelativeApi(this WebApplication app)
    {
        app.MapGet("/api/v1/jobs/{id:int}/captures/{capture:long}", CaptureAsync)
            .AddEndpointFilter<BearerToken>()
            .WithTags("Relative compression")
            .WithName("capture")
            .WithSummary("A capture that is kept with a job, byte for byte as it came.")
            .Produces(StatusCodes.Status200OK, contentType: "application/octet-stream")
            .ProducesProblem(StatusCodes.Status401Unauthorized)
            .ProducesProblem(StatusCodes.Status404NotFound);
        MapAnswer(app);
        MapBatch(app);
    }

    private const int MostInBatch = 200;

    private static void MapBatch(WebApplication app) => app.MapPost("/api/v1/relative-compression/batch", BatchAsync)
        .AddEndpointFilter<BearerToken>()
        .WithTags("Relative compression")
        .WithName("relativeCompressionBatch")
        .WithSummary("The same of many captures in one request.")
        .WithDescription($"multipart/form-data as for one capture, with up to {MostInBatch} parts capture. A field holds for every capture after it until it is sent again, so fields come first. The answer has a line of JSON (application/x-ndjson) for each capture, in their order, each sent as soon as it is judged: number from 1, capture (the name of its file), status and answer, both as that capture alone would have got them. An Idempotency-Key counts with the capture's number.")
        .WithMetadata(new RequestSizeLimitAttribute(LargestBatch))
        .DisableAntiforgery()
        .Produces<RelativeBatchLine>(contentType: "application/x-ndjson")
        .ProducesProblem(StatusCodes.Status400BadRequest)
        .ProducesProblem(StatusCodes.Status401Unauthorized)
        .ProducesProblem(StatusCodes.Status415UnsupportedMediaType);

    private static void MapAnswer(WebApplication app) => app.MapPost("/api/v1/relative-compression", AnswerAsync)
        .AddEndpointFilter<BearerToken>()
        .WithTags("Relative compression")
        .WithName("relativeCompression")
        .WithSummary("Says from a capture of starter current which cylinder pumps less, and how surely.")
        .WithDescription("multipart/form-data: capture (CSV or WAV, either gzipped, up to 256 MiB), cylinders, firingOrder (\"1-3-4-2\"); optional fuel, compressionRatio, ampsPerVolt, currentColumn, syncColumn, timeColumn, batteryColumn (from 0), sampleRateHz, "
            + "syncCylinder, syncKind (every-cycle, waste-spark, injector, none), syncAngle, firingAngles, limit. With job, a number of the shop, the capture is kept with that job and the answer becomes a test of its record; an Idempotency-Key is honoured then. What is not given is detected and reported under assumed. A capture that cannot be judged answers 422 with refused, code and says.")
        .WithMetadata(new RequestSizeLimitAttribute(CaptureDesk.LargestCapture + 1024 * 1024))
        .DisableAntiforgery()
        .Produces<RelativeReply>()
        .Produces<RelativeRefusal>(StatusCodes.Status422UnprocessableEntity)
        .ProducesProblem(StatusCodes.Status400BadRequest)
        .ProducesProblem(StatusCodes.Status401Unauthorized)
        .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
        .ProducesProblem(StatusCodes.Status415UnsupportedMediaType);

    private static async Task<IResult> AnswerAsync(HttpContext context, RelativeDesk desk, [FromHeader(Name = "Idempotency-Key")] string? idempotencyKey, CancellationToken cancel)
    {
        if (BoundaryOf(context.Request) is not { } boundary)
        {
            return NotMultipart();
        }
        // The fields may come after the capture, so it waits in a file that is gone with the request.
        await using var capture = Waiting();
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        if (idempotencyKey is { Length: 0 or > 200 })
        {
            return TypedResults.Problem("An Idempotency-Key has 1 to 200 characters.", statusCode: StatusCodes.Status400BadRequest);
        }
        try
        {
            var reader = new MultipartReader(boundary, context.Request.Body);
            while (await reader.ReadNextSectionAsync(cancel) is { } section)
            {
                if (!await ReceiveAsync(section, capture, fields, cancel))
                {
                    return TooLarge();
                }
            }
        }
        catch (Exception e) when (IsBroken(e, cancel))
        {
            return Broken(e);
        }
        return await desk.AnswerAsync(BearerToken.Who(context), capture, fields, idempotencyKey, cancel);
    }

    // Each line leaves as soon as its capture is judged; what goes wrong with one is said in its line, and the others go on.
    private static async Task BatchAsync(HttpContext context, RelativeDesk desk, IOptions<Microsoft.AspNetCore.Http.Json.JsonOptions> json, [FromHeader(Name = "Idempotency-Key")] string? idempotencyKey, CancellationToken cancel)
    {
        if ((BoundaryOf(context.Request) is null ? NotMultipart() : idempotencyKey is { Length: 0 or > 190 }
            ? TypedResults.Problem("An Idempotency-Key of a batch has 1 to 190 characters.", statusCode: StatusCodes.Status400BadRequest) : null) is { } wrong)
        {
            await wrong.ExecuteAsync(context);
            return;
        }
        context.Response.ContentType = "application/x-ndjson";
        async Task SayAsync(int number, string name, IResult result)
        {
            var line = new RelativeBatchLine(number, name, (result as IStatusCodeHttpResult)?.StatusCode ?? StatusCodes.Status200OK, (result as IValueHttpResult)?.Value);
            await context.Response.WriteAsync(JsonSerializer.Serialize(line, json.Value.SerializerOptions) + "\n", cancel);
            await context.Response.Body.FlushAsync(cancel);
        }
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        var count = 0;
        try
        {
            var reader = new MultipartReader(BoundaryOf(context.Request)!, context.Request.Body);
            while (await reader.ReadNextSectionAsync(cancel) is { } section)
            {
                await using var capture = Waiting();
                fields.Remove("capture");
                var fits = await ReceiveAsync(section, capture, fields, cancel);
                if (!fields.TryGetValue("capture", out var name))
                {
                    continue;
                }
                if (++count > MostInBatch)
                {
                    await SayAsync(count, name, TypedResults.Problem($"A batch has up to {MostInBatch} captures. Send this one and those after it again, in another batch.", statusCode: StatusCodes.Status413PayloadTooLarge));
                    return;
                }
                await SayAsync(count, name, fits ? await desk.AnswerAsync(BearerToken.Who(context), capture, fields, idempotencyKey is null ? null : $"{idempotencyKey}/{count}", cancel) : TooLarge());
                if (!fits)
                {
                    return;
                }
            }
            if (count == 0)
            {
                await SayAsync(0, "", TypedResults.Problem("Send the file of each capture as a part capture, its fields before it.", statusCode: StatusCodes.Status400BadRequest));
            }
        }
        catch (Exception e) when (IsBroken(e, cancel))
        {
            await SayAsync(count + 1, "", Broken(e));
        }
    }

    private static string? BoundaryOf(HttpRequest request) =>
        MediaTypeHeaderValue.TryParse(request.ContentType, out var type) && type.MediaType.Equals("multipart/form-data", StringComparison.OrdinalIgnoreCase)
            && HeaderUtilities.RemoveQuotes(type.Boundary).Value is { Length: > 0 } boundary ? boundary : null;

    private static ProblemHttpResult NotMultipart() => TypedResults.Problem("Send the capture and its fields as multipart/form-data.", statusCode: StatusCodes.Status415UnsupportedMediaType);

    private static FileStream Waiting() =>
        new(Path.Combine(Path.GetTempPath(), Path.GetRandomFileName()), FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16, FileOptions.DeleteOnClose | FileOptions.Asynchronous);

    private static bool IsBroken(Exception e, CancellationToken cancel) => e is InvalidDataException or BadHttpRequestException or IOException && !cancel.IsCancellationRequested;

    private static ProblemHttpResult Broken(Exception e) => e is BadHttpRequestException { StatusCode: StatusCodes.Status413PayloadTooLarge } ? TooLarge()
        : TypedResults.Problem("The multipart body cannot be read: a boundary or the end is missing.", statusCode: StatusCodes.Status400BadRequest);

    // A part: a field, or the capture. False for a capture that is too large.
    private static async Task<bool> ReceiveAsync(MultipartSection section, FileStream capture, Dictionary<string, string> fields, CancellationToken cancel)
    {
        if (!ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var disposition) || HeaderUtilities.RemoveQuotes(disposition.Name).Value is not { Length: > 0 } name)
        {
            return true;
        }
        if (name == "capture")
        {
            fields["capture"] = HeaderUtilities.RemoveQuotes(disposition.FileName).Value ?? "capture";
            var buffer = new byte[1 << 16];
            int read;
            while ((read = await section.Body.ReadAsync(buffer, cancel)) > 0)
            {
                if (capture.Length + read > CaptureDesk.LargestCapture)
                {
                    return false;
                }
                await capture.WriteAsync(buffer.AsMemory(0, read), cancel);
            }
            return true;
        }
        using var text = new StreamReader(section.Body);
        var typed = new char[LongestField];
        fields[name] = new string(typed, 0, await text.ReadBlockAsync(typed, cancel)).Trim();
        return true;
    }

    private static async Task<IResult> CaptureAsync(int id, long capture, HttpContext context, CaptureStore captures, CancellationToken cancel) =>
        await captures.OpenAsync(BearerToken.Who(context), id, capture, cancel) is { } found
            ? TypedResults.Stream(found.Bytes, "application/octet-stream", found.Name)
            : TypedResults.Problem($"Job {id} has no capture {capture}.", statusCode: StatusCodes.Status404NotFound);

    private static ProblemHttpResult TooLarge() => TypedResults.Problem(CaptureDesk.TooLarge, statusCode: StatusCodes.Status413PayloadTooLarge);
}

/// <summary>The fields of a request, as they were sent and as they are understood.</summary>
/// <param name="sent">As they were sent.</param>
internal sealed class RelativeFields(IReadOnlyDictionary<string, string> sent)
{
    /// <summary>The job it is kept with; absent for nowhere.</summary>
    public int? Job { get; private set; }

    /// <summary>What is wrong with them.</summary>
    public List<FieldProblem> Problems { get; } = [];

    /// <summary>The layout of the file and the question, with everything that was not sent detected or taken as usual.</summary>
    public (CaptureLayout? Layout, CaptureQuestion? Question) Read(CaptureInspection found)
    {
        Job = Whole("job", 1, int.MaxValue);
        var cylinders = Whole("cylinders", CaptureQuestion.FewestCylinders, CaptureQuestion.MostCylinders);
        var order = Given("firingOrder") ? CylinderList.Read(sent["firingOrder"]) : null;
        if (cylinders is null && !Given("cylinders"))
        {
            Problems.Add(new FieldProblem("/cylinders", "Give the number of cylinders, 2 to 16."));
        }
        if (order is null || order.Count == 0)
        {
            Problems.Add(new FieldProblem("/firingOrder", "Give the firing order as in 1-3-4-2."));
        }
        else if (cylinders is { } n && order.Count != n)
        {
            Problems.Add(new FieldProblem("/firingOrder", $"The firing order names {order.Count} cylinders, the engine has {n}."));
        }
        var layout = found.Layout;
        if (Column("currentColumn") is { } current)
        {
            layout = layout with { CurrentColumn = current };
        }
        if (Column("timeColumn") is { } time)
        {
            layout = layout with { TimeColumn = time };
        }
        if (Column("batteryColumn") is { } battery)
        {
            layout = layout with { BatteryColumn = battery };
        }
        var sync = Column("syncColumn");
        var kind = Word("syncKind", SyncKind.EveryCycle);
        layout = layout with { SyncColumn = kind == SyncKind.None ? null : sync ?? layout.SyncColumn };
        if (Number("sampleRateHz", 1, 1e9) is { } rate)
        {
            layout = layout with { IntervalS = 1 / rate };
        }
        var unit = found.Columns.FirstOrDefault(c => c.Index == layout.CurrentColumn)?.Unit;
        if (Number("ampsPerVolt", 1e-3, 1e7) is { } scale)
        {
            // A column that is in amperes already needs no clamp.
            layout = unit is "A" or "mA" ? layout : layout with { AmpsPerUnit = unit == "mV" ? scale / 1000 : scale, ScaleKnown = true };
        }
        IReadOnlyList<double>? angles = null;
        if (Given("firingAngles"))
        {
            angles = [.. sent["firingAngles"].Split([',', ';', ' ', '-'], StringSplitOptions.RemoveEmptyEntries).Select(a => double.TryParse(a, NumberStyles.Float, CultureInfo.InvariantCulture, out var angle) ? angle : double.NaN)];
        }
        var question = new CaptureQuestion
        {
            FiringOrder = order ?? [], FiringAngles = angles, Fuel = Given("fuel") ? Word("fuel", Fuel.Petrol) : null, CompressionRatio = Number("compressionRatio", 2, 40),
            Sync = kind == SyncKind.None || layout.SyncColumn is null ? SyncKind.None : kind, SyncAssumed = !Given("syncKind"), SyncCylinder = Whole("syncCylinder", 1, CaptureQuestion.MostCylinders) ?? (order is { Count: > 0 } && !order.Contains(1) ? order[0] : 1),
            SyncAngleDeg = Number("syncAngle", -720, 720) ?? CaptureQuestion.UsualSyncAngle, ScaleKnown = layout.ScaleKnown, LimitPercent = Number("limit", 50, 99) ?? CaptureQuestion.UsualLimitPercent,
        };
        return Problems.Count > 0 ? (null, null) : (layout, question);
    }

    /// <summary>What was detected or taken as usual because it was not sent.</summary>
    public IReadOnlyDictionary<string, object> Assumed(CaptureLayout layout, CaptureQuestion question, RelativeAnswer answer)
    {
        var assumed = new Dictionary<string, object>();
        void Add(string name, object? value)
        {
            if (!Given(name) && value is not null)
            {
                assumed[name] = value;
            }
        }
        Add("currentColumn", layout.CurrentColumn);
        Add("timeColumn", layout.TimeColumn);
        Add("syncColumn", layout.SyncColumn);
        Add("batteryColumn", layout.BatteryColumn);
        Add("ampsPerVolt", layout.ScaleKnown ? null : layout.AmpsPerUnit);
        Add("fuel", question.Fuel is null ? RecordWords.Of(Fuel.Petrol) : null);
        Add("compressionRatio", question.Ratio);
        Add("syncKind", RecordWords.Of(answer.Sync));
        Add("syncCylinder", answer.Synchronised ? question.SyncCylinder : null);
        Add("syncAngle", answer.Synchronised ? question.SyncAngleDeg : null);
        Add("limit", question.LimitPercent);
        return assumed;
    }

    private bool Given(string name) => sent.TryGetValue(name, out var value) && value.Length > 0;

    private double? Number(string name, double least, double most)
    {
        if (!Given(name))
        {
            return null;
        }
        if (double.TryParse(sent[name], NumberStyles.Float, CultureInfo.InvariantCulture, out var value) && value >= least && value <= most)
        {
            return value;
        }
        Problems.Add(new FieldProblem("/" + name, string.Create(CultureInfo.InvariantCulture, $"Give a number from {least:0.###} to {most:0}, with a point.")));
        return null;
    }

    private int? Whole(string name, int least, int most)
    {
        var value = Number(name, least, most);
        if (value is { } v && v != Math.Floor(v))
        {
            Problems.Add(new FieldProblem("/" + name, "Give a whole number."));
            return null;
        }
        return (int?)value;
    }

    private int? Column(string name) => Whole(name, 0, CaptureLayout.MostColumns - 1);

    private T Word<T>(string name, T otherwise)
        where T : struct, Enum
    {
        if (!Given(name))
        {
            return otherwise;
        }
        if (RecordWords.TryParse<T>(sent[name], out var member))
        {
            return member;
        }
        Problems.Add(new FieldProblem("/" + name, $"Use one of: {string.Join(", ", Enum.GetValues<T>().Select(RecordWords.Of))}."));
        return otherwise;
    }
}

/// <summary>The answer to a capture; absent fields are not known, never 0.</summary>
/// <param name="SampleRateHz">Samples a second, as found.</param>
/// <param name="DurationS">Length of the capture, s.</param>
/// <param name="CrankingRpm">Mean crank speed of the settled part, rpm.</param>
/// <param name="Cycles">Whole settled cycles used, 2 or more.</param>
/// <param name="Synchronised">True when the slots are cylinders.</param>
/// <param name="Cylinders">Each slot of the firing order.</param>
/// <param name="InrushAmps">Peak as the starter was engaged, A; absent when not seen, clipped, or without scale.</param>
/// <param name="MeanAmps">Mean settled current, A; absent without the clamp's zero or scale.</param>
/// <param name="Confidence">high or low; with low nothing is called low or dead.</param>
/// <param name="Assumed">What was detected or taken as usual because it was not sent.</param>
/// <param name="Warnings">Remarks about the file and the capture.</param>
public sealed record RelativeReply(
    double SampleRateHz, double DurationS, double CrankingRpm, int Cycles, bool Synchronised, IReadOnlyList<RelativeReplyCylinder> Cylinders,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] double? InrushAmps, [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] double? MeanAmps, string Confidence,
    IReadOnlyDictionary<string, object> Assumed, IReadOnlyList<RelativeReplyWarning> Warnings)
{
    /// <summary>Where it is kept; absent without a job.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public RelativeStored? Stored { get; init; }

    internal static RelativeReply Of(RelativeAnswer answer, IReadOnlyDictionary<string, object> assumed) => new(
        Math.Round(answer.SampleRateHz, 3), Math.Round(answer.DurationS, 4), Math.Round(answer.CrankingRpm, 1), answer.Cycles, answer.Synchronised,
        [.. answer.Slots.Select(s => new RelativeReplyCylinder(s.Cylinder, s.Slot, Math.Round(s.RelativePercent, 1), Math.Round(s.StandardErrorPercent, 1), RecordWords.Of(s.Verdict)))],
        Round(answer.InrushAmps), Round(answer.MeanAmps), RecordWords.Of(answer.Confidence), assumed,
        [.. answer.Warnings.Select(w => new RelativeReplyWarning(RecordWords.Of(w.Code), w.Says))]);

    private static double? Round(double? amps) => amps is { } a ? Math.Round(a, 1) : null;
}

/// <summary>One cylinder or slot of an answer.</summary>
/// <param name="Cylinder">The cylinder; absent without usable sync.</param>
/// <param name="Slot">Its place along the firing order, from 1.</param>
/// <param name="RelativePercent">Peak gauge pressure against the best cylinder, percent.</param>
/// <param name="StandardErrorPercent">Standard error, percent points.</param>
/// <param name="Verdict">even, borderline, low or dead.</param>
public sealed record RelativeReplyCylinder([property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] int? Cylinder, int Slot, double RelativePercent, double StandardErrorPercent, string Verdict);

/// <summary>Where an answer is kept.</summary>
/// <param name="Job">The job.</param>
/// <param name="Test">Row of the test.</param>
/// <param name="Record">Address of the job's record.</param>
/// <param name="Capture">Address of the capture.</param>
public sealed record RelativeStored(int Job, long Test, string Record, string Capture);

/// <summary>A line of the answer to a batch.</summary>
/// <param name="Number">The capture, from 1 in the order they were sent.</param>
/// <param name="Capture">The name of its file.</param>
/// <param name="Status">The status it would have got alone.</param>
/// <param name="Answer">What it would have got: an answer, a refusal, or a problem.</param>
public sealed record RelativeBatchLine(int Number, string Capture, int Status, object? Answer);

/// <summary>A warning.</summary>
/// <param name="Code">Its word.</param>
/// <param name="Says">In plain words.</param>
public sealed record RelativeReplyWarning(string Code, string Says);

/// <summary>A capture that cannot be judged.</summary>
/// <param name="Refused">Always true.</param>
/// <param name="Code">The reason's word.</param>
/// <param name="Says">The reason, and what to do in the next capture.</param>
public sealed record RelativeRefusal(bool Refused, string Code, string Says);
