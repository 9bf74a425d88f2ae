using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Kettlefog.Testing;

/// <summary>What a proxy does with a request of its client.</summary>
public enum ProxyFault
{
    /// <summary>Cuts the connection before the server gets the request.</summary>
    Cut,

    /// <summary>
    /// Lets the server carry out the request, then cuts the connection instead of passing the answer on.
    /// </summary>
    LoseAnswer,

    /// <summary>Passes nothing on any more, in either direction, and keeps the connection open.</summary>
    Freeze,
}

/// <summary>
/// A network between a program and a PostgreSQL server that can fail: it cuts, freezes and delays connections.
/// </summary>
public sealed class PostgresProxy : IDisposable
{
    private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    private readonly CancellationTokenSource _ending = new();
    private readonly ConcurrentDictionary<Link, bool> _links = new();
    private readonly PostgresDatabase _database;
    private readonly Lock _faults = new();
    private (string Statement, ProxyFault Fault)? _next;
    private volatile TaskCompletionSource _open = Opened();
    private int _accepted;

    /// <summary>Starts a proxy on loopback.</summary>
    /// <param name="database">The database behind it.</param>
    public PostgresProxy(PostgresDatabase database)
    {
        _database = database;
        _listener.Start();
        Address = $"postgres://kettlefog@127.0.0.1:{((IPEndPoint)_listener.LocalEndpoint).Port}/{database.Name}";
        _ = AcceptAsync();
    }

    /// <summary>The address of the database through the proxy.</summary>
    public string Address { get; }

    /// <summary>How long each piece of data is held back.</summary>
    public TimeSpan Delay { get; set; }

    /// <summary>The number of connections that were opened so far.</summary>
    public int Accepted => Volatile.Read(ref _accepted);

    /// <summary>The number of connections that are open.</summary>
    public int Connections => _links.Count;

    /// <summary>Does something to the connection that sends the next request which contains a text.</summary>
    public void On(string statement, ProxyFault fault)
    {
        lock (_faults)
            _next = (statement, fault);
    }

    /// <summary>True as long as the fault that was asked for has not happened.</summary>
    public bool IsWaiting
    {
        get
        {
            lock (_faults)
                return _next is not null;
        }
    }

    /// <summary>Passes nothing on any more: the connections lead nowhere, and new ones as well.</summary>
    public void Freeze()
    {
        if (_open.Task.IsCompleted)
            _open = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
    }

    /// <summary>Passes everything on again, also what was held back.</summary>
    public void Thaw() => _open.TrySetResult();

    /// <summary>Cuts all connections.</summary>
    public void CutAll()
    {
        foreach (var link in _links.Keys)
            link.Dispose();
    }

    public void Dispose()
    {
        _ending.Cancel();
        _listener.Dispose();
        CutAll();
        _ending.Dispose();
    }

    private static TaskCompletionSource Opened()
    {
        var opened = new TaskCompletionSource();
        opened.SetResult();
        return opened;
    }

    private async Task AcceptAsync()
    {
        try
        {
            while (true)
            {
                var client = await _listener.AcceptSocketAsync(_ending.Token);
                Interlocked.Increment(ref _accepted);
                var server = new Socket(AddressFamily.Unix, SocketType.Stream, ProtocolType.Unspecified);
                await server.ConnectAsync(new UnixDomainSocketEndPoint(_database.SocketPath), _ending.Token);
                var link = new Link(client, server);
                _links[link] = true;
                _ = PumpAsync(link, client, server, fromClient: true);
                _ = PumpAsync(link, server, client, fromClient: false);
            }
        }
        catch (Exception error) when (error is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            // The proxy ends, or the server is gone.
        }
    }

    private async Task PumpAsync(Link link, Socket from, Socket to, bool fromClient)
    {
        var buffer = new byte[64 * 1024];
        try
        {
            while (await from.ReceiveAsync(buffer, _ending.Token) is > 0 and var count)
            {
                // The answer proves that the server carried out the request. It is lost also in a network that stands
                // still by now.
                if (!fromClient && link.Fault == ProxyFault.LoseAnswer)
                    break;
                await _open.Task.WaitAsync(_ending.Token);
                if (Delay > TimeSpan.Zero)
                    await Task.Delay(Delay, _ending.Token);
                if (fromClient && TakeFault(buffer.AsSpan(0, count)) is { } fault)
                {
                    if (fault == ProxyFault.Cut)
                        break;
                    link.Fault = fault;
                }

                if (link.Fault == ProxyFault.Freeze)
                {
                    await link.Closed.Task.WaitAsync(_ending.Token);
                    break;
                }

                await to.SendAsync(buffer.AsMemory(0, count), _ending.Token);
            }
        }
        catch (Exception error) when (error is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            // One of the two ends is closed.
        }

        _links.TryRemove(link, out _);
        link.Dispose();
    }

    private ProxyFault? TakeFault(ReadOnlySpan<byte> request)
    {
        lock (_faults)
        {
            if (_next is not var (statement, fault) || request.IndexOf(Encoding.UTF8.GetBytes(statement)) < 0)
                return null;
            _next = null;
            return fault;
        }
    }

    private sealed class Link(Socket client, Socket server) : IDisposable
    {
        public TaskCompletionSource Closed { get; } = new();

        public ProxyFault? Fault { get; set; }

        public void Dispose()
        {
            Closed.TrySetResult();
            client.Dispose();
            server.Dispose();
        }
    }
}
