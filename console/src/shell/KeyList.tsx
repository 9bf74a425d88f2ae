import { Kbd, Modal } from "@mantine/core";

const groups: [string, [string, string][]][] = [
  [
    "Anywhere",
    [
      ["?", "Show these keys"],
      ["/", "Search in the list"],
      ["Ctrl+k", "Find a record of any type, or a page"],
      ["u", "Undo the last action"],
      ["g o", "Go to the overview"],
      ["g q", "Go to the groups to review"],
      ["g r", "Go to the records"],
      ["g h", "Go to the history"],
      ["g l", "Go to the rules"],
      ["g s", "Go to the settings"],
    ],
  ],
  [
    "Lists",
    [
      ["j  k", "Down, up (arrow keys too)"],
      ["x", "Select or clear the row"],
      ["Enter", "Open the row"],
      ["c", "Compare the selected records"],
      ["n  p", "Next page, previous page"],
    ],
  ],
  [
    "To review, and a group",
    [
      ["t", "Go to the next group not assigned to others"],
      ["p", "Go to the previous group"],
      ["n", "Skip this group, and go to the next"],
      ["a", "Mark as not duplicates: the selected groups, or this one"],
      ["o", "Postpone (on a postponed group: resume)"],
      ["r", "In the list: resume or reopen"],
      ["b", "Back to the queue"],
    ],
  ],
  [
    "Comparing",
    [
      ["Arrow keys", "Move between values"],
      ["Enter", "Use this value"],
      ["1 … 9", "Use that record's value, and move to the next field"],
      ["e", "Edit the result"],
      ["r", "Reset to the field's rule"],
      ["m", "Make this record the master"],
      ["+", "Combine texts, unite sets, or add up amounts"],
      ["d", "Differences, all fields, gaps"],
      ["s", "Make the suggested record the master"],
      ["Ctrl+Enter", "Merge"],
    ],
  ],
];

/** The keys of the console. */
export function KeyList({ opened, close }: { opened: boolean; close: () => void }) {
  return (
    <Modal
      opened={opened}
      onClose={close}
      title="Keys"
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <div style={{ display: "grid", gridTemplateColumns: "repeat(2, 1fr)", gap: 18 }}>
        {groups.map(([title, keys]) => (
          <section key={title}>
            <h2>{title}</h2>
            <table className="rows">
              <tbody>
                {keys.map(([key, does]) => (
                  <tr key={key}>
                    <td className="short">
                      <Kbd size="sm">{key}</Kbd>
                    </td>
                    <td>{does}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        ))}
      </div>
    </Modal>
  );
}
