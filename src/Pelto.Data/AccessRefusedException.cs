namespace Pelto.Data;

/// <summary>Somebody asked for what they may not have.</summary>
public class AccessRefusedException(string message) : Exception(message);

/// <summary>Somebody has to show again who they are before this is done.</summary>
public sealed class ConfirmationRequiredException()
    : AccessRefusedException("Confirm again that it is you, then repeat this: it was not done.");
