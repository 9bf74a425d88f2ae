/** A key, or several that do the same, and what it does. */
export interface KeyUse {
  /** As the browser calls them, with "Ctrl+" before; "g o" is one key after the other. None: the component has its own. */
  keys: readonly string[];
  does: string;
  /** How the keys are written, if not as they are called. */
  shown?: string;
}

const moves = {
  down: { keys: ["j", "ArrowDown"], shown: "j", does: "Go down" },
  up: { keys: ["k", "ArrowUp"], shown: "k", does: "Go up" },
  select: { keys: ["x"], does: "Select or clear the row" },
  open: { keys: ["Enter"], does: "Open the row" },
} as const;

/**
 * All keys of the console, by the part of it that listens: the list of keys, the names on buttons and the actions of the
 * finder are made from this.
 */
export const keyMap = {
  anywhere: {
    showKeys: { keys: ["?"], does: "Show these keys" },
    search: { keys: ["/"], does: "Search in the list" },
    find: { keys: ["Ctrl+k"], shown: "Ctrl+K", does: "Find a record, a page or an action" },
    fold: { keys: ["["], does: "Open or close the side bar" },
    overview: { keys: ["g o"], does: "Go to the overview" },
    queue: { keys: ["g q"], does: "Go to the groups to review" },
    records: { keys: ["g r"], does: "Go to the records" },
    history: { keys: ["g h"], does: "Go to the history" },
    rules: { keys: ["g l"], does: "Go to the rules" },
    settings: { keys: ["g s"], does: "Go to the settings" },
  },
  notice: {
    undo: { keys: ["u"], does: "Undo the last action" },
  },
  records: {
    ...moves,
    compare: { keys: ["c"], does: "Compare the selected records" },
    nextPage: { keys: ["n"], does: "Go to the next page" },
    previousPage: { keys: ["p"], does: "Go to the previous page" },
  },
  history: {
    nextPage: { keys: ["n"], does: "Go to the next page" },
    previousPage: { keys: ["p"], does: "Go to the previous page" },
  },
  queue: {
    ...moves,
    selectRange: { keys: ["X"], shown: "Shift+x", does: "Select from the last selected row to this one" },
    next: { keys: ["t"], does: "Open the next group not assigned to others" },
    nonDuplicates: { keys: ["a"], does: "Mark the selected groups, or this one, as not duplicates" },
    postpone: { keys: ["o"], does: "Postpone the selected groups, or this one" },
    restore: { keys: ["r"], does: "Resume or reopen the selected groups, or this one" },
    assign: { keys: ["i"], does: "Assign the selected groups, or this one" },
    comment: { keys: ["c"], does: "Read and write comments on this group" },
  },
  group: {
    nonDuplicates: { keys: ["a"], does: "Mark the records as not duplicates" },
    postpone: { keys: ["o"], does: "Postpone the group, or resume it" },
    reopen: { keys: ["r"], does: "Reopen the decided group" },
    next: { keys: ["t"], does: "Go to the next group not assigned to others" },
    previous: { keys: ["p"], does: "Go to the previous group" },
    skip: { keys: ["n"], does: "Skip this group, and go to the next" },
    back: { keys: ["b"], does: "Go back to the queue" },
    comment: { keys: ["c"], does: "Read and write comments on the group" },
  },
  compare: {
    move: { keys: [], shown: "Arrow keys", does: "Move between values" },
    use: { keys: [], shown: "Enter", does: "Use this value" },
    enter: { keys: ["ArrowDown"], shown: "↓", does: "Go to the values" },
    take: {
      keys: ["1", "2", "3", "4", "5", "6", "7", "8", "9"],
      shown: "1 … 9",
      does: "Use that record's value, and move to the next field",
    },
    edit: { keys: ["e"], does: "Edit the result" },
    reset: { keys: ["r"], does: "Reset to the field's rule" },
    combine: { keys: ["+"], does: "Combine texts, unite sets, or add up amounts" },
    makeMaster: { keys: ["m"], does: "Make this record the master" },
    takeSuggested: { keys: ["s"], does: "Make the suggested record the master" },
    fields: { keys: ["d"], does: "Show differences, all fields, or gaps" },
  },
  merge: {
    reason: { keys: ["w"], does: "Write the reason" },
    merge: { keys: ["Ctrl+Enter"], does: "Merge, as the plan says" },
  },
  rules: {
    save: { keys: ["Ctrl+s"], shown: "Ctrl+S", does: "Save the rule" },
  },
} as const satisfies Record<string, Record<string, KeyUse>>;

export type Scope = keyof typeof keyMap;
export type ActionOf<S extends Scope> = keyof (typeof keyMap)[S] & string;

/** What a part of the console is called where its keys are listed. */
export const scopeTitles: Record<Scope, string> = {
  anywhere: "Anywhere",
  notice: "After an action",
  records: "Records",
  history: "History",
  queue: "To review",
  group: "A group",
  compare: "Comparing",
  merge: "Merging",
  rules: "Rules",
};

/** The keys of an action. */
export const keysOf = <S extends Scope>(scope: S, action: ActionOf<S>): KeyUse =>
  (keyMap[scope] as Record<string, KeyUse>)[action] as KeyUse;

/** How an action's key is written. */
export function shownKey<S extends Scope>(scope: S, action: ActionOf<S>): string {
  const { shown, keys } = keysOf(scope, action);
  return shown ?? keys[0] ?? "";
}
