using Pelto.Data.Database;
using Pelto.Data.Hosts;
using Pelto.Web;

try
{
    return await Commands.RunAsync(args);
}
catch (HostException wrong)
{
    Console.Error.WriteLine(wrong.Message);
    return 2;
}
catch (KeyException wrong)
{
    Console.Error.WriteLine(wrong.Message);
    return 2;
}
catch (Exception down) when (DatabaseErrors.IsDown(down))
{
    Console.Error.WriteLine($"The database cannot be used: {down.GetBaseException().Message}");
    return 3;
}
catch (Exception refused) when (refused.GetBaseException() is Npgsql.PostgresException postgres)
{
    Console.Error.WriteLine($"The database refused: {postgres.MessageText}");
    return 3;
}
catch (IOException busy) when (busy.InnerException is Microsoft.AspNetCore.Connections.AddressInUseException)
{
    Console.Error.WriteLine("The port is in use by another program. Choose one with PELTO_PORT, such as PELTO_PORT=5081 ./pelto run.");
    return 4;
}

/// <summary>Where the tests find the application.</summary>
public partial class Program;
