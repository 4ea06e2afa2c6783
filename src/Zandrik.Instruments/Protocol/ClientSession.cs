namespace Zandrik.Instruments.Protocol;

/// <summary>
/// What an instrument knows of one client: its error queue and its event status. Each client has its own, so that nobody
/// reads of another's slips.
/// </summary>
public sealed class ClientSession
{
    /// <summary>How many errors are kept; of more, the last says that there were more.</summary>
    public const int MostErrors = 20;

    private readonly Queue<ScpiError> errors = new();

    /// <summary>The event status since it was last asked.</summary>
    public EventStatus Status { get; private set; } = EventStatus.PowerOn;

    /// <summary>How many commands in a row nobody understood.</summary>
    public int InARow { get; set; }

    /// <summary>Notes an error.</summary>
    /// <param name="error">The error.</param>
    public void Add(ScpiError error)
    {
        Status |= error.Event;
        if (errors.Count < MostErrors - 1)
        {
            errors.Enqueue(error);
        }
        else if (errors.Count == MostErrors - 1)
        {
            errors.Enqueue(ScpiError.QueueOverflow);
            Status |= EventStatus.DeviceError;
        }
    }

    /// <summary>Notes that something happened.</summary>
    /// <param name="happened">What.</param>
    public void Note(EventStatus happened) => Status |= happened;

    /// <summary>Takes the oldest error out of the queue.</summary>
    /// <returns>The error; "no error" for an empty queue.</returns>
    public ScpiError Next() => errors.Count > 0 ? errors.Dequeue() : ScpiError.None;

    /// <summary>How many errors wait.</summary>
    public int Errors => errors.Count;

    /// <summary>Answers the event status and forgets it.</summary>
    /// <returns>The bits.</returns>
    public EventStatus TakeStatus()
    {
        var status = Status;
        Status = EventStatus.None;
        return status;
    }

    /// <summary>Forgets errors and events.</summary>
    public void Clear()
    {
        errors.Clear();
        Status = EventStatus.None;
    }
}
