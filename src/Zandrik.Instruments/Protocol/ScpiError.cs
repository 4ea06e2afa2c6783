namespace Zandrik.Instruments.Protocol;

/// <summary>An entry of the error queue: its number, as the public standard for programmable instruments has it, and its words.</summary>
/// <param name="Code">0 for none; −100 to −199 the command, −200 to −299 carrying it out, −300 to −399 the instrument, −400 to −499 the answer.</param>
/// <param name="Says">What it is called.</param>
public readonly record struct ScpiError(int Code, string Says)
{
    /// <summary>Nothing went wrong.</summary>
    public static readonly ScpiError None = new(0, "No error");

    /// <summary>A character that has no place there.</summary>
    public static readonly ScpiError InvalidCharacter = new(-101, "Invalid character");

    /// <summary>A line that cannot be read.</summary>
    public static readonly ScpiError Syntax = new(-102, "Syntax error");

    /// <summary>A word where a number is wanted, or the other way round.</summary>
    public static readonly ScpiError DataType = new(-104, "Data type error");

    /// <summary>More parameters than the command takes.</summary>
    public static readonly ScpiError ParameterNotAllowed = new(-108, "Parameter not allowed");

    /// <summary>A parameter is missing.</summary>
    public static readonly ScpiError MissingParameter = new(-109, "Missing parameter");

    /// <summary>There is no such command.</summary>
    public static readonly ScpiError UndefinedHeader = new(-113, "Undefined header");

    /// <summary>The unit behind a number is none that fits.</summary>
    public static readonly ScpiError InvalidSuffix = new(-131, "Invalid suffix");

    /// <summary>Cannot be done as things stand.</summary>
    public static readonly ScpiError SettingsConflict = new(-221, "Settings conflict");

    /// <summary>A number beyond what is possible.</summary>
    public static readonly ScpiError OutOfRange = new(-222, "Data out of range");

    /// <summary>A word that is none of the choices.</summary>
    public static readonly ScpiError IllegalValue = new(-224, "Illegal parameter value");

    /// <summary>Nothing was recorded yet.</summary>
    public static readonly ScpiError NoData = new(-230, "Data corrupt or stale");

    /// <summary>More errors than the queue holds.</summary>
    public static readonly ScpiError QueueOverflow = new(-350, "Queue overflow");

    /// <summary>A line longer than is taken.</summary>
    public static readonly ScpiError InputOverrun = new(-363, "Input buffer overrun");

    /// <summary>The bit of the event status register that the error sets.</summary>
    public EventStatus Event => Code switch
    {
        > -200 and < 0 => EventStatus.CommandError,
        > -300 and <= -200 => EventStatus.ExecutionError,
        > -400 and <= -300 => EventStatus.DeviceError,
        <= -400 => EventStatus.QueryError,
        _ => EventStatus.None,
    };

    /// <summary>As <c>SYST:ERR?</c> answers it.</summary>
    /// <returns>Number, comma, words in quotes.</returns>
    public override string ToString() => FormattableString.Invariant($"{Code},\"{Says}\"");
}

/// <summary>Bits of the event status register, as <c>*ESR?</c> answers them.</summary>
[Flags]
public enum EventStatus
{
    /// <summary>None.</summary>
    None = 0,

    /// <summary>Everything asked for is done.</summary>
    OperationComplete = 1,

    /// <summary>An answer was not fetched, or there was none.</summary>
    QueryError = 4,

    /// <summary>Something is wrong with the instrument.</summary>
    DeviceError = 8,

    /// <summary>A command could not be carried out.</summary>
    ExecutionError = 16,

    /// <summary>A command could not be read.</summary>
    CommandError = 32,

    /// <summary>It was switched on since this was last asked.</summary>
    PowerOn = 128,
}
