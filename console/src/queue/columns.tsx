import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, Popover } from "@mantine/core";
import { type ReactNode, useMemo, useState } from "react";
import type { Cluster, MapView } from "../api/client";
import { amount, day, number, since } from "../ui/format";

/** A column of the queue that can be shown or left out. */
export interface Column {
  name: string;
  title: string;
  isNumber?: true;
  /** The order that a press on its head asks for. */
  order?: string;
  cell: (cluster: Cluster) => ReactNode;
}

/** The columns beside confidence and records, in their order. */
export const columns: Column[] = [
  {
    name: "amount",
    title: t`Amount`,
    isNumber: true,
    order: "amount",
    cell: (cluster) => (cluster.amount ? amount(cluster.amount) : ""),
  },
  {
    name: "related",
    title: t`Related`,
    isNumber: true,
    order: "impact",
    cell: (cluster) => number(cluster.relatedRows),
  },
  {
    name: "found",
    title: t`Found`,
    order: "age",
    cell: (cluster) => <span title={day(cluster.foundAt)}>{since(cluster.foundAt)}</span>,
  },
  { name: "assignee", title: t`Assigned`, cell: (cluster) => cluster.assignee ?? "" },
  { name: "rule", title: t`Rule`, cell: (cluster) => cluster.rule },
];

const key = "kettlefog queue columns";

/**
 * The columns that are shown; the choice is kept in this browser. Groups of several record types say which each is of.
 */
export function useColumns(
  map: MapView,
  isMixed: boolean,
): { shown: Column[]; chosen: string[]; show: (name: string, isShown: boolean) => void } {
  const [chosen, choose] = useState(() => (localStorage.getItem(key) ?? "amount").split(" "));
  const shown = useMemo(() => {
    const title = (name: string) => map.recordTypes.find((each) => each.name === name)?.title ?? name;
    const type: Column = { name: "type", title: t`Type`, cell: (cluster) => title(cluster.recordType) };
    return [...(isMixed ? [type] : []), ...columns.filter((column) => chosen.includes(column.name))];
  }, [map, isMixed, chosen]);
  return {
    shown,
    chosen,
    show: (name, isShown) => {
      const next = [...chosen.filter((each) => each !== name), ...(isShown ? [name] : [])];
      localStorage.setItem(key, next.join(" "));
      choose(next);
    },
  };
}

/** Chooses the columns. */
export function ColumnChooser({
  chosen,
  show,
}: {
  /** The names of the columns that are shown. */
  chosen: string[];
  show: (name: string, isShown: boolean) => void;
}) {
  return (
    <Popover trapFocus returnFocus position="bottom-end" transitionProps={{ duration: 0 }}>
      <Popover.Target>
        <Button size="xs" variant="default">
          <Trans>Columns</Trans>
        </Button>
      </Popover.Target>
      <Popover.Dropdown className="more-filters" aria-label={t`Columns`}>
        {columns.map((column) => (
          <Checkbox
            key={column.name}
            size="xs"
            label={column.title}
            checked={chosen.includes(column.name)}
            onChange={(event) => show(column.name, event.currentTarget.checked)}
          />
        ))}
      </Popover.Dropdown>
    </Popover>
  );
}
