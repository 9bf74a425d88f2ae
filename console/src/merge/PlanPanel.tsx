import { Button, Checkbox } from "@mantine/core";
import type { Plan } from "../api/client";
import { amount, counted, figure } from "../ui/format";
import { Term } from "../ui/Term";
import { Value } from "../ui/Value";

const pastPolicies: Record<string, string> = {
  reassign: "moved to the master",
  leave: "stayed with the retired record",
  block: "there were none",
};

const policies: Record<string, string> = {
  reassign: "move to the master",
  leave: "stay with the retired record",
  block: "must be none",
};

/** How many rows move: those that are removed because they collide do not. */
export const movedBy = (move: Plan["moves"][number]) => move.count - (move.removed ?? 0);

/** References under which the duplicates have nothing need no line, unless rows are left with them by choice. */
const isShown = (move: Plan["moves"][number]) => move.count > 0 || move.policy === "leave";

/** What a merge did, or would do: related rows, control totals, values that leave the master. */
export function PlanPanel({ plan, done }: { plan: Plan; done?: boolean }) {
  return (
    <div className="columns">
      <RelatedMoves plan={plan} {...(done && { done })} />
      <div style={{ display: "grid", gap: 12 }}>
        <ControlTotals plan={plan} {...(done && { done })} />
        <Overwritten plan={plan} />
      </div>
    </div>
  );
}

