using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>One place where air was heard.</summary>
/// <param name="At">The place.</param>
/// <param name="Strength">How strongly; an order, not a share. Not said counts as clear.</param>
/// <param name="Cylinder">The cylinder whose plug hole it was; absent elsewhere.</param>
public readonly record struct AirPlace(ListeningPlace At, HeardStrength Strength, int? Cylinder)
{
    /// <summary>The place in words, as in "plug hole 2".</summary>
    public string Name => At switch
    {
        ListeningPlace.Intake => "intake",
        ListeningPlace.Exhaust => "exhaust",
        ListeningPlace.OilFiller => "oil filler",
        ListeningPlace.Coolant => "coolant",
        _ => Cylinder is { } c ? $"plug hole {c}" : "a plug hole",
    };
}

/// <summary>
/// What was listened to at one cylinder and what was heard there. Strength is an order: places are named from
/// loud to faint, and no share of the loss is worked out from them.
/// </summary>
public sealed record AirHeard
{
    /// <summary>Where air was heard, strongest first; places of one strength in the order of the section.</summary>
    public required IReadOnlyList<AirPlace> Places { get; init; }

    /// <summary>True when somebody listened at all.</summary>
    public required bool Listened { get; init; }

    /// <summary>True when every place was listened at.</summary>
    public required bool ListenedEverywhere { get; init; }

    /// <summary>True when every place was listened at and nothing was heard.</summary>
    public bool IsSilent => ListenedEverywhere && Places.Count == 0;

    /// <summary>
    /// The plug holes whose air came round through the intake manifold, not through a gasket: heard at the
    /// intake too, clear or strong, or at a hole that is no neighbour.
    /// </summary>
    public required IReadOnlyList<int> ThroughManifold { get; init; }

    /// <summary>What air that came round by the manifold means; absent where none did.</summary>
    /// <param name="cylinder">The cylinder under air.</param>
    /// <param name="neighbours">Its neighbours.</param>
    /// <returns>One sentence; null where no air came round by a manifold.</returns>
    public string? ManifoldSays(int cylinder, Neighbours neighbours) => ThroughManifold.Count == 0 ? null
        : $"Plug hole {CylinderList.Sentence(ThroughManifold)}: {(ThroughManifold.All(neighbours.Contain) ? "air is heard at the intake too, so it" : "no neighbour, so it")} came round by the intake manifold, through {cylinder}’s intake valve: not a gasket.";

    /// <summary>Reads what stands in a record: a list of places says which were listened at; without it anything heard, or "nowhere", means all were.</summary>
    /// <returns>What was heard; "nobody listened" where the reading says nothing of it.</returns>
    public static AirHeard Of(EngineSheet engine, LeakDownReading reading)
    {
        var neighbours = Neighbours.Of(engine, reading.Cylinder);
        var heard = (reading.Heard ?? []).Where(h => h.At != ListeningPlace.Nowhere)
            .Select(h => new AirPlace(Place(h, neighbours), h.Strength ?? HeardStrength.Clear, h.Cylinder))
            .OrderByDescending(p => p.Strength).ThenBy(p => p.At).ThenBy(p => p.Cylinder).ToList();
        var atIntake = heard.Any(p => p is { At: ListeningPlace.Intake, Strength: not HeardStrength.Faint });
        var (anyone, everywhere) = (reading.Listened, reading.Heard) switch
        {
            ({ } places, _) => (places.Count > 0 || heard.Count > 0, Everywhere.All(p => places.Contains(p) || (p == ListeningPlace.AdjacentPlugHole && neighbours == default))),
            (null, { Count: > 0 }) => (true, true),
            _ => (false, false),
        };
        return new AirHeard
        {
            Places = heard,
            Listened = anyone,
            ListenedEverywhere = everywhere,
            ThroughManifold = [.. heard.Where(p => p.Cylinder is not null && (p.At == ListeningPlace.OtherPlugHole || (p.At == ListeningPlace.AdjacentPlugHole && atIntake))).Select(p => p.Cylinder!.Value)],
        };
    }

    /// <summary>The places everybody listens at.</summary>
    public static IReadOnlyList<ListeningPlace> Everywhere { get; } =
        [ListeningPlace.Intake, ListeningPlace.Exhaust, ListeningPlace.OilFiller, ListeningPlace.Coolant, ListeningPlace.AdjacentPlugHole];

    // A record may call a hole a neighbour's that is none, or the other way round: the engine's own layout decides.
    private static ListeningPlace Place(HeardAir heard, Neighbours neighbours) => heard is { At: ListeningPlace.AdjacentPlugHole or ListeningPlace.OtherPlugHole, Cylinder: { } c }
        ? neighbours.Contain(c) ? ListeningPlace.AdjacentPlugHole : ListeningPlace.OtherPlugHole
        : heard.At;

    /// <summary>How strongly air was heard at a place; absent for silent.</summary>
    /// <returns>How strongly; null for silent, and for a place nobody listened at.</returns>
    public HeardStrength? At(ListeningPlace place, int? cylinder = null)
    {
        foreach (var p in Places)
        {
            if (p.At == place && p.Cylinder == cylinder)
            {
                return p.Strength;
            }
        }
        return null;
    }

    /// <summary>
    /// Where the air goes, in one phrase, strongest first: "strong at plug hole 2; faint at oil filler
    /// (normal)". Empty when nobody listened.
    /// </summary>
    public string Says
    {
        get
        {
            if (!Listened)
            {
                return "";
            }
            if (Places.Count == 0)
            {
                return ListenedEverywhere ? "heard nowhere" : "nothing heard so far";
            }
            var loudest = Places[0].Strength;
            // Rings always let a little by at their gaps: a faint hiss at the filler is no finding.
            var usual = Places.Where(p => p is { At: ListeningPlace.OilFiller, Strength: HeardStrength.Faint } && loudest != HeardStrength.Faint).ToList();
            var parts = Places.Except(usual).GroupBy(p => p.Strength).Select(g => $"{RecordWords.Of(g.Key)} at {string.Join(" and ", g.Select(p => p.Name))}").ToList();
            if (Places is [{ At: ListeningPlace.OilFiller, Strength: HeardStrength.Faint }])
            {
                return "faint at oil filler (normal)";
            }
            if (usual.Count > 0)
            {
                parts.Add("faint at oil filler (normal)");
            }
            return string.Join("; ", parts);
        }
    }
}
