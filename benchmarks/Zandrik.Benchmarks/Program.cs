using System.Globalization;
using BenchmarkDotNet.Running;
using Zandrik.Benchmarks;

// "relative COUNT SEED" and "captures FILE" and "capture-readers FILE" measure relative compression; "diagnosis" what a diagnosis costs and "diagnosis-accuracy ENGINES SEED PAGE" how often it is right, "decisions-accuracy ENGINES SEED PAGE" what an engine costs until it is, "lives-accuracy LIVES SEED PAGE" how often forecasts hold, "engine-life ADDRESS CONNECTION JOBS" what histories, fleet and archive cost; "practice ADDRESS PORT" what the practice bench and the instruments cost; "engine-model" how fast engines are simulated; "steps ADDRESS", "trace-drawing ADDRESS PACKAGE", "diagnosis-api ADDRESS", "pages ADDRESS", "load ADDRESS PAGE SECONDS", "upload ADDRESS PID FILE", "offline-start ADDRESS PID START", "post ADDRESS CONNECTION JOBS" and "many ADDRESS CONNECTION JOBS", "crowd ADDRESS CONNECTION" and "backup ADDRESS CONNECTION JOBS BACKUP RESTORE FOLDER" measure a running server; anything else goes to BenchmarkDotNet.
if (args is ["many", var address, var connection, var many])
{
    await ManyJobsBenchmark.RunAsync(new Uri(address), connection, int.Parse(many, CultureInfo.InvariantCulture));
    return 0;
}
if (args is ["crowd", var crowded, var kept])
{
    await ManyJobsBenchmark.CrowdAsync(new Uri(crowded), kept);
    return 0;
}
if (args is ["backup", var saved, var from, var stored, var backup, var restore, var folder])
{
    await BackupBenchmark.RunAsync(new Uri(saved), from, int.Parse(stored, CultureInfo.InvariantCulture), backup, restore, folder);
    return 0;
}
if (args is ["post", var server, var database, var jobs])
{
    await PostBenchmark.RunAsync(new Uri(server), database, int.Parse(jobs, CultureInfo.InvariantCulture));
    return 0;
}
if (args is ["steps", var running])
{
    await StepsBenchmark.RunAsync(new Uri(running));
    return 0;
}
if (args is ["trace-drawing", var drawn, var package])
{
    TraceDrawingBenchmark.Run(new Uri(drawn), package);
    return 0;
}
if (args is ["diagnosis-api", var asked])
{
    await DiagnosisApiBenchmark.RunAsync(new Uri(asked));
    return 0;
}
if (args is ["pages", var paged])
{
    await PagesBenchmark.RunAsync(new Uri(paged));
    return 0;
}
if (args is ["load", var loaded, var one, var seconds])
{
    await PagesBenchmark.LoadAsync(new Uri(loaded), one, int.Parse(seconds, CultureInfo.InvariantCulture));
    return 0;
}
if (args is ["upload", var uploadTo, var pid, var upload])
{
    UploadBenchmark.Run(new Uri(uploadTo), int.Parse(pid, CultureInfo.InvariantCulture), upload);
    return 0;
}
if (args is ["offline-start", var offline, var ended, var begun])
{
    OfflineStartBenchmark.Run(new Uri(offline), int.Parse(ended, CultureInfo.InvariantCulture), int.Parse(begun, CultureInfo.InvariantCulture));
    return 0;
}
if (args is ["decisions-accuracy", var decided, var decidedFrom, var decisionsPage])
{
    Zandrik.Benchmarks.Accuracy.DecisionStudy.Run(int.Parse(decided, CultureInfo.InvariantCulture), int.Parse(decidedFrom, CultureInfo.InvariantCulture), decisionsPage);
    return 0;
}
if (args is ["engine-life", var lived, var livedIn, var livedJobs])
{
    await LifeBenchmark.RunAsync(new Uri(lived), livedIn, int.Parse(livedJobs, CultureInfo.InvariantCulture));
    return 0;
}
if (args is ["practice", var bench, var benchPort])
{
    await PracticeBenchmark.RunAsync(new Uri(bench), int.Parse(benchPort, CultureInfo.InvariantCulture));
    return 0;
}
if (args is ["lives-accuracy", var lives, var livesSeed, var livesPage])
{
    Zandrik.Benchmarks.Accuracy.LifeStudy.Run(int.Parse(lives, CultureInfo.InvariantCulture), int.Parse(livesSeed, CultureInfo.InvariantCulture), livesPage);
    return 0;
}
if (args is ["engine-model"])
{
    EngineModelBenchmark.Run();
    return 0;
}
if (args is ["calibrate", var simulated, var seedOf, var work, var table])
{
    return CalibrateCommand.Run(int.Parse(simulated, CultureInfo.InvariantCulture), int.Parse(seedOf, CultureInfo.InvariantCulture), work, table, DateOnly.FromDateTime(DateTime.UtcNow));
}
if (args is ["likelihood-page", var likelihoods])
{
    File.WriteAllText(likelihoods, Zandrik.Core.Diagnosis.LikelihoodDocument.Make());
    return 0;
}
if (args is ["diagnosis"])
{
    DiagnosisBenchmark.Run();
    return 0;
}
if (args is ["diagnosis-accuracy", var sampled, var firstSeed, var page])
{
    Zandrik.Benchmarks.Accuracy.DiagnosisStudy.Run(int.Parse(sampled, CultureInfo.InvariantCulture), int.Parse(firstSeed, CultureInfo.InvariantCulture), page);
    return 0;
}
if (args is ["diagnosis-worlds", var turned, var worldSeed, var library, var worldsPage])
{
    Zandrik.Benchmarks.Accuracy.WorldStudy.Run(int.Parse(turned, CultureInfo.InvariantCulture), int.Parse(worldSeed, CultureInfo.InvariantCulture), library, worldsPage);
    return 0;
}
if (args is ["air-paths", var fitted, var fittedSeed])
{
    Zandrik.Benchmarks.Accuracy.AirStudy.Cost();
    Zandrik.Benchmarks.Accuracy.AirStudy.Run(int.Parse(fitted, CultureInfo.InvariantCulture), int.Parse(fittedSeed, CultureInfo.InvariantCulture));
    return 0;
}
if (args is ["capture-file", var path, var rows])
{
    CaptureBenchmark.Write(path, int.Parse(rows, CultureInfo.InvariantCulture));
    return 0;
}
if (args is ["capture-readers", var both])
{
    await CsvReaderBenchmark.RunAsync(both);
    return 0;
}
if (args is ["captures", var made])
{
    await CaptureBenchmark.RunAsync(made);
    return 0;
}
if (args is ["relative", var captures, var seed, ..])
{
    RelativeAccuracyStudy.Run(int.Parse(captures, CultureInfo.InvariantCulture), int.Parse(seed, CultureInfo.InvariantCulture), args.Contains("each"), args.Contains("other"));
    return 0;
}
BenchmarkSwitcher.FromAssembly(typeof(DryJudgementBenchmark).Assembly).Run(args);
return 0;
