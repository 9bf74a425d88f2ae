namespace Kettlefog.Service.Settings;

/// <summary>How checkpoints of the history are signed and kept.</summary>
/// <param name="KeyFile">The file of the private key; it is made when it is needed first.</param>
/// <param name="File">The file to which checkpoints are appended; null for none.</param>
/// <param name="Every">The time between two checkpoints; null for none but those that are asked for.</param>
internal sealed record CheckpointSettings(string KeyFile, string? File, TimeSpan? Every);
