namespace Kettlefog.Core;

/// <summary>
/// Why a request was refused. Every code but <see cref="OutcomeUnknown"/> means that nothing was changed.
/// </summary>
public enum ErrorCode
{
    /// <summary>The map names no record type of that name.</summary>
    UnknownRecordType,

    /// <summary>No record has that key.</summary>
    UnknownRecord,

    /// <summary>The record type has no such field.</summary>
    UnknownField,

    /// <summary>The record type has no such reference.</summary>
    UnknownReference,

    /// <summary>A key is written in a form that its columns cannot hold.</summary>
    InvalidKey,

    /// <summary>A choice, or the list of records, contradicts itself.</summary>
    InvalidChoice,

    /// <summary>The map requires a reason, and none was given.</summary>
    ReasonMissing,

    /// <summary>A typed value does not fit its field's kind or its column.</summary>
    InvalidValue,

    /// <summary>A search, a sort order or a page is not understood.</summary>
    InvalidQuery,

    /// <summary>The record was merged into another one before.</summary>
    RecordRetired,

    /// <summary>Several rows have the key of one record.</summary>
    AmbiguousKey,

    /// <summary>The plan has blockers.</summary>
    PlanBlocked,

    /// <summary>Something changed since the plan was made.</summary>
    PlanStale,

    /// <summary>The fingerprint was not made by this service for this request.</summary>
    ForeignFingerprint,

    /// <summary>The history has no such entry.</summary>
    UnknownEntry,

    /// <summary>The merge cannot be reversed now: it is reversed already, or later merges depend on it.</summary>
    NotReversible,

    /// <summary>A check made inside the transaction failed, so that everything was rolled back.</summary>
    ProofFailed,

    /// <summary>An Idempotency-Key was used before for another request.</summary>
    IdempotencyKeyReused,

    /// <summary>The operational database refused a change by a constraint or trigger of its own.</summary>
    DatabaseRefused,

    /// <summary>Another program has locked the database; trying again helps.</summary>
    DatabaseBusy,

    /// <summary>The database cannot be opened, or cannot be written.</summary>
    DatabaseUnavailable,

    /// <summary>
    /// The connection to the database was lost while a change was committed, and it cannot be found out whether it was.
    /// </summary>
    OutcomeUnknown,

    /// <summary>The database lacks Kettlefog's tables, or has them in a form this version does not know.</summary>
    NotInitialised,

    /// <summary>The record map is wrong, or does not fit the database.</summary>
    InvalidMap,

    /// <summary>
    /// The tables of the operational database changed, and the record map no longer fits them.
    /// </summary>
    MapOutdated,

    /// <summary>The tables of the operational database changed while a request was carried out.</summary>
    CatalogChanged,

    /// <summary>A match rule is wrong, or does not fit its record type.</summary>
    InvalidRule,

    /// <summary>The record type has no such match rule.</summary>
    UnknownRule,

    /// <summary>There is no such scan.</summary>
    UnknownScan,

    /// <summary>
    /// The record type is already being scanned, or the state of the scan does not allow the request.
    /// </summary>
    ScanRunning,

    /// <summary>There is no such job.</summary>
    UnknownJob,

    /// <summary>There is no such cluster.</summary>
    UnknownCluster,

    /// <summary>There is no such user.</summary>
    UnknownUser,

    /// <summary>There is no such session of the console.</summary>
    UnknownSession,

    /// <summary>A proof or a checkpoint of the history does not hold.</summary>
    NotProven,

    /// <summary>The caller may not do this.</summary>
    NotAllowed,

    /// <summary>Nobody would be left who can sign in as an administrator.</summary>
    LastAdministrator,

    /// <summary>The cluster is assigned to somebody else, or was decided already.</summary>
    ClusterTaken,
}

/// <summary>A request that is refused: what is wrong, and what to do about it.</summary>
public sealed class KettlefogException : Exception
{
    /// <summary>Creates a refusal.</summary>
    /// <param name="code">Its kind.</param>
    /// <param name="message">One plain sentence that says what is wrong and where.</param>
    /// <param name="hint">What to do about it, or null if the message says it all.</param>
    /// <param name="details">Single findings, one sentence each; empty if there is but one.</param>
    /// <param name="inner">The error underneath, for the log.</param>
    public KettlefogException(
        ErrorCode code,
        string message,
        string? hint = null,
        IReadOnlyList<string>? details = null,
        Exception? inner = null
    )
        : base(message, inner)
    {
        Code = code;
        Hint = hint;
        Details = details ?? [];
    }

    /// <summary>The kind of refusal.</summary>
    public ErrorCode Code { get; }

    /// <summary>What to do about it, or null.</summary>
    public string? Hint { get; }

    /// <summary>Single findings, one sentence each.</summary>
    public IReadOnlyList<string> Details { get; }
}
