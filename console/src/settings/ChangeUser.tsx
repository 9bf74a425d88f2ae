import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, NativeSelect, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type User } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { refresh } from "../ui/refresh";
import { minimumPassword } from "./passwords";
import { roles } from "./roles";

/** What an administrator changes of a user: role, name, password, whether the user may sign in, open sessions. */
export function ChangeUser({ user, close }: { user: User; close: () => void }) {
  const queries = useQueryClient();
  const notices = useNotices();
  const [fullName, setFullName] = useState(user.fullName);
  const [role, setRole] = useState(user.role);
  const [maySignIn, setMaySignIn] = useState(!user.disabledAt);
  const [password, setPassword] = useState("");
  const fresh = () => refresh(queries, { predicate: ({ queryKey }) => afterwards.has(queryKey[0]) });
  const save = useMutation({
    mutationFn: () =>
      api.changeUser(user.name, {
        fullName: fullName.trim() === user.fullName ? null : fullName.trim(),
        role: role === user.role ? null : role,
        isDisabled: maySignIn === !user.disabledAt ? null : !maySignIn,
        password: password || null,
      }),
    onSuccess: (changed) => {
      close();
      notices.say({
        text: [
          `${changed.fullName}: ${changed.role}`,
          changed.disabledAt ? t`disabled` : t`may sign in`,
          ...(password ? [t`with a new password`] : []),
        ]
          .join(", ")
          .concat("."),
      });
    },
    onSettled: fresh,
  });
  const end = useMutation({
    mutationFn: () => api.endSessions(user.name),
    onSuccess: (ended) => {
      close();
      notices.say({
        text: t`${plural(ended.count, { one: "# session", other: "# sessions" })} of ${user.fullName} ended.`,
      });
    },
    onSettled: fresh,
  });
  const missing = !fullName.trim()
    ? t`A user needs a full name.`
    : password && password.length < minimumPassword
      ? t`A password needs at least ${minimumPassword} characters.`
      : fullName.trim() === user.fullName && role === user.role && maySignIn === !user.disabledAt && !password
        ? t`Nothing is changed yet.`
        : null;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!missing) save.mutate();
  };
  return (
    <Dialog close={close} title={t`Change ${user.fullName} (${user.name})`}>
      <form className="stack" onSubmit={submit}>
        <TextInput
          label={t`Full name`}
          data-autofocus
          value={fullName}
          onChange={(event) => setFullName(event.currentTarget.value)}
        />
        <NativeSelect
          label={t`Role`}
          value={role}
          data={roles}
          onChange={(event) => setRole(event.currentTarget.value)}
        />
        <PasswordInput
          label={t`New password`}
          description={t`Blank: the password stays. A new one ends the user's sessions.`}
          autoComplete="new-password"
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
        />
        <Checkbox
          label={t`May sign in`}
          description={t`Without it, sessions end, and password, tokens and links are of no use.`}
          checked={maySignIn}
          onChange={(event) => setMaySignIn(event.currentTarget.checked)}
        />
        {(save.error ?? end.error) && <ProblemNote error={save.error ?? end.error} />}
        <div className="bar" style={{ margin: 0 }}>
          <Button type="submit" disabled={missing !== null} loading={save.isPending}>
            <Trans>Save</Trans>
          </Button>
          <Button variant="default" onClick={close}>
            <Trans>Cancel</Trans>
          </Button>
          <Button variant="default" loading={end.isPending} onClick={() => end.mutate()}>
            <Trans>End all sessions</Trans>
          </Button>
          <span className="why">{missing}</span>
        </div>
      </form>
    </Dialog>
  );
}

/** What is read again after a change: whoever changes themselves is somebody else now. */
const afterwards = new Set<unknown>(["users", "sessions", "session"]);
