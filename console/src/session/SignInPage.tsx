import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { api } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";

/** Signs in by name and password, or by the one-time link in the address. */
export function SignInPage() {
  const location = useLocation();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const used = useRef(false);
  const signIn = useMutation({
    mutationFn: api.signIn,
    onSuccess: (session) => {
      queries.clear();
      queries.setQueryData(["session"], session);
      navigate(location.pathname === "/sign-in" ? "/" : location.pathname + location.search, {
        replace: true,
      });
    },
  });

  // The secret stands behind the '#', which a browser sends to nobody.
  const link = location.pathname === "/sign-in" ? location.hash.slice(1) : "";
  useEffect(() => {
    if (link && !used.current) {
      used.current = true;
      signIn.mutate({ link });
    }
  }, [link, signIn.mutate]);

  const submit = (event: FormEvent) => {
    event.preventDefault();
    signIn.mutate({ name: name.trim(), password });
  };
  const missing = !name.trim() ? "Type your user name." : !password ? "Type your password." : null;
  return (
    <main className="sign-in">
      <div className="panel">
        <header>
          <h1 className="brand">
            <img src="/mark.svg" alt="" width={26} height={26} />
            Sign in to Kettlefog
          </h1>
        </header>
        <form className="body" onSubmit={submit}>
          {signIn.error && <ProblemNote error={signIn.error} />}
          <TextInput
            label="User"
            autoComplete="username"
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
            data-autofocus
          />
          <PasswordInput
            label="Password"
            mt={8}
            autoComplete="current-password"
            value={password}
            onChange={(event) => setPassword(event.currentTarget.value)}
            visibilityToggleButtonProps={{ "aria-label": "Show the password" }}
          />
          <div className="bar" style={{ margin: "14px 0 0" }}>
            <Button type="submit" disabled={missing !== null} loading={signIn.isPending}>
              Sign in
            </Button>
            <span className="why">{missing ?? ""}</span>
          </div>
        </form>
      </div>
    </main>
  );
}
