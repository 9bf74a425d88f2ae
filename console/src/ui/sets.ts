/** What may stand between the members of a set, likeliest first. */
const separators = [";", "|", ","];

/** A set as it stands in a value, and how its members become a value of the same form again. */
export interface WrittenSet {
  members: string[];
  write: (members: string[]) => string;
}

/** Reads a set from a value: a JSON array, or members with a separator, which is seen from this value or from others of the field. */
export function readSet(text: string, others: (string | null)[]): WrittenSet {
  if (text.trimStart().startsWith("[")) {
    try {
      const members = (JSON.parse(text) as unknown[]).map(String);
      return { members, write: (changed) => JSON.stringify(changed) };
    } catch {
      // It only looks like one.
    }
  }
  const all = [text, ...others];
  const separator = separators.find((each) => all.some((value) => value?.includes(each))) ?? ",";
  const space = all.some((value) => value?.includes(`${separator} `)) ? " " : "";
  return {
    members: text
      .split(separator)
      .map((member) => member.trim())
      .filter((member) => member !== ""),
    write: (changed) => changed.join(separator + space),
  };
}
