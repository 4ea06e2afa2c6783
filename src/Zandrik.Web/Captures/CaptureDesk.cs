using System.Diagnostics;
using Zandrik.Core.RelativeCompression;
using Zandrik.Storage;

namespace Zandrik.Web.Captures;

/// <summary>Reads and judges captures, a few at once: an analysis keeps a core busy, and more of them at once only makes all of them late.</summary>
public sealed class CaptureDesk : IDisposable
{
    /// <summary>Largest capture taken, bytes.</summary>
    public const long LargestCapture = 256L * 1024 * 1024;

    /// <summary>What is said of one that is larger.</summary>
    public const string TooLarge = "A capture may have up to 256 MiB. Cut it to the seconds of cranking, or gzip it.";

    private readonly SemaphoreSlim turns = new(Environment.ProcessorCount);

    /// <summary>Reads a capture and judges it.</summary>
    /// <param name="raw">Its bytes from the beginning; not closed.</param>
    /// <param name="shape">The shape of its file.</param>
    /// <param name="layout">How it is read.</param>
    /// <param name="question">What is asked; without <see cref="CaptureQuestion.Problem"/>.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>The answer with the remarks about the file among its warnings; a file that cannot be read is a refusal too.</returns>
    public async Task<JudgedCapture> JudgeAsync(Stream raw, string shape, CaptureLayout layout, CaptureQuestion question, CancellationToken cancel)
    {
        await turns.WaitAsync(cancel);
        var began = Stopwatch.GetTimestamp();
        try
        {
            var reading = await CaptureFile.ReadAsync(raw, layout, null, cancel);
            if (reading.Trace is not { } trace)
            {
                return new JudgedCapture(shape, layout, question, new RelativeAnswer { Refused = reading.Problem }, null);
            }
            var answer = RelativeAnalysis.Of(trace, question);
            return new JudgedCapture(shape, layout, question, answer with { Warnings = [.. reading.Remarks, .. answer.Warnings] }, CapturePicture.Of(trace, answer).Pack());
        }
        finally
        {
            Measures.Capture.Record(Stopwatch.GetElapsedTime(began).TotalSeconds);
            turns.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose() => turns.Dispose();
}