/** The related rows: how many, of which kinds, and what happens to them. */
export function RelatedMoves({
  plan,
  done,
  exclude,
  keepRunning,
}: {
  plan: Plan;
  done?: boolean;
  /** Lets nothing end after all. */
  keepRunning?: () => void;
  exclude?: { chosen: string[]; change: (reference: string, excluded: boolean) => void };
}) {
  const collisions = plan.moves.flatMap((move) => move.collisions.map((collision) => ({ move, collision })));
  return (
    <section className="panel">
      <header>
        <h2>Related records</h2>
      </header>
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>Rows</th>
              <th>Table</th>
              <th>Effect</th>
              <th className="number">On the master</th>
              <th className="number">On the duplicates</th>
              <th className="number">Amount</th>
            </tr>
          </thead>
          <tbody>
            {plan.moves.filter(isShown).map((move) => (
              <tr key={move.reference}>
                <td>{move.title}</td>
                <td className="muted">{move.table}</td>
                <td>
                  {move.count === 0 ? (
                    <span className="muted">nothing</span>
                  ) : (
                    (done ? pastPolicies : policies)[move.policy]
                  )}
                  {exclude && move.mayExclude && (move.count > 0 || move.policy === "leave") && (
                    <Checkbox
                      size="xs"
                      label={`leave ${move.title.toLowerCase()} with the retired`}
                      checked={exclude.chosen.includes(move.reference)}
                      onChange={(event) => exclude.change(move.reference, event.currentTarget.checked)}
                    />
                  )}
                </td>
                <td className="number">{move.counts[0]}</td>
                <td className="number">
                  {movedBy(move)}
                  {(move.removed ?? 0) > 0 && <span className="muted"> (+{move.removed} removed)</span>}
                </td>
                <td className="number">{move.amount === null ? "" : amount(move.amount)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {(plan.ended?.length ?? 0) > 0 && (
        <div className="body">
          {plan.ended?.map((row) => (
            <div key={`${row.title} ${row.record} ${row.key}`}>
              {row.title} {row.key} of {row.record} {done ? "ended" : "ends"} with the merge.
            </div>
          ))}
          {keepRunning && (
            <Button size="compact-sm" variant="default" mt={6} onClick={keepRunning}>
              End nothing
            </Button>
          )}
        </div>
      )}
      {done &&
        plan.reopened?.map((pair) => (
          <div key={`${pair.a} ${pair.b}`} className="body">
            {pair.a} and {pair.b} had been marked as not duplicates (history entry {pair.number}); the merge
            reopened that decision.
          </div>
        ))}
      {(plan.added?.length ?? 0) > 0 && (
        <div className="body">
          {plan.added?.map((row) => (
            <div key={`${row.field} ${row.value}`}>
              {row.field} <Value text={row.value} /> of {row.record} {done ? "was" : "is"} added to the
              master's {row.rows.toLowerCase()}.
            </div>
          ))}
        </div>
      )}
      {plan.timeline && (
        <div className="body muted">
          A row {done ? "was" : "is"} added to {plan.timeline} for the master.
        </div>
      )}
      {collisions.length > 0 && (
        <ul className="body" style={{ margin: 0, paddingLeft: 28 }} aria-label="Conflicts">
          {collisions.map(({ move, collision }) => (
            <li key={`${move.reference} ${collision.kept}`}>
              {move.title}: <strong>{collision.kept}</strong> {done ? "was kept" : "is kept"}
              {Object.entries(collision.changes)
                .map(([column, value]) => `, ${column} ${value ? `'${value}'` : "blank"}`)
                .join("")}
              ; {collision.removed.map((row) => row.key).join(", ")} {done ? "was" : "is"} removed as a repeat
              ({collision.values} must be unique)
              {collision.dependentsMoved > 0 &&
                `; ${counted(collision.dependentsMoved, "record", "records")} below it ${done ? "moved" : "move"} too`}
              .
              {collision.removed.flatMap((row) =>
                (row.differences ?? []).map((each) => (
                  <div key={`${row.key} ${each.column}`}>
                    They differ: {each.column} of {row.key} {done ? "was" : "is"}{" "}
                    <Value text={each.removed} />, and <Value text={each.kept} /> {done ? "was" : "is"} kept.
                  </div>
                )),
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** The totals that must be the same before and after. */
export function ControlTotals({ plan, done }: { plan: Plan; done?: boolean }) {
  const controls = plan.figures.filter((each) => each.control);
  if (controls.length === 0) return null;
  return (
    <section className="panel">
      <header>
        <h2>
          <Term name="controlTotals">Control totals</Term>
        </h2>
        <span className="muted small">
          {done ? "checked before the merge was committed" : "checked before the merge is committed"}
        </span>
      </header>
      <table className="rows">
        <thead>
          <tr>
            <th>Total</th>
            <th className="number">Before, by record</th>
            <th className="number">Master after</th>
          </tr>
        </thead>
        <tbody>
          {controls.map((each) => (
            <tr key={each.name}>
              <td>{each.title}</td>
              <td className="number parts">
                {each.before.map((part) => figure(each.operation, part)).join(" + ")}
              </td>
              <td className="number">
                <span aria-hidden>= </span>
                {figure(each.operation, each.after)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The values of the master that others take the place of. */
function Overwritten({ plan }: { plan: Plan }) {
  const overwritten = plan.fields.filter((field) => field.changes && field.values[0]);
  return (
    <section className="panel">
      <header>
        <h2>Overwritten on the master</h2>
      </header>
      <div className="body">
        {overwritten.length === 0 ? (
          <span className="muted">No value of the master is overwritten.</span>
        ) : (
          <ul style={{ margin: 0, paddingLeft: 18 }}>
            {overwritten.map((field) => (
              <li key={field.name}>
                {field.title}: <Value text={field.values[0]} /> becomes <Value text={field.value} />
              </li>
            ))}
          </ul>
        )}
        <div className="muted small" style={{ marginTop: 6 }}>
          Every old value is kept; the merge can be reversed at any time.
        </div>
      </div>
    </section>
  );
}

/** A plan in one sentence. */
export function planInShort(plan: Plan): string {
  const rows = plan.moves
    .filter((move) => move.policy === "reassign")
    .reduce((sum, move) => sum + movedBy(move), 0);
  const changes = plan.fields.filter((field) => field.changes).length;
  const along = plan.linked?.length ?? 0;
  return `${counted(rows, "related record moves", "related records move")}, ${counted(changes, "value changes", "values change")} on the master${along > 0 ? ` and ${counted(along, "linked merge is", "linked merges are")} included` : ""}`;
}
