namespace Zandrik.Core.Reports;

/// <summary>A test on a sheet for buying or selling, in words and figures as they were handed out.</summary>
/// <param name="Title">Which test.</param>
/// <param name="Says">What it says.</param>
/// <param name="How">How it was done: conditions, gauge and its check, person, day.</param>
/// <param name="Headers">Headers of its table; empty for none.</param>
/// <param name="Rows">Rows of its table.</param>
/// <param name="Notes">What has to be known to read it.</param>
public sealed record SellingPart(string Title, string Says, string How, IReadOnlyList<string> Headers, IReadOnlyList<IReadOnlyList<string>> Rows, IReadOnlyList<string> Notes);

/// <summary>
/// What whoever buys or sells an engine is handed: every figure with how it was taken, what they say together, and what it would cost to put right. All of it is text in the shop's own units and style,
/// so that no later version can say other.
/// </summary>
/// <param name="Shop">The shop.</param>
/// <param name="Number">The job's number.</param>
/// <param name="Vehicle">The vehicle.</param>
/// <param name="Engine">The engine.</param>
/// <param name="Serial">Its serial number; absent where nobody said.</param>
/// <param name="Facts">Odometer, maker's figures and the like, name and value.</param>
/// <param name="Finding">What all readings say together.</param>
/// <param name="Cost">What putting it right would cost.</param>
/// <param name="Parts">The tests.</param>
/// <param name="Missing">What was not measured or noted: whoever buys has to know.</param>
/// <param name="Made">When it was made.</param>
/// <param name="By">Who made it.</param>
public sealed record SellingSheet(
    string Shop, string Number, string Vehicle, string Engine, string? Serial, IReadOnlyList<SellingFact> Facts, string Finding, string Cost, IReadOnlyList<SellingPart> Parts, IReadOnlyList<string> Missing, string Made, string By);

/// <summary>A fact on a sheet for buying or selling.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Value">The fact.</param>
public sealed record SellingFact(string Name, string Value);
