import { t } from "@lingui/core/macro";
/** A key, or several that do the same, and what it does. */
export interface KeyUse {
  /** As the browser calls them, with "Ctrl+" before; "g o" is one key after the other. None: the component has its own. */
  keys: readonly string[];
  does: string;
  /** How the keys are written, if not as they are called. */
  shown?: string;
}

const moves = {
  down: { keys: ["j", "ArrowDown"], shown: "j", does: t`Go down` },
  up: { keys: ["k", "ArrowUp"], shown: "k", does: t`Go up` },
  select: { keys: ["x"], does: t`Select or clear the row` },
  open: { keys: ["Enter"], does: t`Open the row` },
} as const;

/**
 * All keys of the console, by the part of it that listens: the list of keys, the names on buttons and the actions of the
 * finder are made from this.
 */
export const keyMap = {
  anywhere: {
    showKeys: { keys: ["?"], does: t`Show these keys` },
    search: { keys: ["/"], does: t`Search in the list` },
    find: { keys: ["Ctrl+k"], shown: t`Ctrl+K`, does: t`Find a record, a page or an action` },
    fold: { keys: ["["], does: t`Open or close the side bar` },
    overview: { keys: ["g o"], does: t`Go to the overview` },
    queue: { keys: ["g q"], does: t`Go to the groups to review` },
    records: { keys: ["g r"], does: t`Go to the records` },
    history: { keys: ["g h"], does: t`Go to the history` },
    rules: { keys: ["g l"], does: t`Go to the rules` },
    settings: { keys: ["g s"], does: t`Go to the settings` },
  },
  notice: {
    undo: { keys: ["u"], does: t`Undo the last action` },
  },
  records: {
    ...moves,
    compare: { keys: ["c"], does: t`Compare the selected records` },
    nextPage: { keys: ["n"], does: t`Go to the next page` },
    previousPage: { keys: ["p"], does: t`Go to the previous page` },
  },
  history: {
    nextPage: { keys: ["n"], does: t`Go to the next page` },
    previousPage: { keys: ["p"], does: t`Go to the previous page` },
  },
  queue: {
    ...moves,
    selectRange: { keys: ["X"], shown: "Shift+x", does: t`Select from the last selected row to this one` },
    next: { keys: ["t"], does: t`Open the next group not assigned to others` },
    nonDuplicates: { keys: ["a"], does: t`Mark the selected groups, or this one, as not duplicates` },
    postpone: { keys: ["o"], does: t`Postpone the selected groups, or this one` },
    restore: { keys: ["r"], does: t`Resume or reopen the selected groups, or this one` },
    assign: { keys: ["i"], does: t`Assign the selected groups, or this one` },
    comment: { keys: ["c"], does: t`Read and write comments on this group` },
  },
  group: {
    nonDuplicates: { keys: ["a"], does: t`Mark the records as not duplicates` },
    postpone: { keys: ["o"], does: t`Postpone the group, or resume it` },
    reopen: { keys: ["r"], does: t`Reopen the decided group` },
    next: { keys: ["t"], does: t`Go to the next group not assigned to others` },
    previous: { keys: ["p"], does: t`Go to the previous group` },
    skip: { keys: ["n"], does: t`Skip this group, and go to the next` },
    back: { keys: ["b"], does: t`Go back to the queue` },
    comment: { keys: ["c"], does: t`Read and write comments on the group` },
  },
  compare: {
    move: { keys: [], shown: t`Arrow keys`, does: t`Move between values` },
    use: { keys: [], shown: "Enter", does: t`Use this value` },
    enter: { keys: ["ArrowDown"], shown: "↓", does: t`Go to the values` },
    take: {
      keys: ["1", "2", "3", "4", "5", "6", "7", "8", "9"],
      shown: "1 … 9",
      does: t`Use that record's value, and move to the next field`,
    },
    edit: { keys: ["e"], does: t`Edit the result` },
    reset: { keys: ["r"], does: t`Reset to the field's rule` },
    combine: { keys: ["+"], does: t`Combine texts, unite sets, or add up amounts` },
    makeMaster: { keys: ["m"], does: t`Make this record the master` },
    takeSuggested: { keys: ["s"], does: t`Make the suggested record the master` },
    fields: { keys: ["d"], does: t`Show differences, all fields, or gaps` },
  },
  merge: {
    reason: { keys: ["w"], does: t`Write the reason` },
    merge: { keys: [t`Ctrl+Enter`], does: t`Merge, as the plan says` },
  },
  rules: {
    save: { keys: ["Ctrl+s"], shown: t`Ctrl+S`, does: t`Save the rule` },
  },
} as const satisfies Record<string, Record<string, KeyUse>>;

export type Scope = keyof typeof keyMap;
export type ActionOf<S extends Scope> = keyof (typeof keyMap)[S] & string;

/** What a part of the console is called where its keys are listed. */
export const scopeTitles: Record<Scope, string> = {
  anywhere: t`Anywhere`,
  notice: t`After an action`,
  records: t`Records`,
  history: t`History`,
  queue: t`To review`,
  group: t`A group`,
  compare: t`Comparing`,
  merge: t`Merging`,
  rules: t`Rules`,
};

/** The keys of an action. */
export const keysOf = <S extends Scope>(scope: S, action: ActionOf<S>): KeyUse =>
  (keyMap[scope] as Record<string, KeyUse>)[action] as KeyUse;

/** How an action's key is written. */
export function shownKey<S extends Scope>(scope: S, action: ActionOf<S>): string {
  const { shown, keys } = keysOf(scope, action);
  return shown ?? keys[0] ?? "";
}
