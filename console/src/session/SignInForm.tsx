import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, PasswordInput, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { ProblemNote } from "../ui/ProblemNote";

/** Asks for a name and a password. */
export function SignInForm({
  user = "",
  error,
  isPending,
  signIn,
}: {
  /** The name that is there already. */
  user?: string;
  error: unknown;
  isPending: boolean;
  signIn: (credentials: { name: string; password: string }) => void;
}) {
  const [name, setName] = useState(user);
  const [password, setPassword] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    signIn({ name: name.trim(), password });
  };
  const missing = !name.trim() ? t`Enter your user name.` : !password ? t`Enter your password.` : null;
  return (
    <form className="body" onSubmit={submit}>
      {error !== null && <ProblemNote error={error} />}
      <TextInput
        label={t`User`}
        autoComplete="username"
        value={name}
        onChange={(event) => setName(event.currentTarget.value)}
        {...(user ? {} : { "data-autofocus": true })}
      />
      <PasswordInput
        label={t`Password`}
        mt={8}
        autoComplete="current-password"
        value={password}
        onChange={(event) => setPassword(event.currentTarget.value)}
        visibilityToggleButtonProps={{ "aria-label": t`Show the password` }}
        {...(user ? { "data-autofocus": true } : {})}
      />
      <div className="bar" style={{ margin: "14px 0 0" }}>
        <Button type="submit" disabled={missing !== null} loading={isPending}>
          <Trans>Sign in</Trans>
        </Button>
        <span className="why">{missing ?? ""}</span>
      </div>
    </form>
  );
}
