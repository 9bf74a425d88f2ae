import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo } from "react";
import type { PlanField } from "../api/client";
import { shownKey } from "../ui/keyMap";
import { Value } from "../ui/Value";
import { because, madeInWords, madeOf } from "./choices";
import { FieldEditor } from "./FieldEditor";

/** What can be done with a field; stays the same object as long as the grid is there. */
export interface Act {
  choose: (field: string, key: string) => void;
  make: (field: string, rule: string) => void;
  backToRule: (field: string) => void;
  edit: (field: string | null) => void;
  save: (field: string, text: string) => Promise<void>;
  cursor: (row: number, column: number) => void;
}

interface Props {
  field: PlanField;
  maxLength: number | null;
  /** The record type. */
  type: string;
  at: number;
  /** The places of the records in the plan, column by column. */
  order: number[];
  /** The keys of the records, column by column. */
  keys: string[];
  master: string;
  isEdited: boolean;
  /** Whether each field says its rule, not only those whose value is an exception. */
  showsRule: boolean;
  act: Act;
}

const sameList = <T,>(a: T[], b: T[]) => a.length === b.length && a.every((each, at) => each === b[at]);

/** Every plan is read anew: a row whose field says the same is not drawn again. */
function isSame(before: Props, now: Props): boolean {
  const [a, b] = [before.field, now.field];
  return (
    before.at === now.at &&
    before.isEdited === now.isEdited &&
    before.showsRule === now.showsRule &&
    before.master === now.master &&
    sameList(before.order, now.order) &&
    sameList(before.keys, now.keys) &&
    a.name === b.name &&
    a.value === b.value &&
    a.from === b.from &&
    a.chosenBy === b.chosenBy &&
    a.rule === b.rule &&
    a.differs === b.differs &&
    a.changes === b.changes &&
    sameList(a.values, b.values)
  );
}

/** A field: the value that stays and why, and the value of each record. */
export const FieldRow = memo(function FieldRow({
  field,
  maxLength,
  type,
  at,
  order,
  keys,
  master,
  isEdited,
  showsRule,
  act,
}: Props) {
  const keyOf = (index: number) => keys[order.indexOf(index)] ?? master;
  return (
    <tr>
      <th scope="row">
        <Sign differs={field.differs} />
        {field.title}
      </th>
      <td className="stays">
        {isEdited ? (
          <FieldEditor
            field={field}
            maxLength={maxLength}
            type={type}
            save={(text) => act.save(field.name, text)}
            cancel={() => act.edit(null)}
          />
        ) : (
          <Outcome field={field} keyOf={keyOf} showsRule={showsRule} act={act} />
        )}
      </td>
      {order.map((index, place) => (
        // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a cell of the grid
        // biome-ignore lint/a11y/useFocusableInteractive: the button in it has the focus, as the grid pattern allows
        <td key={index} role="gridcell" aria-selected={field.from === index}>
          <button
            type="button"
            className="value-cell"
            data-cell={`${at}.${place}`}
            tabIndex={-1}
            aria-pressed={field.from === index}
            aria-label={t`${field.title} of ${keys[place] ?? ""}: ${field.values[index] || t`blank`}`}
            onFocus={() => act.cursor(at, place)}
            onClick={() => act.choose(field.name, keys[place] ?? "")}
          >
            <span className="dot" aria-hidden>
              {field.from === index ? "●" : "○"}
            </span>
            <Value text={field.values[index]} beside={field.value} kind={field.kind} />
          </button>
        </td>
      ))}
    </tr>
  );
}, isSame);

/** A column that the map does not name: it is only looked at. */
export const UnmappedRow = memo(function UnmappedRow({
  field,
  order,
}: {
  field: PlanField;
  order: number[];
}) {
  return (
    <tr>
      <th scope="row">
        <Sign differs={field.differs} />
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
  );
});

function Sign({ differs }: { differs: boolean }) {
  return differs ? (
    <>
      <span className="sign" aria-hidden>
        ≠
      </span>
      <span className="visually-hidden">
        <Trans>differs:</Trans>{" "}
      </span>
    </>
  ) : (
    <span className="sign" />
  );
}

function Outcome({
  field,
  keyOf,
  showsRule,
  act,
}: {
  field: PlanField;
  keyOf: (index: number) => string;
  showsRule: boolean;
  act: Act;
}) {
  const rule = madeOf(field);
  const isException = field.changes || field.chosenBy !== "rule" || field.from !== 0;
  return (
    <div className="outcome">
      <strong title={isException || showsRule ? undefined : because(field, keyOf)}>
        <Value text={field.value} />
      </strong>
      <span>
        {(field.chosenBy === "operator" || field.chosenBy === "typed") && (
          <button
            type="button"
            className="word-button"
            onClick={() => act.backToRule(field.name)}
            aria-label={t`Reset ${field.title} to its rule`}
            title={t`Reset to the field's rule (${shownKey("compare", "reset")})`}
          >
            <Trans>reset</Trans>
          </button>
        )}
        {rule && (
          <button
            type="button"
            className="word-button"
            onClick={() => act.make(field.name, rule)}
            aria-label={`${madeInWords[rule]} ${field.title}`}
            title={t`${madeInWords[rule] ?? ""} the values (${shownKey("compare", "combine")})`}
          >
            {madeInWords[rule]?.toLowerCase()}
          </button>
        )}
        <button
          type="button"
          className="word-button"
          onClick={() => act.edit(field.name)}
          aria-label={t`Edit the result of ${field.title}`}
          title={t`Edit the result (${shownKey("compare", "edit")})`}
        >
          <Trans>edit</Trans>
        </button>
      </span>
      <div className={isException || showsRule ? "muted small" : "visually-hidden"}>
        {because(field, keyOf)}
        {field.changes && (
          <>
            {"; "}
            {field.values[0] ? t`replaces the master's` : t`fills the master's blank`}
          </>
        )}
      </div>
    </div>
  );
}
