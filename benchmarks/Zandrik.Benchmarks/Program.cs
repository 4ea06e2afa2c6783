using System.Globalization;
using BenchmarkDotNet.Running;
using Zandrik.Benchmarks;

// "relative COUNT SEED" and "captures FILE" and "capture-readers FILE" measure relative compression; "diagnosis" what a diagnosis costs and "diagnosis-accuracy ENGINES SEED PAGE" how often it is right; "engine-model" how fast engines are simulated; "steps ADDRESS", "trace-drawing ADDRESS PACKAGE", "diagnosis-api ADDRESS", "pages ADDRESS", "load ADDRESS PAGE SECONDS", "upload ADDRESS PID FILE", "post ADDRESS CONNECTION JOBS" and "many ADDRESS CONNECTION JOBS", "crowd ADDRESS CONNECTION" and "backup ADDRESS CONNECTION JOBS BACKUP RESTORE FOLDER" measure a running server; anything else goes to BenchmarkDotNet.
if (args is ["many", var address, var connection, var many])
{
    await ManyJobsBenchmark.RunAsync(new Uri(address), connection, int.Parse(many, CultureInfo.InvariantCulture));
    return;
}
if (args is ["crowd", var crowded, var kept])
{
    await ManyJobsBenchmark.CrowdAsync(new Uri(crowded), kept);
    return;
}
if (args is ["backup", var saved, var from, var stored, var backup, var restore, var folder])
{
    await BackupBenchmark.RunAsync(new Uri(saved), from, int.Parse(stored, CultureInfo.InvariantCulture), backup, restore, folder);
    return;
}
if (args is ["post", var server, var database, var jobs])
{
    await PostBenchmark.RunAsync(new Uri(server), database, int.Parse(jobs, CultureInfo.InvariantCulture));
    return;
}
if (args is ["steps", var running])
{
    await StepsBenchmark.RunAsync(new Uri(running));
    return;
}
if (args is ["trace-drawing", var drawn, var package])
{
    TraceDrawingBenchmark.Run(new Uri(drawn), package);
    return;
}
if (args is ["diagnosis-api", var asked])
{
    await DiagnosisApiBenchmark.RunAsync(new Uri(asked));
    return;
}
if (args is ["pages", var paged])
{
    await PagesBenchmark.RunAsync(new Uri(paged));
    return;
}
if (args is ["load", var loaded, var one, var seconds])
{
    await PagesBenchmark.LoadAsync(new Uri(loaded), one, int.Parse(seconds, CultureInfo.InvariantCulture));
    return;
}
if (args is ["upload", var uploadTo, var pid, var upload])
{
    UploadBenchmark.Run(new Uri(uploadTo), int.Parse(pid, CultureInfo.InvariantCulture), upload);
    return;
}
if (args is ["engine-model"])
{
    EngineModelBenchmark.Run();
    return;
}
if (args is ["diagnosis"])
{
    DiagnosisBenchmark.Run();
    return;
}
if (args is ["diagnosis-accuracy", var sampled, var firstSeed, var page])
{
    Zandrik.Benchmarks.Accuracy.DiagnosisStudy.Run(int.Parse(sampled, CultureInfo.InvariantCulture), int.Parse(firstSeed, CultureInfo.InvariantCulture), page);
    return;
}
if (args is ["capture-file", var path, var rows])
{
    CaptureBenchmark.Write(path, int.Parse(rows, CultureInfo.InvariantCulture));
    return;
}
if (args is ["capture-readers", var both])
{
    await CsvReaderBenchmark.RunAsync(both);
    return;
}
if (args is ["captures", var made])
{
    await CaptureBenchmark.RunAsync(made);
    return;
}
if (args is ["relative", var captures, var seed, ..])
{
    RelativeAccuracyStudy.Run(int.Parse(captures, CultureInfo.InvariantCulture), int.Parse(seed, CultureInfo.InvariantCulture), args.Contains("each"), args.Contains("other"));
    return;
}
BenchmarkSwitcher.FromAssembly(typeof(DryJudgementBenchmark).Assembly).Run(args);
