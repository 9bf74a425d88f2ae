import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, NativeSelect, Switch, TextInput } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, type MapView, type RecordType, type RecordView } from "../api/client";
import { Empty } from "../ui/Empty";
import { day, figure, number } from "../ui/format";
import { KeyButton } from "../ui/KeyButton";
import { Pager } from "../ui/Pager";
import { ProblemNote } from "../ui/ProblemNote";
import { useAddress } from "../ui/useAddress";
import { useKeys } from "../ui/useKeys";
import { Value } from "../ui/Value";
import { compareAddress, useTray } from "./tray";

const pageSize = 50;

/** The kinds by which an operator tells one party from another at a glance. */
const tellingKinds = ["city", "tax-number", "phone", "email"];

/** A column of the list. */
interface Column {
  name: string;
  title: string;
  sort: string | null;
  number: boolean;
  short: boolean;
  text: (record: RecordView) => string | null | undefined;
}

function columnsOf(type: RecordType): Column[] {
  const field = (kinds: string[]) => type.fields.filter((candidate) => kinds.includes(candidate.kind));
  const names = field(["organisation-name", "person-name"]).slice(0, 1);
  const telling = tellingKinds.flatMap((kind) => field([kind]).slice(0, 1));
  return [
    {
      name: "key",
      title: t`Key`,
      sort: type.key[0] ?? null,
      number: false,
      short: true,
      text: (record) => record.key,
    },
    ...[...names, ...telling].map((each) => ({
      name: each.name,
      title: each.title,
      sort: each.name,
      number: false,
      short: !["organisation-name", "person-name", "email"].includes(each.kind),
      text: (record: RecordView) => record.values[each.name],
    })),
    ...type.figures.slice(0, 4).map((each) => ({
      name: each.name,
      title: each.title,
      sort: null,
      number: true,
      short: true,
      text: (record: RecordView) => figure(each.operation, record.figures[each.name]),
    })),
    {
      name: "changed",
      title: t`Changed`,
      sort: "changed",
      number: false,
      short: true,
      text: (record) => day(record.changed),
    },
  ];
}

/** The list of records: search, sort, page, tick, compare. All of its state is in the address. */
export function RecordsPage({ map }: { map: MapView }) {
  const { type: name = "" } = useParams();
  const type = map.recordTypes.find((candidate) => candidate.name === name);
  if (!type)
    return (
      <Empty title={t`There is no record type “${name}”`}>
        <Trans>Open the records from the side bar, and choose a record type there.</Trans>
      </Empty>
    );
  return <Records key={type.name} map={map} type={type} />;
}

