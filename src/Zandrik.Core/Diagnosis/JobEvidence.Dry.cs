using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Readings;

namespace Zandrik.Core.Diagnosis;

// What the dry test says of each cylinder: its readings, and slips of the gauge or of the cranking.
public sealed partial class JobEvidence
{
    private void ReadDry(List<ValidityNote> notes)
    {
        var rules = JudgingRules.For(Engine, Record.JudgeBy);
        ExpectedLn = Math.Log(ExpectedLevel.Pa(rules) / Psi);
        ExpectedSpread = rules switch { { NominalPa: not null } => 0.05, { MinimumPa: not null } => 0.08, { CompressionRatio: not null } => 0.12, _ => Diesel ? 0.16 : 0.14 };
        if (judged.DryTest is not { } test)
        {
            return;
        }
        Dry = judged.Of(test);
        notes.AddRange(Dry.Validity);
        var readings = DryReading.Of(test, Engine).ToDictionary(r => r.Cylinder);
        ValidityNote? Note(ValidityCode code) => Dry.Validity.FirstOrDefault(v => v.Code == code && v.Severity != Severity.Note);
        var odd = Note(ValidityCode.DoesNotRepeat)?.Cylinders ?? [];
        // Where nobody counted, the time says how many there were.
        var timed = readings.Values.All(r => r.Pulses is null);
        int? Given(DryReading r) => !timed ? r.Pulses : r.Seconds is { } s and > 0 ? CountedCompressions.AtLeastIn(s) : null;
        var most = readings.Values.Max(Given);
        foreach (var c in Cylinders)
        {
            var finding = Dry.Cylinders[c.Cylinder - 1];
            if (finding is { State: CylinderState.Untested } or { InQuestion: true } || !readings.TryGetValue(c.Cylinder, out var reading))
            {
                continue;
            }
            c.LnDry = Math.Log(Math.Max(1, (finding.ComparedPa ?? finding.LevelPa)!.Value / Psi));
            c.DrySpread = reading.Repeats.Count > 0 && !odd.Contains(c.Cylinder) ? LikelihoodTable.DrySpreadRepeated : LikelihoodTable.DrySpread;
            if (Note(ValidityCode.BatteryWeak) is not null)
            {
                c.DrySpread = Math.Sqrt(c.DrySpread * c.DrySpread + 0.02 * 0.02);
            }
            if (Note(ValidityCode.MixedTesters) is not null)
            {
                c.DrySpread += 0.05;
            }
            if (Note(ValidityCode.FallsWithOrder) is not null && Dry.Fall is { } fall)
            {
                c.DrySpread += 0.2 * fall.Fraction;
            }
            // No compression at all is a count nobody took.
            if (most is { } all && Given(reading) is { } pulses and > 0 && pulses < all)
            {
                var missed = CountedCompressions.MissedLn(all, pulses);
                c.DrySpread += 0.6 * missed + 0.005;
                c.TestErrorFactor *= missed > 0.02 ? 4 : 1;
            }
            if (odd.Contains(c.Cylinder))
            {
                var values = reading.Repeats.Append(reading.Value).Select(r => r.Pascals).ToList();
                c.DrySpread += (values.Max() - values.Min()) / values.Max() / 2;
                c.TestErrorFactor *= 8;
            }
            else if (reading.Repeats.Count > 0)
            {
                // Readings that agree count with their mean, and each makes a slip ten times less likely; a hose that leaks every time stays possible.
                var mean = reading.Repeats.Append(reading.Value).Average(r => r.Pascals);
                c.LnDry += reading.Value.Pascals > 0 && mean > 0 ? Math.Log(mean / reading.Value.Pascals) : 0;
                c.DryReadings = 1 + reading.Repeats.Count;
                c.TestErrorFactor *= Math.Pow(0.1, Math.Min(2, reading.Repeats.Count));
            }
        }
        // A cylinder that pumps as well as the others, and jumps further at the first compression, does not empty as they do. Leaks do that too: they lower the reading.
        var firsts = readings.Values.Where(r => r.FirstPa is > 0 && r.PressurePa > 0).ToDictionary(r => r.Cylinder, r => r.FirstPa!.Value / r.PressurePa);
        if (firsts.Count >= 3)
        {
            var usual = Median(firsts.Values);
            foreach (var c in Cylinders)
            {
                c.JumpsAtFirst = firsts.TryGetValue(c.Cylinder, out var first) && first > 1.10 * usual && c.LnDry is { } ln && ReferenceLn is { } level && ln > level - 0.06;
            }
        }
        ReadSlips(timed ? null : most);
    }

    private void ReadSlips(int? mostPulses)
    {
        double shift = 0, variance = 0;
        var any = false;
        void Slipped(double mu, double s) => (shift, variance, any) = (shift + mu, variance + s * s, true);
        foreach (var code in Dry!.Validity.Where(v => v.Severity != Severity.Note).Select(v => v.Code).Distinct())
        {
            switch (code)
            {
                case ValidityCode.ThrottleClosed:
                    Slipped(-0.09, 0.04);
                    break;
                case ValidityCode.ThrottleUnverified:
                    Slipped(-0.06, 0.05);
                    break;
                case ValidityCode.CheckValveInHead:
                    Slipped(-0.18, 0.05);
                    break;
                case ValidityCode.BatteryWeak:
                    Slipped(-0.06, 0.05);
                    break;
                case ValidityCode.GaugeNotZero:
                    Slipped(0, 0.06);
                    break;
                case ValidityCode.PulsesFew:
                    Slipped(mostPulses <= 2 ? -0.12 : -0.05, 0.05);
                    break;
                case ValidityCode.FallsWithOrder:
                    Slipped(0, 0.05);
                    break;
            }
        }
        Slip = any ? (shift, Math.Sqrt(variance)) : null;
        FuelOn = Dry.Validity.Any(v => v.Code == ValidityCode.FuelOn);
        var cold = Dry.Validity.Any(v => v.Code == ValidityCode.EngineCold);
        var plugs = Dry.Validity.Any(v => v.Code == ValidityCode.PlugsOneAtATime);
        Everywhere = ((cold ? -0.075 : 0) + (plugs ? -0.03 : 0), Math.Sqrt((cold ? 0.035 * 0.035 : 0) + (plugs ? 0.03 * 0.03 : 0)));
    }
}
