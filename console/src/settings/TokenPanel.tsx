import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, type Session } from "../api/client";
import { moment } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { refresh } from "../ui/refresh";
import { Table } from "../ui/Table";
import { roles } from "./roles";

const lifetimes = [
  { value: "7", label: t`7 days` },
  { value: "30", label: t`30 days` },
  { value: "90", label: t`90 days` },
  { value: "365", label: t`1 year` },
];

/** The tokens by which programs work in somebody's name. A secret is shown once, when it is made. */
export function TokenPanel({ session }: { session: Session }) {
  const queries = useQueryClient();
  const [label, setLabel] = useState("");
  const [days, setDays] = useState("365");
  const [role, setRole] = useState("");
  const [asked, setAsked] = useState<number | null>(null);
  const tokens = useQuery({ queryKey: ["tokens"], queryFn: api.tokens });
  const fresh = () => refresh(queries, { queryKey: ["tokens"] });
  const issue = useMutation({
    mutationFn: () => api.issueToken(label.trim(), Number(days), role || null),
    onSuccess: () => setLabel(""),
    onSettled: fresh,
  });
  const revoke = useMutation({
    mutationFn: api.revokeToken,
    onSettled: () => {
      setAsked(null);
      return fresh();
    },
  });
  const missing = label.trim() ? null : t`Enter a purpose.`;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!missing) issue.mutate();
  };
  return (
    <section className="panel" aria-label={t`Tokens`}>
      <header>
        <h2>
          <Trans>Tokens</Trans>
        </h2>
        <span className="muted small">
          <Trans>
            {session.role === "administrator" ? t`of all users` : t`your own`}, for programs and the command
            line
          </Trans>
        </span>
      </header>
      {tokens.error && <ProblemNote error={tokens.error} retry={() => tokens.refetch()} />}
      {tokens.isPending && <Reading what={t`the tokens`} />}
      {issue.data && (
        <div className="note done" role="status">
          <strong>
            <Trans>The new token:</Trans>
          </strong>{" "}
          <code>{issue.data.token}</code>
          <div className="small">
            <Trans>It is not shown again. Programs send it as 'Authorization: Bearer …'.</Trans>
          </div>
        </div>
      )}
      {(issue.error ?? revoke.error) && <ProblemNote error={issue.error ?? revoke.error} />}
      {tokens.data?.length === 0 && (
        <div className="body muted">
          <Trans>No tokens.</Trans>
        </div>
      )}
      {tokens.data && tokens.data.length > 0 && (
        <Table
          rows={tokens.data}
          keyOf={(token) => token.id}
          columns={[
            {
              head: t`For`,
              cell: (token) =>
                token.label ? <bdi>{token.label}</bdi> : <span className="muted">{t`nothing said`}</span>,
            },
            { head: t`User`, cell: (token) => token.user },
            {
              head: t`Acts as`,
              cell: (token) => (token.role ? token.role : <span className="muted">{t`its user`}</span>),
            },
            { head: t`Created`, kind: "short", cell: (token) => moment(token.createdAt) },
            {
              head: t`Expires`,
              kind: "short",
              cell: (token) =>
                token.expiresAt ? moment(token.expiresAt) : <span className="muted">{t`never`}</span>,
            },
            {
              head: t`Last used`,
              kind: "short",
              cell: (token) =>
                token.lastUsedAt ? moment(token.lastUsedAt) : <span className="muted">{t`never`}</span>,
            },
            {
              said: t`Revoke`,
              kind: "short",
              cell: (token) =>
                asked === token.id ? (
                  <>
                    <Button
                      size="compact-xs"
                      color="brick"
                      loading={revoke.isPending}
                      onClick={() => revoke.mutate(token.id)}
                    >
                      <Trans>Revoke for good</Trans>
                    </Button>{" "}
                    <Button size="compact-xs" variant="default" onClick={() => setAsked(null)}>
                      <Trans>Keep</Trans>
                    </Button>
                  </>
                ) : (
                  <Button
                    size="compact-xs"
                    variant="default"
                    aria-label={t`Revoke the token for ${token.label || t`number ${token.id}`}`}
                    onClick={() => setAsked(token.id)}
                  >
                    <Trans>Revoke…</Trans>
                  </Button>
                ),
            },
          ]}
        />
      )}
      <form className="body bar" style={{ margin: 0, alignItems: "end" }} onSubmit={submit}>
        <TextInput
          size="xs"
          w={220}
          label={t`Purpose`}
          value={label}
          onChange={(event) => setLabel(event.currentTarget.value)}
        />
        <NativeSelect
          size="xs"
          label={t`Valid for`}
          value={days}
          data={lifetimes}
          onChange={(event) => setDays(event.currentTarget.value)}
        />
        <NativeSelect
          size="xs"
          label={t`Acts as`}
          value={role}
          data={[
            { value: "", label: t`its user: ${session.role}` },
            ...roles.slice(
              0,
              roles.findIndex((each) => each.value === session.role),
            ),
          ]}
          onChange={(event) => setRole(event.currentTarget.value)}
        />
        <Button
          size="compact-md"
          type="submit"
          variant="default"
          disabled={missing !== null}
          loading={issue.isPending}
        >
          <Trans>Create token</Trans>
        </Button>
        <span className="why">{missing}</span>
      </form>
    </section>
  );
}
