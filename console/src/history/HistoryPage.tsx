import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select, TextInput } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type MapView } from "../api/client";
import { Empty } from "../ui/Empty";
import { Pager } from "../ui/Pager";
import { ProblemNote } from "../ui/ProblemNote";
import { useAddress } from "../ui/useAddress";
import { useKeys } from "../ui/useKeys";
import { EntryTable } from "./EntryTable";
import { useHistoryCheck } from "./HistoryCheck";

const pageSize = 50;

/** What was done, latest first. */
export function HistoryPage({ map }: { map: MapView }) {
  const { query, set: change, page, turn } = useAddress();
  const filter = {
    type: query.get("type") ?? "",
    record: query.get("record") ?? "",
    actor: query.get("actor") ?? "",
    kind: query.get("kind") ?? "",
    rule: query.get("rule") ?? "",
    since: query.get("since") ?? "",
    until: query.get("until") ?? "",
  };
  const given = Object.fromEntries(Object.entries(filter).filter(([, value]) => value));
  const exported = (format: string) => `/api/exports/history?${new URLSearchParams({ ...given, format })}`;
  const history = useQuery({
    queryKey: ["history", given, page],
    queryFn: () => api.history({ ...given, page, size: pageSize }),
    placeholderData: keepPreviousData,
  });
  const check = useHistoryCheck();
  const pages = Math.max(1, Math.ceil((history.data?.total ?? 0) / pageSize));
  useKeys("history", {
    nextPage: () => turn(1, pages),
    previousPage: () => turn(-1, pages),
  });
  return (
    <>
      <div className="page-head">
        <h1>
          <Trans>History</Trans>
        </h1>
        <span className="muted" aria-live="polite">
          {history.data
            ? plural(history.data.total, { one: "# entry", other: "# entries" })
            : history.isPending
              ? t`Loading…`
              : null}
        </span>
        <span className="push" />
        {check.button}
        <span>
          <Trans>
            What is listed as{" "}
            <a href={exported("csv")} download="history.csv">
              CSV
            </a>{" "}
            or{" "}
            <a href={exported("jsonl")} download="history.jsonl">
              JSON Lines
            </a>
          </Trans>
        </span>
      </div>
      <div className="bar">
        <TextInput
          data-search
          aria-label={t`Key of a record`}
          w={130}
          placeholder={t`Key of a record`}
          value={filter.record}
          onChange={(event) => change({ record: event.currentTarget.value })}
        />
        <TextInput
          aria-label={t`User`}
          w={100}
          placeholder={t`User`}
          value={filter.actor}
          onChange={(event) => change({ actor: event.currentTarget.value })}
        />
        <TextInput
          aria-label={t`Rule`}
          placeholder={t`Rule`}
          w={90}
          value={filter.rule}
          onChange={(event) => change({ rule: event.currentTarget.value })}
        />
        <span className="muted small">
          <Trans>from</Trans>
        </span>
        <TextInput
          type="date"
          aria-label={t`From the day (UTC)`}
          value={filter.since}
          onChange={(event) => change({ since: event.currentTarget.value })}
        />
        <span className="muted small">
          <Trans>before</Trans>
        </span>
        <TextInput
          type="date"
          aria-label={t`Before the day (UTC)`}
          value={filter.until}
          onChange={(event) => change({ until: event.currentTarget.value })}
        />
        <Select
          aria-label={t`Kind`}
          w={190}
          placeholder={t`Merges and reversals`}
          clearable
          clearButtonProps={{ "aria-label": t`Show merges and reversals` }}
          data={[
            { value: "merge", label: t`Merges` },
            { value: "reversal", label: t`Reversals` },
            { value: "non-duplicates", label: t`Not duplicates` },
            { value: "reopened", label: t`Reopened` },
          ]}
          value={filter.kind || null}
          onChange={(value) => change({ kind: value })}
        />
        {map.recordTypes.length > 1 && (
          <Select
            aria-label={t`Record type`}
            w={144}
            placeholder={t`All record types`}
            clearable
            clearButtonProps={{ "aria-label": t`Show all record types` }}
            data={map.recordTypes.map((type) => ({ value: type.name, label: type.plural }))}
            value={filter.type || null}
            onChange={(value) => change({ type: value })}
          />
        )}
        <span className="push">
          <Pager page={page} pages={pages} turn={(by) => turn(by, pages)} />
        </span>
      </div>
      {check.result}
      {history.error && <ProblemNote error={history.error} retry={() => history.refetch()} />}
      {history.data && (
        <div className="panel" aria-busy={history.isFetching}>
          {history.data.items.length > 0 ? (
            <EntryTable entries={history.data.items} />
          ) : Object.keys(given).length > 0 ? (
            <Empty title={t`No matching entries`}>
              <Trans>Remove a filter to see more.</Trans>
            </Empty>
          ) : (
            <Empty title={t`Nothing was merged yet`}>
              <Trans>Every merge and reversal is listed here, with all old values.</Trans>
            </Empty>
          )}
        </div>
      )}
    </>
  );
}
