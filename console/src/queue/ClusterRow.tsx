import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { MessageSquareText } from "lucide-react";
import { memo } from "react";
import { Link } from "react-router";
import type { Cluster } from "../api/client";
import { day } from "../ui/format";
import { Value } from "../ui/Value";
import type { Column } from "./columns";
import { Gauge } from "./Gauge";

/** The height of a row, in pixels: the list knows where each is without having drawn it. */
export const rowHeight = 46;

/** A cluster in the queue; drawn again only when it, or what is done with it, changes. */
export const ClusterRow = memo(function ClusterRow({
  index,
  cluster,
  labelKind,
  shown,
  address,
  isCursor,
  isTicked,
  tick,
  focus,
}: {
  index: number;
  cluster: Cluster | undefined;
  /** The kind of the field that labels consist of, if it is one. */
  labelKind: string | undefined;
  /** The columns beside confidence and records. */
  shown: Column[];
  address: string;
  isCursor: boolean;
  isTicked: boolean;
  /** Selects or clears the row; with Shift, all from the last one to it. */
  tick: (index: number, cluster: Cluster, isRange: boolean) => void;
  /** Called when something in the row has the focus: then it is the row that keys mean. */
  focus: (index: number) => void;
}) {
  const style = { height: rowHeight };
  if (!cluster) {
    return (
      <tr aria-rowindex={index + 2} className="ghost-row" style={style}>
        <td colSpan={3 + shown.length}>
          <span className="visually-hidden">
            <Trans>Loading</Trans>
          </span>
        </td>
      </tr>
    );
  }
  const [first, second] = cluster.records;
  const others = cluster.records.length - 2;
  const comments = cluster.comments ?? 0;
  const state = stateOf(cluster);
  return (
    <tr
      aria-rowindex={index + 2}
      aria-selected={isTicked}
      className={isCursor ? "cursor" : undefined}
      style={style}
      onFocus={() => focus(index)}
    >
      <td>
        <input
          type="checkbox"
          className="tick"
          aria-label={t`Select group ${cluster.id}`}
          checked={isTicked}
          onChange={() => {}}
          onClick={(event) => tick(index, cluster, event.shiftKey)}
        />
      </td>
      <td>
        <Gauge percent={cluster.confidence} />
      </td>
      <td className="who">
        <Link to={address} dir="auto" title={cluster.records.map((record) => record.label).join("\n")}>
          {first?.label}
        </Link>
        <div className="small" dir="auto">
          <Value text={second?.label} beside={first?.label ?? null} kind={labelKind} />
          {others > 0 && (
            <span className="muted">
              <Trans>, and {plural(others, { one: "# more", other: "# more" })}</Trans>
            </span>
          )}
          {comments > 0 && (
            <span className="muted" title={plural(comments, { one: "# comment", other: "# comments" })}>
              {" "}
              <MessageSquareText size={13} aria-hidden className="mark" />
              <span className="visually-hidden">
                {plural(comments, { one: "# comment", other: "# comments" })}
              </span>
              <span aria-hidden>{comments}</span>
            </span>
          )}
          {state && (
            <strong title={cluster.postponedReason ?? undefined}>
              {"; "}
              {state}
            </strong>
          )}
        </div>
      </td>
      {shown.map((column) => (
        <td key={column.name} className={column.isNumber && "number"}>
          {column.cell(cluster)}
        </td>
      ))}
    </tr>
  );
});

/** Who a group is assigned to, or its state. */
function stateOf(cluster: Cluster): string {
  if (cluster.assignee) return t`assigned to ${cluster.assignee}`;
  if (cluster.postponedUntil && cluster.state === "postponed")
    return t`postponed until ${day(cluster.postponedUntil)}`;
  if (cluster.state === "non-duplicates") return t`not duplicates`;
  return cluster.state === "open" ? "" : cluster.state;
}
