using System.Security.Claims;
using Kettlefog.Contracts;
using Kettlefog.Database;
using Kettlefog.Database.Users;
using Kettlefog.Service.Security;

namespace Kettlefog.Service.Endpoints;

/// <summary>What people need to review together: comments, views of the queue, and assignees.</summary>
internal static class ReviewEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        var clusters = api.MapGroup("/clusters").WithTags("clusters");
        clusters
            .MapPost("{id:long}/comments", AddCommentAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("addComment")
            .WithSummary("Comment on the records of a cluster.")
            .WithDescription(
                "A comment stays with the records: any later cluster with two of them has it. All comments on the "
                    + "cluster are returned, the oldest first."
            );
        clusters
            .MapDelete("comments/{comment:long}", RemoveCommentAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("removeComment")
            .WithSummary("Remove a comment of yours; administrators remove any.");
        var views = api.MapGroup("/views").WithTags("clusters");
        views
            .MapGet("", ViewsOfAsync)
            .WithName("listViews")
            .WithSummary("List your saved views of the queue, and those shared by others.");
        views
            .MapPost("", SaveViewAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("saveView")
            .WithSummary("Save a view of the queue; one of yours with the same name is replaced.");
        views
            .MapDelete("{id:long}", RemoveViewAsync)
            .RequireAuthorization(SignInSetup.Operate)
            .WithName("removeView")
            .WithSummary("Remove a saved view of yours; administrators remove any.");
        api.MapGet("/assignees", ListAssigneesAsync)
            .WithTags("clusters")
            .WithName("listAssignees")
            .WithSummary("List the users to whom clusters can be assigned.");
    }

    private static async Task<IReadOnlyList<CommentView>> AddCommentAsync(
        long id,
        CommentBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        [
            .. (
                await database.Clusters.CommentAsync(
                    id,
                    caller.Identity!.Name!,
                    Callers.CommentOf(body.Text),
                    cancellationToken
                )
            ).Select(DuplicateViews.Of),
        ];

    private static async Task<IResult> RemoveCommentAsync(
        long comment,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        await database.Clusters.RemoveCommentAsync(comment, UserEndpoints.OwnOnly(caller), cancellationToken);
        return TypedResults.NoContent();
    }

    private static async Task<IReadOnlyList<SavedViewView>> SaveViewAsync(
        SavedViewBody body,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        await database.SavedViews.SaveAsync(
            caller.Identity!.Name!,
            body.Name,
            body.Query,
            body.IsShared,
            cancellationToken
        );
        return await ViewsOfAsync(caller, database, cancellationToken);
    }

    private static async Task<IResult> RemoveViewAsync(
        long id,
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        await database.SavedViews.RemoveAsync(id, UserEndpoints.OwnOnly(caller), cancellationToken);
        return TypedResults.NoContent();
    }

    private static async Task<IReadOnlyList<AssigneeView>> ListAssigneesAsync(
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        [
            .. (await database.Users.ListAsync(cancellationToken))
                .Where(user => !user.IsDisabled && user.Role != Role.Viewer)
                .Select(user => new AssigneeView(user.Name, user.FullName)),
        ];

    private static async Task<IReadOnlyList<SavedViewView>> ViewsOfAsync(
        ClaimsPrincipal caller,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) =>
        [
            .. (await database.SavedViews.ListAsync(caller.Identity!.Name!, cancellationToken)).Select(
                view => new SavedViewView(view.Id, view.Owner, view.Name, view.Query, view.IsShared)
            ),
        ];
}
