import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api, type RecordType, type RuleView } from "../api/client";
import { moment } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Table } from "../ui/Table";

/** The versions of a rule, latest first; each can be taken into the form again. */
export function RuleVersions({
  type,
  rule,
  take,
}: {
  type: RecordType;
  rule: RuleView;
  take: (text: string) => void;
}) {
  const versions = useQuery({
    queryKey: ["rule-versions", type.name, rule.name],
    queryFn: () => api.ruleVersions(type.name, rule.name),
  });
  return (
    <div className="body">
      <h3>
        <Trans>Versions</Trans>
      </h3>
      {versions.error && <ProblemNote error={versions.error} retry={() => versions.refetch()} />}
      {versions.data?.length === 0 && (
        <p className="muted small">
          <Trans>No saved versions.</Trans>
        </p>
      )}
      {versions.data && versions.data.length > 0 && (
        <Table
          label={t`Versions`}
          rows={versions.data}
          keyOf={(version) => version.version}
          columns={[
            { kind: "number", cell: (version) => version.version },
            {
              cell: (version) => (
                <>
                  {version.note || <span className="muted">{t`no note`}</span>}
                  <div className="muted small">
                    {version.actor}, {moment(version.at)}
                  </div>
                </>
              ),
            },
            {
              kind: "short",
              cell: (version) =>
                version.body === null ? (
                  <span className="muted">
                    <Trans>removed</Trans>
                  </span>
                ) : (
                  <Button
                    size="compact-xs"
                    variant="default"
                    aria-label={t`Load version ${version.version}`}
                    onClick={() => version.body !== null && take(version.body)}
                  >
                    <Trans>Load</Trans>
                  </Button>
                ),
            },
          ]}
        />
      )}
    </div>
  );
}
