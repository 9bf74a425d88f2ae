import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { NativeSelect } from "@mantine/core";
import {
  Fragment,
  type KeyboardEvent,
  type RefObject,
  useCallback,
  useDeferredValue,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import type { Plan, RecordType } from "../api/client";
import { figure } from "../ui/format";
import { shownKey } from "../ui/keyMap";
import { useFolded } from "../ui/useFolded";
import { useKeys } from "../ui/useKeys";
import { useWidth } from "../ui/useWidth";
import { AddRecord } from "./AddRecord";
import { type Comparison, isShown, madeOf, type Shown, ways } from "./choices";
import { useFieldLists } from "./FieldEditor";
import { type Act, FieldRow, UnmappedRow } from "./FieldRow";
import { RecordHead } from "./RecordHead";

interface Props {
  type: RecordType;
  plan: Plan;
  comparison: Comparison;
  /** True while another plan is being made. */
  isOld: boolean;
  show: (show: Shown) => void;
  addRecord: (key: string) => void;
  choose: (field: string, key: string) => void;
  /** Lets another rule make a value of all. */
  make: (field: string, rule: string) => void;
  typeIn: (field: string, text: string) => Promise<void>;
  backToRule: (field: string) => void;
  makeMaster: (key: string) => void;
  leaveOut: (key: string) => void;
}

/** The least and the greatest width of a record's column, in pixels. */
const leastWidth = 130;
const mostWidth = 640;

/** No further than is needed; unlike the focus itself it heeds what stands still in front (scroll-padding). */
const nearest = { block: "nearest", inline: "nearest" } as const;

/** What the heads of the records take at most of the height, in pixels. */
const headRoom = 130;

/** How many figures are in the head of each record. */
const headFigures = 2;

/** The figures that matter most: the amount, then the first of the map. */
function mostTelling(figures: Plan["figures"], amountTitle: string | null): Plan["figures"] {
  const amount = figures.filter((each) => each.title === amountTitle);
  return [...amount, ...figures.filter((each) => !amount.includes(each))].slice(0, headFigures);
}

const within = (least: number, size: number, most: number) =>
  Math.round(Math.min(Math.max(least, size), most));

/** Why a record is suggested as the master; null if another is, or nothing speaks for it. */
function reasonsFor({ suggestion, records }: Plan, index: number): string[] | null {
  if (!suggestion || suggestion.reasons.length === 0) return null;
  return suggestion.key === records[index]?.key ? suggestion.reasons : null;
}

/**
 * The value that keys mean, one of them in the order of tabs (WAI-ARIA Authoring Practices, roving tabindex). Moving it
 * draws nothing again: among sixty records that could be seen.
 */
function useCursor(grid: RefObject<HTMLTableElement | null>, rows: number, columns: number) {
  const place = useRef({ row: 0, column: 0 });
  const cell = ({ row, column } = at()) =>
    grid.current?.querySelector<HTMLElement>(`[data-cell="${row}.${column}"]`);
  function at() {
    return {
      row: Math.min(place.current.row, Math.max(0, rows - 1)),
      column: Math.min(place.current.column, Math.max(0, columns - 1)),
    };
  }
  const moveTo = useCallback(
    (row: number, column: number) => {
      place.current = { row, column };
      for (const other of grid.current?.querySelectorAll<HTMLElement>("[data-cell][tabindex='0']") ?? [])
        other.tabIndex = -1;
      const now = grid.current?.querySelector<HTMLElement>(`[data-cell="${row}.${column}"]`);
      if (now) now.tabIndex = 0;
    },
    [grid],
  );
  // Rows come and go: there is always one to go to.
  useLayoutEffect(() => {
    if (cell()?.tabIndex !== 0) moveTo(at().row, at().column);
  });
  return {
    at,
    moveTo,
    focus: (row: number, column: number) => {
      moveTo(Math.min(Math.max(0, row), rows - 1), Math.min(Math.max(0, column), columns - 1));
      cell()?.focus({ preventScroll: true });
      cell()?.scrollIntoView(nearest);
    },
  };
}

/**
 * Records side by side, as a grid (WAI-ARIA Authoring Practices, grid pattern): a row a field, a column a record, and
 * before them the value that stays. The columns keep their order when the master changes, so that nothing jumps.
 */
export function CompareGrid(props: Props) {
  const { type, comparison } = props;
  // Keys are answered before a new plan is drawn: many records and fields take longer than a frame.
  const plan = useDeferredValue(props.plan);
  // What was asked for is said at once; the rows, which take longer than a frame, follow the address in a transition.
  const [asked, setAsked] = useState(comparison.show);
  useEffect(() => setAsked(comparison.show), [comparison.show]);
  const show = (way: Shown) => {
    setAsked(way);
    props.show(way);
  };
  useFieldLists(type);
  const [editing, setEditing] = useState<string | null>(null);
  const grid = useRef<HTMLTableElement>(null);
  const order = comparison.keys
    .map((key) => plan.records.findIndex((record) => record.key === key))
    .filter((index) => index >= 0);
  const keyOf = (index: number) => plan.records[index]?.key ?? "";
  const shown = plan.fields.filter((field) => field.kind !== "unmapped" && isShown(field, comparison.show));
  const hidden = plan.fields.filter((field) => field.kind === "unmapped" && isShown(field, comparison.show));
  const cursor = useCursor(grid, shown.length, order.length);
  const current = () => shown[cursor.at().row];

  const onKeyDown = (event: KeyboardEvent) => {
    if (!(event.target instanceof HTMLElement) || !event.target.dataset.cell) return;
    const { row, column } = cursor.at();
    const step = {
      ArrowUp: [row - 1, column],
      ArrowDown: [row + 1, column],
      ArrowLeft: [row, column - 1],
      ArrowRight: [row, column + 1],
      Home: [event.ctrlKey ? 0 : row, 0],
      End: [event.ctrlKey ? shown.length - 1 : row, order.length - 1],
      PageUp: [row - 8, column],
      PageDown: [row + 8, column],
    }[event.key];
    if (!step) return;
    event.preventDefault();
    cursor.focus(step[0] ?? 0, step[1] ?? 0);
  };
  const join = () => {
    const field = current();
    const rule = field && madeOf(field);
    if (field && rule) props.make(field.name, rule);
  };
  // A digit takes the value of that record, and goes on to the next field: one key a value.
  const takeOf = (place: number) => {
    const [index, field] = [order[place], current()];
    if (!field || index === undefined) return;
    props.choose(field.name, keyOf(index));
    const { row, column } = cursor.at();
    cursor.focus(row + 1, column);
  };
  const withField = (act: (name: string) => void) => () => {
    const field = current();
    if (field) act(field.name);
  };
  useKeys("compare", {
    take: (event) => takeOf(Number(event?.key) - 1),
    enter: () => cursor.focus(cursor.at().row, cursor.at().column),
    edit: withField(setEditing),
    reset: withField(props.backToRule),
    combine: join,
    fields: () => show(ways[(ways.indexOf(asked) + 1) % ways.length] ?? "differences"),
    makeMaster: () => props.makeMaster(keyOf(order[cursor.at().column] ?? 0)),
  });

  // Whoever comes by keyboard starts at the first value, of the next records too.
  const records = comparison.keys.join(" ");
  const isThere = order.length === comparison.keys.length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only other records count
  useLayoutEffect(() => {
    grid.current?.querySelector<HTMLElement>('[data-cell="0.0"]')?.focus({ preventScroll: true });
  }, [records, isThere]);

  // Rows that stay as they are need not be drawn again, and what they call is what was given last.
  const last = useRef(props);
  last.current = props;
  const act = useRef<Act>({
    choose: (field, key) => last.current.choose(field, key),
    make: (field, rule) => last.current.make(field, rule),
    backToRule: (field) => last.current.backToRule(field),
    edit: setEditing,
    save: async (field, text) => {
      await last.current.typeIn(field, text);
      setEditing(null);
    },
    cursor: cursor.moveTo,
  });

  const [showsRules, foldRules] = useFolded("rules");
  const figures = mostTelling(plan.figures, type.amountTitle ?? null);
  // Where the records need more room than there is, the grid scrolls by itself: then its heads can stay in sight.
  const frame = useRef<HTMLDivElement>(null);
  const width = useWidth(frame);
  const share = order.length <= 3 ? width : 0;
  const heads = { name: within(118, share * 0.17, 150), stays: within(160, share * 0.24, 240) };
  const least = heads.name + heads.stays + order.length * leastWidth;
  const scrolls = width > 0 && least > width;
  // Less room may push what has the focus out of sight.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the room counts
  useLayoutEffect(() => {
    const focused = document.activeElement;
    if (scrolls && grid.current?.contains(focused)) focused?.scrollIntoView(nearest);
  }, [scrolls, width]);
  // On a very wide screen the values stay near enough to be compared.
  const most = heads.name + heads.stays + order.length * mostWidth;
  const keys = order.map(keyOf);
  let group: string | null = null;
  return (
    <div
      ref={frame}
      className={scrolls ? "panel compare-frame scrolls" : "panel compare-frame"}
      aria-busy={props.isOld || plan !== props.plan || asked !== comparison.show}
      // What has the focus is never behind the columns that stay.
      style={
        scrolls ? { scrollPaddingLeft: heads.name + heads.stays, scrollPaddingTop: headRoom } : undefined
      }
    >
      <table
        className={order.length > 2 ? "compare narrow" : "compare"}
        // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: the grid pattern wants it, and a table it is
        role="grid"
        aria-label={t`Records side by side`}
        ref={grid}
        onKeyDown={onKeyDown}
        style={{
          minWidth: scrolls ? least : undefined,
          maxWidth: most,
          ["--name" as string]: `${heads.name}px`,
          ["--stays" as string]: `${heads.stays}px`,
        }}
      >
        <thead>
          <tr>
            <th scope="col" className="corner">
              <span className="visually-hidden">
                <Trans>Field</Trans>
              </span>
              <NativeSelect
                size="xs"
                aria-label={t`Fields shown (${shownKey("compare", "fields")})`}
                value={asked}
                data={[
                  { value: "differences", label: t`Differences` },
                  { value: "all", label: t`All fields` },
                  { value: "gaps", label: t`Gaps` },
                ]}
                onChange={(event) => show(event.currentTarget.value as Shown)}
              />
              <AddRecord type={type} keys={comparison.keys} add={props.addRecord} />
            </th>
            <th scope="col" className="result">
              <strong>
                <Trans>Result</Trans>
              </strong>
              <div className="muted small">
                <Trans>on {keyOf(0)}</Trans>
              </div>
              <button type="button" className="word-button" aria-expanded={showsRules} onClick={foldRules}>
                {showsRules ? t`Only exceptions` : t`Show all rules`}
              </button>
            </th>
            {order.map((index) => (
              <RecordHead
                key={index}
                record={plan.records[index] as Plan["records"][number]}
                place={index}
                figures={figures}
                isMaster={index === 0}
                suggestedFor={reasonsFor(plan, index)}
                makeMaster={props.makeMaster}
                leaveOut={order.length > 2 ? props.leaveOut : null}
              />
            ))}
          </tr>
        </thead>
        <tbody>
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
                <FieldRow
                  field={field}
                  maxLength={type.fields.find((each) => each.name === field.name)?.maxLength ?? null}
                  type={type.name}
                  at={at}
                  order={order}
                  keys={keys}
                  master={keyOf(0)}
                  isEdited={editing === field.name}
                  showsRule={showsRules}
                  act={act.current}
                />
              </Fragment>
            );
          })}
          {shown.length === 0 && (
            <tr>
              <td colSpan={order.length + 2} className="plain muted">
                <Trans>
                  {comparison.show === "gaps"
                    ? t`No field is blank in one record and filled in another.`
                    : t`All fields are the same.`}{" "}
                  Show all fields ({shownKey("compare", "fields")}) to see them.
                </Trans>
              </td>
            </tr>
          )}
          {hidden.length > 0 && (
            <tr className="group">
              <th colSpan={order.length + 2} scope="colgroup">
                <Trans>
                  Columns that the map does not name <span className="muted">(the master's stay)</span>
                </Trans>
              </th>
            </tr>
          )}
          {hidden.map((field) => (
            <UnmappedRow key={field.name} field={field} order={order} />
          ))}
          {plan.figures.length > 0 && (
            <tr className="group">
              <th colSpan={order.length + 2} scope="colgroup">
                <Trans>Figures</Trans>
              </th>
            </tr>
          )}
          {plan.figures.map((each) => (
            <tr key={each.name} className="figure">
              <th scope="row">{each.title}</th>
              <td className="stays">
                {figure(each.operation, each.after)}
                {each.control && (
                  <span className="muted small">
                    {" "}
                    <Trans>control total</Trans>
                  </span>
                )}
              </td>
              {order.map((index) => (
                <td key={index} className="plain">
                  {figure(each.operation, each.before[index])}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
