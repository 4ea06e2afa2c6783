using System.Globalization;
using System.Text.Json.Serialization;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.WebUtilities;
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
    }

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

    private static async Task<IResult> AnswerAsync(
        HttpRequest request, CaptureStore captures, StepStore steps, CaptureDesk desk, TimeProvider clock, [FromHeader(Name = "Idempotency-Key")] string? idempotencyKey, CancellationToken cancel)
    {
        if (!MediaTypeHeaderValue.TryParse(request.ContentType, out var type) || !type.MediaType.Equals("multipart/form-data", StringComparison.OrdinalIgnoreCase)
            || HeaderUtilities.RemoveQuotes(type.Boundary).Value is not { Length: > 0 } boundary)
        {
            return TypedResults.Problem("Send the capture and its fields as multipart/form-data.", statusCode: StatusCodes.Status415UnsupportedMediaType);
        }
        // The fields may come after the capture, so it waits in a file that is gone with the request.
        await using var capture = new FileStream(Path.Combine(Path.GetTempPath(), Path.GetRandomFileName()), FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16, FileOptions.DeleteOnClose | FileOptions.Asynchronous);
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        if (idempotencyKey is { Length: 0 or > 200 })
        {
            return TypedResults.Problem("An Idempotency-Key has 1 to 200 characters.", statusCode: StatusCodes.Status400BadRequest);
        }
        try
        {
            if (await ReceiveAsync(new MultipartReader(boundary, request.Body), capture, fields, cancel) is { } refused)
            {
                return refused;
            }
        }
        catch (Exception e) when (e is InvalidDataException or BadHttpRequestException or IOException && !cancel.IsCancellationRequested)
        {
            return e is BadHttpRequestException { StatusCode: StatusCodes.Status413PayloadTooLarge } ? TooLarge()
                : TypedResults.Problem("The multipart body cannot be read: a boundary or the end is missing.", statusCode: StatusCodes.Status400BadRequest);
        }
        var typed = new RelativeFields(fields);
        typed.Problems.AddRange(fields.Where(f => !JsonGate.IsText(f.Key) || !JsonGate.IsText(f.Value)).Select(f => new FieldProblem("/" + (JsonGate.IsText(f.Key) ? f.Key : "?"), "This has characters that are no text.")));
        if (capture.Length == 0)
        {
            typed.Problems.Add(new FieldProblem("/capture", "Send the file of the capture as the part capture."));
        }
        capture.Position = 0;
        var found = await CaptureFile.InspectAsync(capture, cancel: cancel);
        var (layout, question) = typed.Read(found);
        if (typed.Problems.Count == 0 && question!.Problem() is { } wrong)
        {
            typed.Problems.Add(wrong);
        }
        if (typed.Problems.Count > 0)
        {
            return TypedResults.Problem(
                detail: $"{typed.Problems.Count} {(typed.Problems.Count == 1 ? "field needs" : "fields need")} correcting; each is named in errors.", title: "The capture cannot be analysed.", statusCode: StatusCodes.Status400BadRequest,
                extensions: new Dictionary<string, object?> { ["errors"] = typed.Problems.Select(p => new { pointer = p.Pointer, detail = p.Says }).ToArray() });
        }
        if (found.Problem is { } unreadable)
        {
            return Refused(unreadable);
        }
        if (typed.Job is { } of && await steps.StateAsync(BearerToken.Who(request.HttpContext), of, cancel) is { Safety.ForbidsWriting: { } closed })
        {
            return TypedResults.Problem(closed, title: "Not added.", statusCode: StatusCodes.Status409Conflict);
        }
        capture.Position = 0;
        var judged = await desk.JudgeAsync(capture, found.Shape, layout!, question!, cancel);
        if (judged.Answer.Refused is { } why)
        {
            return Refused(why);
        }
        var reply = RelativeReply.Of(judged.Answer, typed.Assumed(layout!, question!, judged.Answer));
        if (typed.Job is not { } job)
        {
            return TypedResults.Ok(reply);
        }
        capture.Position = 0;
        var (kept, another) = await captures.AddAsync(BearerToken.Who(request.HttpContext), job, fields.GetValueOrDefault("capture", "capture"), judged, capture, idempotencyKey, clock.GetUtcNow(), cancel);
        return another ? TypedResults.Problem("This Idempotency-Key was used before with another capture. Use a new key.", statusCode: StatusCodes.Status422UnprocessableEntity)
            : kept is null ? TypedResults.Problem($"This shop has no job {job}.", statusCode: StatusCodes.Status404NotFound)
            : TypedResults.Ok(reply with { Stored = new RelativeStored(job, kept.Test, $"/api/v1/jobs/{job}/record", $"/api/v1/jobs/{job}/captures/{kept.Capture}") });
    }

    private static async Task<IResult?> ReceiveAsync(MultipartReader reader, FileStream capture, Dictionary<string, string> fields, CancellationToken cancel)
    {
        while (await reader.ReadNextSectionAsync(cancel) is { } section)
        {
            if (!ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var disposition) || HeaderUtilities.RemoveQuotes(disposition.Name).Value is not { Length: > 0 } name)
            {
                continue;
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
                        return TooLarge();
                    }
                    await capture.WriteAsync(buffer.AsMemory(0, read), cancel);
                }
                continue;
            }
            using var text = new StreamReader(section.Body);
            var typed = new char[LongestField];
            fields[name] = new string(typed, 0, await text.ReadBlockAsync(typed, cancel)).Trim();
        }
        return null;
    }

    private static async Task<IResult> CaptureAsync(int id, long capture, HttpContext context, CaptureStore captures, CancellationToken cancel) =>
        await captures.OpenAsync(BearerToken.Who(context), id, capture, cancel) is { } found
            ? TypedResults.Stream(found.Bytes, "application/octet-stream", found.Name)
            : TypedResults.Problem($"Job {id} has no capture {capture}.", statusCode: StatusCodes.Status404NotFound);

    private static ProblemHttpResult TooLarge() => TypedResults.Problem(CaptureDesk.TooLarge, statusCode: StatusCodes.Status413PayloadTooLarge);

    private static JsonHttpResult<RelativeRefusal> Refused(CaptureRemark why) =>
        TypedResults.Json(new RelativeRefusal(true, RecordWords.Of(why.Code), why.Says), statusCode: StatusCodes.Status422UnprocessableEntity);
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

/// <summary>A warning.</summary>
/// <param name="Code">Its word.</param>
/// <param name="Says">In plain words.</param>
public sealed record RelativeReplyWarning(string Code, string Says);

/// <summary>A capture that cannot be judged.</summary>
/// <param name="Refused">Always true.</param>
/// <param name="Code">The reason's word.</param>
/// <param name="Says">The reason, and what to do in the next capture.</param>
public sealed record RelativeRefusal(bool Refused, string Code, string Says);
