namespace Zandrik.Instruments.Protocol;

/// <summary>What goes wrong with a device on purpose, so that the other end can be tried.</summary>
public enum Trouble
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>It answers nothing any more.</summary>
    Silent,

    /// <summary>It answers two and a half seconds late.</summary>
    Late,

    /// <summary>It answers what nobody can read.</summary>
    Garbage,

    /// <summary>It hangs up instead of answering.</summary>
    Drop,
}

/// <summary>
/// An instrument: its commands, and what every instrument of the standard has (<c>*IDN? *RST *CLS *OPC *OPC? *ESR?
/// SYST:ERR?</c>). Commands of all clients are carried out one after the other.
/// </summary>
public abstract class Device
{
    private static readonly string[] TroubleWords = ["NONE", "SIL", "LATE", "GARB", "DROP"];

    private readonly Lock turn = new();
    private readonly List<(CommandPattern Pattern, Action<CommandCall> Run)> commands = [];

    /// <summary>Makes it with the common commands.</summary>
    protected Device()
    {
        On("*IDN?", c => c.Reply(Identity));
        On("*RST", c => Reset());
        On("*CLS", c => c.Session.Clear());
        On("*OPC", c => c.Session.Note(EventStatus.OperationComplete));
        On("*OPC?", c => c.Reply("1"));
        On("*ESR?", c => c.Reply(FormattableString.Invariant($"{(int)c.Session.TakeStatus()}")));
        On("SYSTem:ERRor?", c => c.Reply(c.Session.Next().ToString()));
        On("SYSTem:ERRor:NEXT?", c => c.Reply(c.Session.Next().ToString()));
        On("SYSTem:ERRor:COUNt?", c => c.Reply(FormattableString.Invariant($"{c.Session.Errors}")));
        On("SIMulation:TROuble", c => { if (c.Takes(1, 1) && c.Choice(0, "NONE", "SILent", "LATE", "GARBage", "DROP") is >= 0 and var t) { Trouble = (Trouble)t; } }, most: 1);
        On("SIMulation:TROuble?", c => c.Reply(TroubleWords[(int)Trouble]));
    }

    /// <summary>Maker, model, serial number and version, with commas between.</summary>
    public abstract string Identity { get; }

    /// <summary>What goes wrong with it on purpose. Its <c>SIM</c> commands are answered all the same, so that it can be ended.</summary>
    public Trouble Trouble { get; private set; }

    /// <summary>Every command it knows, as the documentation writes them.</summary>
    public IReadOnlyList<string> Commands => [.. commands.Select(c => c.Pattern.Pattern)];

    /// <summary>Back to how it was switched on.</summary>
    protected virtual void Reset()
    {
    }

    /// <summary>Adds a command.</summary>
    /// <param name="pattern">How it is written, short forms in capitals.</param>
    /// <param name="run">What it does.</param>
    /// <param name="most">The most parameters it takes.</param>
    protected void On(string pattern, Action<CommandCall> run, int most = 0) => commands.Add((new CommandPattern(pattern), c =>
    {
        if (c.Takes(0, most))
        {
            run(c);
        }
    }
    ));

    /// <summary>Carries out a line.</summary>
    /// <param name="session">The client.</param>
    /// <param name="line">The line without its end.</param>
    /// <returns>The answers, semicolons between them; empty for none. And whether only simulation commands were in it.</returns>
    public (byte[] Answer, bool OnlySimulation) Run(ClientSession session, string line)
    {
        lock (turn)
        {
            var (units, error) = MessageUnit.Read(line);
            var answer = new List<byte>();
            var simulation = units.Count > 0;
            foreach (var unit in units)
            {
                simulation &= CommandPattern.IsWord(unit.Path[0], "SIMulation");
                var (pattern, run) = commands.FirstOrDefault(c => c.Pattern.Is(unit.Path, unit.IsQuery));
                if (pattern is null)
                {
                    // What stands behind a command that cannot be read is not carried out.
                    error = ScpiError.UndefinedHeader;
                    break;
                }
                var call = new CommandCall(session, unit.Parameters);
                run(call);
                session.InARow = call.HasFailed ? session.InARow + 1 : 0;
                if (call.Answer.Length > 0)
                {
                    if (answer.Count > 0)
                    {
                        answer.Add((byte)';');
                    }
                    answer.AddRange(call.Answer);
                }
            }
            if (error.Code != 0)
            {
                session.Add(error);
                session.InARow++;
            }
            return ([.. answer], simulation);
        }
    }
}
