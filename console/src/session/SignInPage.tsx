import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useLocation, useNavigate } from "react-router";
import { api } from "../api/client";
import { SignInForm } from "./SignInForm";

/** Signs in by name and password, or by the one-time link in the address. */
export function SignInPage() {
  const location = useLocation();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const used = useRef(false);
  const signIn = useMutation({
    mutationKey: ["sign-in"],
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

  return (
    <main className="sign-in">
      <div className="panel">
        <header>
          <h1 className="brand">
            <img src="/mark.svg" alt="" width={26} height={26} />
            <Trans>Sign in to Kettlefog</Trans>
          </h1>
        </header>
        <SignInForm error={signIn.error} isPending={signIn.isPending} signIn={signIn.mutate} />
      </div>
    </main>
  );
}
