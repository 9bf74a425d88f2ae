import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, PasswordInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Session } from "../api/client";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { refresh } from "../ui/refresh";
import { minimumPassword } from "./passwords";

/** The own password, which is changed by who knows it. */
export function PasswordPanel({ session }: { session: Session }) {
  const queries = useQueryClient();
  const notices = useNotices();
  const [current, setCurrent] = useState("");
  const [password, setPassword] = useState("");
  const change = useMutation({
    mutationFn: () => api.changePassword({ current, password }),
    onSuccess: () => {
      setCurrent("");
      setPassword("");
      notices.say({ text: t`Your password is changed. Your other sessions have ended.` });
      return refresh(queries, { queryKey: ["sessions"] });
    },
  });
  const missing = !current
    ? t`Enter the password that you sign in with.`
    : password.length < minimumPassword
      ? t`The new password needs at least ${minimumPassword} characters.`
      : null;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!missing) change.mutate();
  };
  return (
    <section className="panel" aria-label={t`Your password`}>
      <header>
        <h2>
          <Trans>Your password</Trans>
        </h2>
      </header>
      <form className="body bar" style={{ margin: 0, alignItems: "end" }} onSubmit={submit}>
        <input type="text" hidden autoComplete="username" value={session.name} readOnly />
        <PasswordInput
          size="xs"
          w={190}
          label={t`Current password`}
          autoComplete="current-password"
          value={current}
          onChange={(event) => setCurrent(event.currentTarget.value)}
        />
        <PasswordInput
          size="xs"
          w={190}
          label={t`New password`}
          autoComplete="new-password"
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
        />
        <Button
          size="compact-md"
          type="submit"
          variant="default"
          disabled={missing !== null}
          loading={change.isPending}
        >
          <Trans>Change password</Trans>
        </Button>
        <span className="why">{missing}</span>
      </form>
      {change.error && <ProblemNote error={change.error} />}
    </section>
  );
}
