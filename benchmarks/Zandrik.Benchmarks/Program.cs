using System.Globalization;
using BenchmarkDotNet.Running;
using Zandrik.Benchmarks;

// "post ADDRESS CONNECTION JOBS" measures a running server; anything else goes to BenchmarkDotNet.
if (args is ["post", var server, var database, var jobs])
{
    await PostBenchmark.RunAsync(new Uri(server), database, int.Parse(jobs, CultureInfo.InvariantCulture));
    return;
}
BenchmarkSwitcher.FromAssembly(typeof(DryJudgementBenchmark).Assembly).Run(args);
