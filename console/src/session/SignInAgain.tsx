import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, type Session } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { refreshAll } from "../ui/refresh";
import { SignInForm } from "./SignInForm";

/** Signs in again over the page whose session has ended; the page stays as it was left. */
export function SignInAgain({ session }: { session: Session }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const signIn = useMutation({
    mutationKey: ["sign-in"],
    mutationFn: api.signIn,
    onSuccess: async (fresh) => {
      // An answer to an earlier question must not end the new session.
      await queries.cancelQueries({ queryKey: ["session"] });
      // What somebody else chose is not theirs.
      if (fresh.name !== session.name) {
        queries.clear();
        navigate("/");
      }

      queries.setQueryData(["session"], fresh);
      await refreshAll(queries);
    },
  });
  return (
    <Dialog
      close={() => {}}
      withCloseButton={false}
      closeOnEscape={false}
      closeOnClickOutside={false}
      title={t`Your session has ended`}
    >
      <p style={{ marginTop: 0 }}>
        <Trans>Sign in to continue where you were. Nothing you entered is lost.</Trans>
      </p>
      <SignInForm
        user={session.name}
        error={signIn.error}
        isPending={signIn.isPending}
        signIn={signIn.mutate}
      />
    </Dialog>
  );
}
