import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox } from "@mantine/core";
import type { Plan } from "../api/client";
import { amount, figure, listed, number } from "../ui/format";
import { Table } from "../ui/Table";
import { Term } from "../ui/Term";
import { Value } from "../ui/Value";

const pastPolicies: Record<string, string> = {
  reassign: t`moved to the master`,
  leave: t`stayed with the retired record`,
  block: t`there were none`,
};

const policies: Record<string, string> = {
  reassign: t`move to the master`,
  leave: t`stay with the retired record`,
  block: t`must be none`,
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
        <h2>
          <Trans>Related records</Trans>
        </h2>
      </header>
      <div className="scroll">
        <Table
          rows={plan.moves.filter(isShown)}
          keyOf={(move) => move.reference}
          columns={[
            { head: t`Rows`, cell: (move) => move.title },
            { head: t`Table`, kind: "muted", cell: (move) => move.table },
            {
              head: t`Effect`,
              cell: (move) => (
                <>
                  {move.count === 0 ? (
                    <span className="muted">
                      <Trans>nothing</Trans>
                    </span>
                  ) : (
                    (done ? pastPolicies : policies)[move.policy]
                  )}
                  {exclude && move.mayExclude && (move.count > 0 || move.policy === "leave") && (
                    <Checkbox
                      size="xs"
                      label={t`leave ${move.title.toLowerCase()} with the retired`}
                      checked={exclude.chosen.includes(move.reference)}
                      onChange={(event) => exclude.change(move.reference, event.currentTarget.checked)}
                    />
                  )}
                </>
              ),
            },
            { head: t`On the master`, kind: "number", cell: (move) => number(move.counts[0] ?? 0) },
            {
              head: t`On the duplicates`,
              kind: "number",
              cell: (move) => (
                <>
                  {number(movedBy(move))}
                  {(move.removed ?? 0) > 0 && (
                    <span className="muted">
                      {" "}
                      <Trans>(+{number(move.removed ?? 0)} removed)</Trans>
                    </span>
                  )}
                </>
              ),
            },
            { head: t`Amount`, kind: "number", cell: (move) => amount(move.amount) },
          ]}
        />
      </div>
      {(plan.ended?.length ?? 0) > 0 && (
        <div className="body">
          {plan.ended?.map((row) => (
            <div key={`${row.title} ${row.record} ${row.key}`}>
              <Trans>
                {row.title} {row.key} of {row.record}{" "}
                {done ? t`ended with the merge` : t`ends with the merge`}.
              </Trans>
            </div>
          ))}
          {keepRunning && (
            <Button size="compact-sm" variant="default" mt={6} onClick={keepRunning}>
              <Trans>End nothing</Trans>
            </Button>
          )}
        </div>
      )}
      {done &&
        plan.reopened?.map((pair) => (
          <div key={`${pair.a} ${pair.b}`} className="body">
            <Trans>
              {pair.a} and {pair.b} had been marked as not duplicates (history entry {pair.number}); the merge
              reopened that decision.
            </Trans>
          </div>
        ))}
      {(plan.added?.length ?? 0) > 0 && (
        <div className="body">
          {plan.added?.map((row) => (
            <div key={`${row.field} ${row.value}`}>
              {row.field} <Value text={row.value} />{" "}
              <Trans>
                of {row.record} {done ? t`was added` : t`is added`} to the master's {row.rows.toLowerCase()}.
              </Trans>
            </div>
          ))}
        </div>
      )}
      {plan.timeline && (
        <div className="body muted">
          <Trans>
            A row {done ? t`was added` : t`is added`} to {plan.timeline} for the master.
          </Trans>
        </div>
      )}
      {collisions.length > 0 && (
        <ul className="body" style={{ margin: 0, paddingLeft: 28 }} aria-label={t`Conflicts`}>
          {collisions.map(({ move, collision }) => (
            <li key={`${move.reference} ${collision.kept}`}>
              <Trans>
                {move.title}: <strong>{collision.kept}</strong> {done ? t`was kept` : t`is kept`}
                {Object.entries(collision.changes)
                  .map(([column, value]) => `, ${column} ${value ? `'${value}'` : t`blank`}`)
                  .join("")}
                ; {collision.removed.map((row) => row.key).join(", ")}{" "}
                {done ? t`was removed as a repeat` : t`is removed as a repeat`} ({collision.values} must be
                unique).
              </Trans>{" "}
              {collision.dependentsMoved > 0 &&
                (done
                  ? plural(collision.dependentsMoved, {
                      one: "# record below it moved too.",
                      other: "# records below it moved too.",
                    })
                  : plural(collision.dependentsMoved, {
                      one: "# record below it moves too.",
                      other: "# records below it move too.",
                    }))}
              {collision.removed.flatMap((row) =>
                (row.differences ?? []).map((each) => (
                  <div key={`${row.key} ${each.column}`}>
                    <Trans>
                      They differ: {each.column} of {row.key} {done ? t`was` : t`is`}{" "}
                      <Value text={each.removed} />, and <Value text={each.kept} />{" "}
                      {done ? t`was kept` : t`is kept`}.
                    </Trans>
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

/** Up to this many records all addends are written; of more, those that add nothing are counted. */
const mostAddends = 8;

function addends({ operation, before }: Plan["figures"][number]): string {
  const isNothing = (part: string | null) => part !== null && /^-?0*(\.0*)?$/.test(part);
  const shown = before.length > mostAddends ? before.filter((part) => !isNothing(part)) : before;
  const rest = before.length - shown.length;
  const nothing = figure(operation, "0");
  const text = shown.map((part) => figure(operation, part)).join(" + ");
  if (rest === 0) return text;
  return shown.length === 0 ? t`${number(rest)} × ${nothing}` : t`${text} + ${number(rest)} × ${nothing}`;
}

/** The totals that must be the same before and after. */
export function ControlTotals({ plan, done }: { plan: Plan; done?: boolean }) {
  const controls = plan.figures.filter((each) => each.control);
  if (controls.length === 0) return null;
  return (
    <section className="panel">
      <header>
        <h2>
          <Term name="controlTotals">
            <Trans>Control totals</Trans>
          </Term>
        </h2>
        <span className="muted small">
          {done ? t`checked before the merge was committed` : t`checked before the merge is committed`}
        </span>
      </header>
      <Table
        rows={controls}
        keyOf={(each) => each.name}
        columns={[
          { head: t`Total`, cell: (each) => each.title },
          {
            head: t`Before, by record`,
            kind: "number",
            className: "parts",
            cell: (each) => addends(each),
          },
          {
            head: t`Master after`,
            kind: "number",
            cell: (each) => (
              <>
                <span aria-hidden>= </span>
                {figure(each.operation, each.after)}
              </>
            ),
          },
        ]}
      />
    </section>
  );
}

/** The values of the master that others take the place of. */
function Overwritten({ plan }: { plan: Plan }) {
  const overwritten = plan.fields.filter((field) => field.changes && field.values[0]);
  return (
    <section className="panel">
      <header>
        <h2>
          <Trans>Overwritten on the master</Trans>
        </h2>
      </header>
      <div className="body">
        {overwritten.length === 0 ? (
          <span className="muted">
            <Trans>No value of the master is overwritten.</Trans>
          </span>
        ) : (
          <ul style={{ margin: 0, paddingLeft: 18 }}>
            {overwritten.map((field) => (
              <li key={field.name}>
                {field.title}: <Value text={field.values[0]} /> <Trans>becomes</Trans>{" "}
                <Value text={field.value} />
              </li>
            ))}
          </ul>
        )}
        <div className="muted small" style={{ marginTop: 6 }}>
          <Trans>Every old value is kept; the merge can be reversed at any time.</Trans>
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
  return listed([
    plural(rows, { one: "# related record moves", other: "# related records move" }),
    plural(changes, { one: "# value changes on the master", other: "# values change on the master" }),
    ...(along > 0
      ? [plural(along, { one: "# linked merge is included", other: "# linked merges are included" })]
      : []),
  ]);
}
