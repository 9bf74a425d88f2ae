import { Button } from "@mantine/core";
import { Fragment, type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { Plan, PlanField } from "../api/client";
import { day, figure } from "../ui/format";
import { useKeys } from "../ui/useKeys";
import { Value } from "../ui/Value";
import { because, type Comparison } from "./choices";
import { FieldEditor } from "./FieldEditor";

interface Props {
  plan: Plan;
  comparison: Comparison;
  choose: (field: string, key: string) => void;
  typeIn: (field: string, text: string) => Promise<void>;
  backToRule: (field: string) => void;
  makeMaster: (key: string) => void;
  leaveOut: (key: string) => void;
}

/**
 * Records side by side: a row a field, a column a record, and before them the value that stays. The columns keep
 * their order when the master changes, so that nothing jumps.
 */
export function CompareGrid({ plan, comparison, choose, typeIn, backToRule, makeMaster, leaveOut }: Props) {
  const [cursor, setCursor] = useState({ row: 0, column: 0 });
  const [editing, setEditing] = useState<string | null>(null);
  const grid = useRef<HTMLTableElement>(null);
  const order = comparison.keys
    .map((key) => plan.records.findIndex((record) => record.key === key))
    .filter((index) => index >= 0);
  const keyOf = (index: number) => plan.records[index]?.key ?? "";
  const mapped = plan.fields.filter((field) => field.kind !== "unmapped");
  const shown = mapped.filter((field) => comparison.all || field.differs || field.changes);
  const hidden = plan.fields.filter(
    (field) => field.kind === "unmapped" && (comparison.all || field.differs),
  );
  const row = Math.min(cursor.row, Math.max(0, shown.length - 1));
  const column = Math.min(cursor.column, order.length - 1);
  const current = shown[row];

  const focus = (toRow: number, toColumn: number) => {
    const next = {
      row: Math.min(Math.max(0, toRow), shown.length - 1),
      column: Math.min(Math.max(0, toColumn), order.length - 1),
    };
    setCursor(next);
    grid.current?.querySelector<HTMLElement>(`[data-cell="${next.row}.${next.column}"]`)?.focus();
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (!(event.target instanceof HTMLElement) || !event.target.dataset.cell) return;
    const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
    if (!step) return;
    event.preventDefault();
    focus(row + (step[0] ?? 0), column + (step[1] ?? 0));
  };
  useKeys({
    ArrowDown: () => focus(row, column),
    e: () => current && setEditing(current.name),
    r: () => current && backToRule(current.name),
    m: () => makeMaster(keyOf(order[column] ?? 0)),
  });

  // Whoever comes by keyboard starts at the first value.
  useEffect(() => {
    grid.current?.querySelector<HTMLElement>('[data-cell="0.0"]')?.focus({ preventScroll: true });
  }, []);

  const edit = async (field: string, text: string) => {
    await typeIn(field, text);
    setEditing(null);
  };
  let group: string | null = null;
  return (
    <table className="compare" ref={grid} onKeyDown={onKeyDown}>
      <colgroup>
        <col style={{ width: 168 }} />
        <col style={{ width: order.length > 3 ? 220 : 280 }} />
        {order.map((index) => (
          <col key={index} style={{ minWidth: 180 }} />
        ))}
      </colgroup>
      <thead>
        <tr>
          <th scope="col">
            <span className="visually-hidden">Field</span>
          </th>
          <th scope="col">
            <strong>What stays</strong>
            <div className="muted small">on {keyOf(0)}</div>
          </th>
          {order.map((index) => (
            <RecordHead
              key={index}
              record={plan.records[index] as Plan["records"][number]}
              isMaster={index === 0}
              makeMaster={makeMaster}
              leaveOut={order.length > 2 ? leaveOut : null}
            />
          ))}
        </tr>
      </thead>
      <tbody>
        {plan.figures.map((each) => (
          <tr key={each.name} className="figure">
            <th scope="row">{each.title}</th>
            <td className="stays">
              {figure(each.operation, each.after)}
              {each.control && <span className="muted small"> control total</span>}
            </td>
            {order.map((index) => (
              <td key={index} className="plain">
                {figure(each.operation, each.before[index])}
              </td>
            ))}
          </tr>
        ))}
        {shown.map((field, at) => {
          const heading = field.group !== group ? field.group : null;
          group = field.group;
          return (
            <Fragment key={field.name}>
              {heading && (
                <tr className="group">
                  <th colSpan={order.length + 2} scope="colgroup">
                    {heading}
                  </th>
                </tr>
              )}
              <tr>
                <th scope="row">
                  {field.differs ? (
                    <>
                      <span className="sign" aria-hidden>
                        ≠
                      </span>
                      <span className="visually-hidden">differs: </span>
                    </>
                  ) : (
                    <span className="sign" />
                  )}
                  {field.title}
                </th>
                <td className="stays">
                  {editing === field.name ? (
                    <FieldEditor
                      field={field}
                      save={(text) => edit(field.name, text)}
                      cancel={() => setEditing(null)}
                    />
                  ) : (
                    <Outcome
                      field={field}
                      keyOf={keyOf}
                      edit={() => setEditing(field.name)}
                      backToRule={() => backToRule(field.name)}
                    />
                  )}
                </td>
                {order.map((index, place) => (
                  <td key={index}>
                    <button
                      type="button"
                      className="value-cell"
                      data-cell={`${at}.${place}`}
                      tabIndex={at === row && place === column ? 0 : -1}
                      aria-pressed={field.from === index}
                      aria-label={`${field.title} of ${keyOf(index)}: ${field.values[index] || "blank"}`}
                      onFocus={() => setCursor({ row: at, column: place })}
                      onClick={() => choose(field.name, keyOf(index))}
                    >
                      <span className="dot" aria-hidden>
                        {field.from === index ? "●" : "○"}
                      </span>
                      <Value text={field.values[index]} beside={field.value} />
                    </button>
                  </td>
                ))}
              </tr>
            </Fragment>
          );
        })}
        {shown.length === 0 && (
          <tr>
            <td colSpan={order.length + 2} className="plain muted">
              All fields are the same. Show everything (d) to see them.
            </td>
          </tr>
        )}
        {hidden.length > 0 && (
          <tr className="group">
            <th colSpan={order.length + 2} scope="colgroup">
              Columns that the map does not name <span className="muted">(the master's stay)</span>
            </th>
          </tr>
        )}
        {hidden.map((field) => (
          <tr key={field.name}>
            <th scope="row">
              <span className="sign" aria-hidden>
                {field.differs ? "≠" : ""}
              </span>
              {field.title}
            </th>
            <td className="stays">
              <Value text={field.value} />
            </td>
            {order.map((index) => (
              <td key={index} className="plain">
                <Value text={field.values[index]} />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function RecordHead({
  record,
  isMaster,
  makeMaster,
  leaveOut,
}: {
  record: Plan["records"][number];
  isMaster: boolean;
  makeMaster: (key: string) => void;
  leaveOut: ((key: string) => void) | null;
}) {
  return (
    <th scope="col">
      <span className={isMaster ? "role-master" : "role-duplicate"}>{isMaster ? "Master" : "Duplicate"}</span>{" "}
      <span className="muted">{record.key}</span>
      <div style={{ fontWeight: 600 }} className="clip" dir="auto">
        {record.label}
      </div>
      <div className="muted small">
        Created {day(record.created) || "unknown"}, changed {day(record.changed) || "unknown"}
      </div>
      <div className="muted small">
        {record.source ? `From ${record.source}` : "Source unknown"}
        {record.owner ? `, owner ${record.owner}` : ""}
      </div>
      <div style={{ display: "flex", gap: 6, marginTop: 4, minHeight: 24 }}>
        {!isMaster && (
          <Button size="compact-xs" variant="default" onClick={() => makeMaster(record.key)}>
            Make master
          </Button>
        )}
        {leaveOut && (
          <Button size="compact-xs" variant="default" onClick={() => leaveOut(record.key)}>
            Leave out
          </Button>
        )}
      </div>
    </th>
  );
}

function Outcome({
  field,
  keyOf,
  edit,
  backToRule,
}: {
  field: PlanField;
  keyOf: (index: number) => string;
  edit: () => void;
  backToRule: () => void;
}) {
  return (
    <div className="outcome">
      <strong>
        <Value text={field.value} />
      </strong>
      <span>
        {(field.chosenBy === "operator" || field.chosenBy === "typed") && (
          <button
            type="button"
            className="word-button"
            onClick={backToRule}
            aria-label={`Back to the rule for ${field.title}`}
            title="Back to the field's rule (r)"
          >
            rule
          </button>
        )}
        <button
          type="button"
          className="word-button"
          onClick={edit}
          aria-label={`Type a value for ${field.title}`}
          title="Type a value (e)"
        >
          type
        </button>
      </span>
      <div className="muted small">
        {because(field, keyOf)}
        {field.changes && (
          <>
            {"; "}
            {field.values[0] ? "replaces the master's" : "fills the master's blank"}
          </>
        )}
      </div>
    </div>
  );
}
