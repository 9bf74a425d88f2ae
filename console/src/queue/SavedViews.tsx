import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, Menu, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Bookmark } from "lucide-react";
import { memo, useState } from "react";
import { useNavigate } from "react-router";
import { api, type SavedView, type Session } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { refresh } from "../ui/refresh";

/** Filters and orders of the queue under a name: one's own, and those that others share. */
export const SavedViews = memo(function SavedViews({
  query,
  session,
}: {
  /** The present filter and order, as in the address. */
  query: string;
  session: Session;
}) {
  const navigate = useNavigate();
  const notices = useNotices();
  const queries = useQueryClient();
  const [isOpen, open] = useState(false);
  const [isSaving, save] = useState(false);
  const views = useQuery({ queryKey: ["views"], queryFn: api.views, enabled: isOpen });
  const remove = useMutation({
    mutationFn: (view: SavedView) => api.removeView(view.id),
    onSuccess: (_, view) =>
      notices.say({
        text: t`The view “${view.name}” is removed.`,
        undo: () =>
          api
            .saveView({ name: view.name, query: view.query, isShared: view.isShared })
            .then(() => refresh(queries, { queryKey: ["views"] })),
      }),
    onSettled: () => refresh(queries, { queryKey: ["views"] }),
  });
  const own = views.data?.filter((view) => view.owner === session.name) ?? [];
  const shared = views.data?.filter((view) => view.owner !== session.name) ?? [];
  const items = (title: string, some: SavedView[]) =>
    some.length > 0 && (
      <>
        <Menu.Label>{title}</Menu.Label>
        {some.map((view) => (
          <Menu.Item key={view.id} onClick={() => navigate(`/queue?${view.query}`)}>
            {view.name}
            {view.owner !== session.name && (
              <span className="muted">
                {" "}
                <Trans>by {view.owner}</Trans>
              </span>
            )}
            {view.owner === session.name && view.isShared && (
              <span className="muted">
                {" "}
                <Trans>shared</Trans>
              </span>
            )}
          </Menu.Item>
        ))}
      </>
    );
  const current = own.find((view) => view.query === query);
  return (
    <>
      <Menu opened={isOpen} onChange={open} position="bottom-start" transitionProps={{ duration: 0 }}>
        <Menu.Target>
          <Button size="xs" variant="default" leftSection={<Bookmark size={14} aria-hidden />}>
            <Trans>Views</Trans>
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {views.error ? <ProblemNote error={views.error} retry={() => views.refetch()} /> : null}
          {views.isPending && (
            <Menu.Label>
              <Trans>Loading…</Trans>
            </Menu.Label>
          )}
          {views.data?.length === 0 && (
            <Menu.Label>
              <Trans>No view is saved yet.</Trans>
            </Menu.Label>
          )}
          {items(t`Your views`, own)}
          {items(t`Shared with you`, shared)}
          <Menu.Divider />
          <Menu.Item onClick={() => navigate("/queue")}>
            <Trans>All groups to review</Trans>
          </Menu.Item>
          {session.role !== "viewer" && (
            <Menu.Item onClick={() => save(true)}>
              <Trans>Save this filter and order…</Trans>
            </Menu.Item>
          )}
          {current && (
            <Menu.Item onClick={() => remove.mutate(current)}>
              <Trans>Remove “{current.name}”</Trans>
            </Menu.Item>
          )}
        </Menu.Dropdown>
      </Menu>
      {remove.error && <ProblemNote error={remove.error} />}
      {isSaving && <SaveView query={query} close={() => save(false)} />}
    </>
  );
});

function SaveView({ query, close }: { query: string; close: () => void }) {
  const queries = useQueryClient();
  const notices = useNotices();
  const [name, setName] = useState("");
  const [isShared, share] = useState(false);
  const save = useMutation({
    mutationFn: () => api.saveView({ name, query, isShared }),
    onSuccess: (views) => {
      queries.setQueryData(["views"], views);
      notices.say({ text: t`Saved as “${name.trim()}”; it is under Views.` });
      close();
    },
  });
  const why = name.trim() === "" ? t`Write a name.` : null;
  return (
    <Dialog close={close} title={t`Save this filter and order`}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (!why && !save.isPending) save.mutate();
        }}
      >
        {save.error && <ProblemNote error={save.error} />}
        <TextInput
          label={t`Name`}
          description={t`A view of yours with this name is replaced.`}
          data-autofocus
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Checkbox
          mt={10}
          label={t`Share it with everybody`}
          checked={isShared}
          onChange={(event) => share(event.currentTarget.checked)}
        />
        <div className="bar" style={{ margin: "14px 0 0" }}>
          <Button type="submit" disabled={why !== null} loading={save.isPending}>
            <Trans>Save</Trans>
          </Button>
          <Button variant="default" onClick={close}>
            <Trans>Cancel</Trans>
          </Button>
          <span className="why">{why}</span>
        </div>
      </form>
    </Dialog>
  );
}
