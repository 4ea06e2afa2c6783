using Zandrik.Core.Repairs;

namespace Zandrik.Core.Deciding;

/// <summary>What is said of each repair: what is done, what stays open until then, what is measured, how far it is good for. Rules of the trade; docs/deciding.md.</summary>
internal static class RepairText
{
    /// <summary>What is done.</summary>
    public static string Does(Repair repair) => repair switch
    {
        Repair.Leave => "Nothing is opened. It is tested again when the retest is due, the same way.",
        Repair.RunAndRetest => "Fuel is run out and the cause of it looked for; oil that smells of fuel is changed. The same cylinders are read again, warm.",
        Repair.AdjustValves => "Cover off, clearances measured and set to the maker's figures, leak-down again.",
        Repair.FreeRings => "Soaked overnight through the plug holes. Crank it with the plugs out and everybody clear before they go back: liquid bends rods. Then run under light load and read again.",
        Repair.SealCooling => "Cap, hoses, coolers and heated intake under pressure, cold; what lets coolant go is renewed.",
        Repair.ClearExhaust => "Back pressure measured; the blocked part renewed or cleaned.",
        Repair.CleanDeposits => "Intake off, ports and crowns cleaned as far as they are reached.",
        Repair.SetTiming => "Front cover off, cams and crank to their marks, drive renewed. Turn it two turns by hand first, then leak-down: valves may be bent.",
        Repair.Gasket => "Head off, both faces measured, head machined where it is out, new gasket and bolts.",
        Repair.TopEnd => "Head off: valves, seats, guides, lobes and followers looked at and put right; new gasket and bolts.",
        Repair.BottomEnd => "Head and sump off: rings and hone, pistons and rods as measured; new gaskets.",
        Repair.Overhaul => "Engine out, on the lifting gear the maker names, and apart: every bore, bearing, valve and face measured and put back within the maker's limits.",
        _ => "Engine out, another one in, on the lifting gear the maker names. What hangs on it goes over; what made this one fail is looked for first.",
    };

    /// <summary>What nobody knows until it is open.</summary>
    public static IEnumerable<string> Unknown(Repair repair) => repair switch
    {
        Repair.AdjustValves => ["whether the face is burnt: then setting it helps nothing"],
        Repair.FreeRings => ["whether they are stuck or worn"],
        Repair.SetTiming => ["whether valves are bent"],
        Repair.Gasket => ["flatness of both faces", "cracks between the chambers"],
        Repair.TopEnd => ["seats and guides", "cracks", "the bores below"],
        Repair.BottomEnd => ["wear and taper of the bores: beyond the maker's limit it is rebored or the engine goes", "bearings"],
        Repair.Overhaul => ["crank, block and head: each may be past its limit"],
        Repair.Exchange => ["how good the other engine is: test it before it goes in"],
        _ => [],
    };

    /// <summary>What is measured then.</summary>
    public static IEnumerable<string> Measure(Repair repair) => repair switch
    {
        Repair.RunAndRetest or Repair.FreeRings => ["dry compression of every cylinder again, warm"],
        Repair.AdjustValves => ["every clearance, cold", "leak-down of the same cylinder again"],
        Repair.SealCooling => ["the system under the cap's pressure, cold, for ten minutes"],
        Repair.ClearExhaust => ["back pressure at idle and at speed, before and after"],
        Repair.SetTiming => ["marks and keys", "leak-down of every cylinder before it is started"],
        Repair.Gasket => ["straightedge and feeler on head and block", "crack test", "liner height where it has liners", "bolt threads"],
        Repair.TopEnd => ["seat run-out and width", "valve face and stem", "guide clearance", "spring height", "straightedge on the head"],
        Repair.BottomEnd => ["bore, taper and ovality", "ring end gap", "piston clearance", "rod straightness"],
        Repair.Overhaul => ["every figure of the maker's overhaul list"],
        Repair.Exchange => ["dry compression and leak-down of the other engine"],
        _ => [],
    };

    /// <summary>How far it is good for, km; 0 for what is done to find out. Rules of thumb.</summary>
    public static double Km(Repair repair) => repair switch
    {
        Repair.AdjustValves => 30_000,
        Repair.FreeRings => 20_000,
        Repair.CleanDeposits => 40_000,
        Repair.SetTiming or Repair.Gasket or Repair.TopEnd => 100_000,
        Repair.BottomEnd => 120_000,
        Repair.Overhaul => 200_000,
        Repair.Exchange => 150_000,
        _ => 0,
    };

    /// <summary>What waiting does where a need is left.</summary>
    public static string? Waiting(RepairNeeds need)
    {
        if (need.IsNone)
        {
            return null;
        }
        return need.Work().Repair switch
        {
            Repair.Gasket => "A burnt gasket erodes both faces, and coolant in a cylinder bends a rod: it gets dearer by the week.",
            Repair.TopEnd => "A valve that leaks burns its seat: later it is a seat, or a head.",
            Repair.BottomEnd => "Worn rings get worse slowly, a broken piston at once.",
            Repair.SetTiming => "Timing that jumped can jump again and bend valves: do not run it.",
            Repair.RunAndRetest => "Fuel washes the oil off the bore: do not leave it.",
            Repair.SealCooling => "Short of coolant it overheats.",
            Repair.ClearExhaust => "A blocked exhaust overheats valves and its catalyst.",
            Repair.Overhaul => "It uses more oil and starts worse, and fails slowly.",
            _ => null,
        };
    }
}
