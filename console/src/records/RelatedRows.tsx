import { t } from "@lingui/core/macro";
import { TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas } from "../api/client";
import { amount, day, number } from "../ui/format";
import { Pager } from "../ui/Pager";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { Table } from "../ui/Table";
import { Value } from "../ui/Value";

const pageSize = 20;

/** Fewer rows are seen at a glance. */
const leastToSearch = 5;

type Column = Schemas["RelatedColumn"];

/** Figures are put below each other by their last digit. */
const isNumeric = (column: Column) => column.kind === "amount" || column.kind === "number";

/** A value as people write values of its kind; one that is of another kind stays as it is. */
function written(column: Column, value: string | null): string | null {
  if (value === null) return null;
  if (column.kind === "amount") return amount(value);
  return column.kind === "date" ? day(value) : value;
}

/** The related rows of a record by one reference, page by page. */
export function RelatedRows({
  type,
  record,
  reference,
}: {
  type: string;
  record: string;
  reference: string;
}) {
  const [page, setPage] = useState(1);
  const [typed, setTyped] = useState("");
  const [q] = useDebouncedValue(typed.trim(), 250);
  const rows = useQuery({
    queryKey: ["related", type, record, reference, page, q],
    queryFn: () => api.related(type, record, reference, page, pageSize, q),
    placeholderData: keepPreviousData,
  });
  if (rows.error && !q) return <ProblemNote error={rows.error} retry={() => rows.refetch()} />;
  if (!rows.data) return <Reading what={t`the rows`} />;
  const { columns, rows: found, total, title } = rows.data;
  const pages = Math.max(1, Math.ceil(total / pageSize));
  return (
    <>
      {(total > leastToSearch || typed !== "") && (
        <TextInput
          size="xs"
          m={8}
          maw={320}
          aria-label={t`Search ${title.toLowerCase()}`}
          placeholder={t`Search ${title.toLowerCase()}; * and ? stand for letters`}
          value={typed}
          error={rows.error?.message}
          onChange={(event) => {
            setPage(1);
            setTyped(event.currentTarget.value);
          }}
        />
      )}
      <div className="scroll">
        <Table
          rows={found}
          keyOf={(row) => row[0] ?? ""}
          isBusy={rows.isFetching}
          columns={columns.map((column, at) => ({
            head: column.title,
            title: column.name,
            kind: isNumeric(column) ? "number" : undefined,
            cell: (row: (typeof found)[number]) => <Value text={written(column, row[at] ?? null)} clip />,
          }))}
        />
      </div>
      <div className="body bar" style={{ margin: 0, padding: "8px 12px" }}>
        <span className="muted">
          {rows.isPlaceholderData
            ? t`Loading…`
            : total > 0
              ? q
                ? t`${number(total)} found`
                : t`${number(total)} in all`
              : q
                ? t`No matches.`
                : t`There are no ${title.toLowerCase()}.`}
        </span>
        {pages > 1 && (
          <span className="push">
            <Pager page={page} pages={pages} turn={(by) => setPage((now) => now + by)} />
          </span>
        )}
      </div>
    </>
  );
}
