namespace Zandrik.Web.Instruments;

/// <summary>What is wrong with the line to an instrument.</summary>
public enum LinkState
{
    /// <summary>Nobody answers at its address.</summary>
    NotFound,

    /// <summary>The line broke off.</summary>
    Lost,

    /// <summary>No answer in time.</summary>
    TimedOut,

    /// <summary>An answer, but too late to be of the moment.</summary>
    Late,

    /// <summary>An answer that cannot be read.</summary>
    Garbage,

    /// <summary>It says that it cannot.</summary>
    Refuses,

    /// <summary>Somebody else reads with it.</summary>
    Busy,
}

/// <summary>Something is wrong with the line to an instrument.</summary>
/// <param name="state">What.</param>
/// <param name="detail">What was seen.</param>
public sealed class LinkTroubleException(LinkState state, string detail) : Exception(detail)
{
    /// <summary>What.</summary>
    public LinkState State => state;

    /// <summary>What is wrong and what to do, in two sentences; typing always works.</summary>
    public string Says => state switch
    {
        LinkState.NotFound => $"No instrument answers at its address ({Message}). Is it on, on the network, and the address right? Typing works meanwhile.",
        LinkState.Lost => "The line to the instrument broke off. Check plug and power, then take the reading again; nothing was saved. Typing works meanwhile.",
        LinkState.TimedOut => $"The instrument does not answer ({Message}). Switch it off and on, then try again. Typing works meanwhile.",
        LinkState.Late => $"The instrument answers {Message} late: what it shows would not be of that moment. Take the reading again, or read the dial and type it.",
        LinkState.Garbage => $"What the instrument answered cannot be read ({Message}). Is it the right instrument, and a serial line at the right speed? Read the dial and type it.",
        LinkState.Refuses => $"The instrument refuses: {Message}. Put that right at the instrument, or read the dial and type it.",
        _ => $"{Message} is reading with this instrument. Wait until they are done, take another one, or type it.",
    };
}