function Records({ map, type }: { map: MapView; type: RecordType }) {
  const { query, set, page, turn } = useAddress();
  const navigate = useNavigate();
  const tray = useTray(type.name);
  const q = query.get("q") ?? "";
  const sort = query.get("sort") ?? "";
  const retired = query.get("retired") === "true";
  const [typed, setTyped] = useState(q);
  const [shown, setShown] = useState(q);
  // Another address, as by the menu or Back, brings its own search along.
  if (shown !== q) {
    setShown(q);
    if (typed === shown) setTyped(q);
  }
  const [cursor, setCursor] = useState(0);
  const rows = useRef<HTMLTableSectionElement>(null);

  const found = useQuery({
    queryKey: ["records", type.name, q, sort, page, retired],
    queryFn: () =>
      api.search(type.name, {
        ...(q && { q }),
        ...(sort && { sort }),
        page,
        size: pageSize,
        ...(retired && { retired }),
      }),
    placeholderData: keepPreviousData,
  });

  const change = (changes: Record<string, string | null>) => {
    setCursor(0);
    set(changes);
  };
  const turnPage = (by: number) => {
    setCursor(0);
    turn(by, pages);
  };

  const search = useRef(change);
  search.current = change;
  useEffect(() => {
    if (typed === q) return;
    const timer = window.setTimeout(() => search.current({ q: typed }), 200);
    return () => window.clearTimeout(timer);
  }, [typed, q]);

  const items = found.data?.items ?? [];
  const pages = Math.max(1, Math.ceil((found.data?.total ?? 0) / pageSize));
  const move = (step: number) => {
    const next = Math.min(Math.max(0, cursor + step), items.length - 1);
    setCursor(next);
    rows.current?.children[next]?.scrollIntoView({ block: "nearest" });
  };
  const compare = () => {
    if (tray.picked.length > 1)
      navigate(
        compareAddress(
          type.name,
          tray.picked.map((record) => record.key),
        ),
      );
  };
  const open = (record: RecordView | undefined) => {
    if (record) navigate(`/records/${type.name}/${encodeURIComponent(record.key)}`);
  };
  useKeys("records", {
    down: () => move(1),
    up: () => move(-1),
    select: () => items[cursor] && tray.toggle(items[cursor]),
    open: (event) => {
      // A link or button that has the focus does its own thing.
      if (event?.target instanceof HTMLElement && event.target.closest("a, button")) event.target.click();
      else open(items[cursor]);
    },
    compare,
    nextPage: () => turnPage(1),
    previousPage: () => turnPage(-1),
  });

  const columns = columnsOf(type);
  const whyNot =
    tray.picked.length < 2
      ? tray.picked.length === 1
        ? t`Select one more to compare.`
        : t`Select two or more to compare.`
      : null;
  return (
    <>
      <div className="page-head">
        <h1>{type.plural}</h1>
        {map.recordTypes.length > 1 && (
          <NativeSelect
            size="xs"
            aria-label={t`Record type`}
            value={type.name}
            data={map.recordTypes.map((each) => ({ value: each.name, label: each.plural }))}
            onChange={(event) => navigate(`/records/${event.currentTarget.value}`)}
          />
        )}
        <span className="muted" aria-live="polite">
          {found.data
            ? `${number(found.data.total)} ${(found.data.total === 1 ? type.title : type.plural).toLowerCase()}`
            : found.isPending
              ? t`Loading…`
              : null}
        </span>
      </div>
      <div className="bar">
        <TextInput
          data-search
          aria-label={t`Search ${type.plural.toLowerCase()}`}
          placeholder={t`Words, * and ?, field:word`}
          w={420}
          value={typed}
          onChange={(event) => setTyped(event.currentTarget.value)}
          onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
        />
        <Switch
          label={t`Include merged records`}
          checked={retired}
          onChange={(event) => change({ retired: event.currentTarget.checked ? "true" : null })}
        />
        <span className="push">
          <Pager page={page} pages={pages} turn={turnPage} />
        </span>
      </div>
      {found.error && <ProblemNote error={found.error} retry={() => found.refetch()} />}
      {!found.error && (
        <div className="panel scroll" aria-busy={found.isFetching}>
          <table className="rows">
            <thead>
              <tr>
                <th>
                  <span className="visually-hidden">
                    <Trans>Selected</Trans>
                  </span>
                </th>
                {columns.map((column) => (
                  <Head key={column.name} column={column} sort={sort} change={change} />
                ))}
              </tr>
            </thead>
            <tbody ref={rows}>
              {found.isPending && <GhostRows columns={columns.length + 1} />}
              {items.map((record, index) => (
                <tr
                  key={record.key}
                  className={index === cursor ? "cursor" : undefined}
                  aria-selected={tray.has(record.key)}
                >
                  <td>
                    <Checkbox
                      size="xs"
                      aria-label={t`Select ${record.label}`}
                      checked={tray.has(record.key)}
                      disabled={record.retired !== null}
                      title={record.retired ? t`Merged into ${record.retired.master}.` : undefined}
                      onChange={() => {
                        setCursor(index);
                        tray.toggle(record);
                      }}
                    />
                  </td>
                  {columns.map((column, at) => (
                    <td
                      key={column.name}
                      className={column.number ? "number" : column.short ? "short" : undefined}
                    >
                      {at <= 1 ? (
                        <Link to={`/records/${type.name}/${encodeURIComponent(record.key)}`}>
                          <Value text={column.text(record)} clip />
                        </Link>
                      ) : column.number ? (
                        column.text(record)
                      ) : (
                        <Value text={column.text(record)} clip />
                      )}
                      {at === 1 && record.retired && (
                        <span className="muted">
                          {" "}
                          <Trans>retired, now {record.retired.master}</Trans>
                        </span>
                      )}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          {found.isSuccess && items.length === 0 && (
            <Empty title={t`No ${type.plural.toLowerCase()} found`}>
              {q
                ? t`A word is found anywhere in a value; with * or ? it must match the whole value. Try fewer or shorter words.`
                : t`The table has no records yet.`}
            </Empty>
          )}
        </div>
      )}
      {tray.picked.length > 0 && (
        <section className="tray" aria-label={t`Selected records`}>
          <strong>
            <Trans>{plural(tray.picked.length, { one: "# record", other: "# records" })} selected</Trans>
          </strong>
          <span className="picked">
            {tray.picked.map((record) => (
              <span key={record.key} className="chip">
                {record.key} {record.label}
                <button
                  type="button"
                  aria-label={t`Remove ${record.label}`}
                  onClick={() => tray.toggle(record)}
                >
                  ×
                </button>
              </span>
            ))}
          </span>
          <span className="push why">{whyNot ?? ""}</span>
          <Button variant="default" size="sm" onClick={tray.clear}>
            <Trans>Clear selection</Trans>
          </Button>
          <KeyButton
            scope="records"
            action="compare"
            label={t`Compare`}
            variant="filled"
            size="sm"
            whyNot={whyNot}
            press={compare}
          />
        </section>
      )}
    </>
  );
}

function Head({
  column,
  sort,
  change,
}: {
  column: Column;
  sort: string;
  change: (changes: Record<string, string | null>) => void;
}) {
  if (!column.sort) return <th className={column.number ? "number" : undefined}>{column.title}</th>;
  const up = sort === column.sort;
  const down = sort === `-${column.sort}`;
  return (
    <th aria-sort={up ? "ascending" : down ? "descending" : undefined}>
      <button
        type="button"
        onClick={() => change({ sort: up ? `-${column.sort}` : down ? null : column.sort })}
      >
        {column.title} <span aria-hidden>{up ? "▲" : down ? "▼" : ""}</span>
      </button>
    </th>
  );
}

function GhostRows({ columns }: { columns: number }) {
  return Array.from({ length: 12 }, (_, row) => (
    <tr key={row} className="ghost-row" aria-hidden>
      {Array.from({ length: columns }, (_, column) => (
        <td key={column} />
      ))}
    </tr>
  ));
}
