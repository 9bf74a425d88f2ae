import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, NativeSelect, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Session, type User } from "../api/client";
import { moment } from "../ui/format";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { refresh } from "../ui/refresh";
import { Table } from "../ui/Table";
import { ChangeUser } from "./ChangeUser";
import { minimumPassword } from "./passwords";
import { roles } from "./roles";

const nobody = { name: "", fullName: "", role: "operator", password: "" };

/** Who may sign in, and in which role. */
export function UserPanel({ session }: { session: Session }) {
  const mayNot = session.role === "administrator" ? null : t`Only administrators can see and change users.`;
  const queries = useQueryClient();
  const notices = useNotices();
  const [fresh, setFresh] = useState(nobody);
  const [changed, setChanged] = useState<User | null>(null);
  const users = useQuery({ queryKey: ["users"], queryFn: api.users, enabled: mayNot === null });
  const add = useMutation({
    mutationFn: () =>
      api.addUser({
        ...fresh,
        name: fresh.name.trim(),
        fullName: fresh.fullName.trim(),
        password: fresh.password || null,
      }),
    onSuccess: (user) => {
      setFresh(nobody);
      notices.say({ text: t`${user.fullName} can sign in as “${user.name}”.` });
    },
    onSettled: () => refresh(queries, { queryKey: ["users"] }),
  });
  const missing = !fresh.name.trim()
    ? t`A user needs a name.`
    : !fresh.fullName.trim()
      ? t`A user needs a full name.`
      : fresh.password && fresh.password.length < minimumPassword
        ? t`A password needs at least ${minimumPassword} characters.`
        : null;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!missing) add.mutate();
  };
  return (
    <section className="panel" aria-label={t`Users`}>
      <header>
        <h2>
          <Trans>Users</Trans>
        </h2>
        {mayNot && <span className="why">{mayNot}</span>}
      </header>
      {users.error && <ProblemNote error={users.error} retry={() => users.refetch()} />}
      {users.isLoading && <Reading what={t`the users`} />}
      {users.data && (
        <Table
          rows={users.data}
          keyOf={(user) => user.name}
          columns={[
            { head: t`Name`, cell: (user) => user.name },
            { head: t`Full name`, cell: (user) => <bdi>{user.fullName}</bdi> },
            { head: t`Role`, cell: (user) => user.role },
            {
              head: t`State`,
              cell: (user) =>
                user.disabledAt ? (
                  <strong title={t`since ${moment(user.disabledAt)}`}>
                    <Trans>disabled</Trans>
                  </strong>
                ) : (
                  t`may sign in`
                ),
            },
            {
              head: t`Last sign-in`,
              kind: "short",
              cell: (user) =>
                user.lastSignInAt ? moment(user.lastSignInAt) : <span className="muted">{t`not known`}</span>,
            },
            { head: t`Added`, kind: "short", cell: (user) => moment(user.createdAt) },
            {
              said: t`Change`,
              kind: "short",
              cell: (user) => (
                <Button
                  size="compact-xs"
                  variant="default"
                  aria-label={t`Change ${user.fullName}`}
                  onClick={() => setChanged(user)}
                >
                  <Trans>Change…</Trans>
                </Button>
              ),
            },
          ]}
        />
      )}
      {mayNot === null && (
        <form className="body bar" style={{ margin: 0, alignItems: "end" }} onSubmit={submit}>
          <TextInput
            size="xs"
            w={120}
            label={t`Name`}
            value={fresh.name}
            onChange={(event) => setFresh({ ...fresh, name: event.currentTarget.value })}
          />
          <TextInput
            size="xs"
            w={150}
            label={t`Full name`}
            value={fresh.fullName}
            onChange={(event) => setFresh({ ...fresh, fullName: event.currentTarget.value })}
          />
          <NativeSelect
            size="xs"
            label={t`Role`}
            value={fresh.role}
            data={roles}
            onChange={(event) => setFresh({ ...fresh, role: event.currentTarget.value })}
          />
          <PasswordInput
            size="xs"
            w={150}
            label={t`Password`}
            autoComplete="new-password"
            value={fresh.password}
            onChange={(event) => setFresh({ ...fresh, password: event.currentTarget.value })}
          />
          <Button size="compact-md" type="submit" disabled={missing !== null} loading={add.isPending}>
            <Trans>Add</Trans>
          </Button>
          <span className="why">{missing}</span>
        </form>
      )}
      {add.error && <ProblemNote error={add.error} />}
      {changed && <ChangeUser user={changed} close={() => setChanged(null)} />}
    </section>
  );
}
