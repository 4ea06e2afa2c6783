using System.Globalization;
using Zandrik.Core.Units;

namespace Zandrik.Core.Records;

/// <summary>What makes an engine sheet consistent. The form and the open record are held to the same rules.</summary>
public static class EngineRules
{
    /// <summary>Most cylinders an engine may have.</summary>
    public const int MostCylinders = 16;

    /// <summary>Checks a sheet.</summary>
    /// <param name="engine">The sheet; its cylinder count is from 1 to 16, or that is the only problem.</param>
    /// <returns>Problems with pointers from the sheet's own root, as in <c>/firingOrder</c>.</returns>
    public static IReadOnlyList<FieldProblem> Check(EngineSheet engine)
    {
        if (engine.Cylinders is < 1 or > MostCylinders)
        {
            return [new FieldProblem("/cylinders", "Give the number of cylinders, 1 to 16.")];
        }
        var problems = new List<FieldProblem>();
        CheckBanks(engine, problems);
        CheckFiring(engine, problems);
        CheckBranches(engine, problems);
        CheckSpec(engine, problems);
        return problems;
    }

    /// <summary>Whether two sheets may be of one engine: as many cylinders, and no two different names.</summary>
    /// <param name="one">A sheet.</param>
    /// <param name="other">Another.</param>
    /// <returns>True also where a name is missing.</returns>
    public static bool MayBeOne(EngineSheet one, EngineSheet other) =>
        one.Cylinders == other.Cylinders && (one.Name is null || other.Name is null || one.Name == other.Name);

    /// <summary>Whether a job can be of an engine that is known without a serial number: as many cylinders, and it burns the same (absent: petrol).</summary>
    /// <param name="known">What was last said of the engine.</param>
    /// <param name="job">What the job says.</param>
    /// <returns>True also where nothing but the number of cylinders is known.</returns>
    public static bool CanBeOf(EngineSheet known, EngineSheet job) =>
        known.Cylinders == job.Cylinders && (known.Fuel ?? Fuel.Petrol) == (job.Fuel ?? Fuel.Petrol);

    private static void CheckBanks(EngineSheet engine, List<FieldProblem> problems)
    {
        if (engine.Banks is not { } banks)
        {
            return;
        }
        var places = Once(banks.SelectMany(b => b), engine.Cylinders);
        if (places is not null)
        {
            problems.Add(new FieldProblem("/banks", $"Put each of the {engine.Cylinders} cylinders into one bank: {places}."));
        }
        else if (banks.Any(b => b.Count == 0))
        {
            problems.Add(new FieldProblem("/banks", "A bank is empty: remove it."));
        }
        else if (engine.Layout is { } layout && engine.Cylinders > 1)
        {
            var wanted = layout switch
            {
                CylinderArrangement.Inline when banks.Count != 1 => "An inline engine has one bank: list all cylinders in a row.",
                CylinderArrangement.V or CylinderArrangement.Flat when banks.Count != 2 =>
                    "A V or flat engine has two banks: separate them with a slash, as in 1 3 5 / 2 4 6.",
                CylinderArrangement.W when banks.Count is < 2 or > 4 => "A W engine has two to four banks: separate them with slashes.",
                _ => null,
            };
            if (wanted is not null)
            {
                problems.Add(new FieldProblem("/banks", wanted));
            }
        }
    }

    private static void CheckFiring(EngineSheet engine, List<FieldProblem> problems)
    {
        if (engine.FiringOrder is { } order && Once(order, engine.Cylinders) is { } wrong)
        {
            problems.Add(new FieldProblem("/firingOrder", $"Name each of the {engine.Cylinders} cylinders once: {wrong}."));
        }
        if (engine.FiringAngles is { } angles)
        {
            if (engine.FiringOrder is null)
            {
                problems.Add(new FieldProblem("/firingAngles", "Firing angles follow the firing order: give that too."));
            }
            else if (angles.Count != engine.Cylinders)
            {
                problems.Add(new FieldProblem("/firingAngles", $"Give {engine.Cylinders} angles, one for each cylinder of the firing order."));
            }
            else if (angles[0] != 0 || angles.Zip(angles.Skip(1)).Any(p => p.Second < p.First) || angles[^1] >= 720)
            {
                problems.Add(new FieldProblem("/firingAngles", "Angles start at 0, rise, and stay under 720."));
            }
        }
    }

    private static void CheckBranches(EngineSheet engine, List<FieldProblem> problems)
    {
        var named = (engine.IntakeBranches ?? []).SelectMany(b => b).ToList();
        if (named.Any(c => c < 1 || c > engine.Cylinders) || named.Distinct().Count() != named.Count)
        {
            problems.Add(new FieldProblem("/intakeBranches", $"Name cylinders 1 to {engine.Cylinders}, each in one branch only."));
        }
    }

    private static void CheckSpec(EngineSheet engine, List<FieldProblem> problems)
    {
        if (engine.Spec is not { } spec)
        {
            return;
        }
        var unit = spec.Unit ?? PressureUnit.Psi;
        foreach (var (field, value) in new[] { ("nominal", spec.Nominal), ("minimum", spec.Minimum), ("maxDifference", spec.MaxDifference) })
        {
            if (value is { } v && (!PressureEntry.IsPossible(v, unit) || v == 0))
            {
                problems.Add(new FieldProblem($"/spec/{field}", $"Give a pressure above 0 and up to 100 bar, in {unit.Symbol()}, or leave it empty."));
            }
        }
        if (spec is { Nominal: { } nominal, Minimum: { } minimum } && minimum > nominal)
        {
            problems.Add(new FieldProblem("/spec/minimum", string.Create(CultureInfo.InvariantCulture,
                $"The minimum ({minimum}) is above the nominal ({nominal}): check both with the maker's figures.")));
        }
        if (spec is { Nominal: { } sound, MaxDifference: { } difference } && difference > sound)
        {
            problems.Add(new FieldProblem("/spec/maxDifference", string.Create(CultureInfo.InvariantCulture,
                $"The difference ({difference}) is larger than the nominal ({sound}): check both with the maker's figures.")));
        }
    }

    /// <summary>What keeps a list from naming each cylinder of an engine once, with what to do; absent when nothing does.</summary>
    /// <returns>One sentence; null for a list that names each cylinder once.</returns>
    public static string? OnceEach(IReadOnlyList<int> numbers, int cylinders) =>
        Once(numbers, cylinders) is { } wrong ? $"Name each of the {cylinders} cylinders once: {wrong}." : null;

    // What keeps a list from naming 1..cylinders once each, in words; null when nothing does.
    internal static string? Once(IEnumerable<int> numbers, int cylinders)
    {
        var seen = new int[cylinders + 1];
        var strange = new List<int>();
        foreach (var number in numbers)
        {
            if (number < 1 || number > cylinders)
            {
                strange.Add(number);
            }
            else
            {
                seen[number]++;
            }
        }
        var all = Enumerable.Range(1, cylinders).ToList();
        var parts = new List<string>();
        Say(all.Where(c => seen[c] == 0), "missing");
        Say(all.Where(c => seen[c] > 1), "more than once");
        Say(strange, "not on this engine");
        return parts.Count == 0 ? null : string.Join("; ", parts);

        void Say(IEnumerable<int> which, string what)
        {
            var list = string.Join(", ", which);
            if (list.Length > 0)
            {
                parts.Add($"{list} {(what == "missing" ? (list.Contains(',', StringComparison.Ordinal) ? "are" : "is") + " missing" : what)}");
            }
        }
    }
}
