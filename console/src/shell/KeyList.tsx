import { Kbd, Modal } from "@mantine/core";

const groups: [string, [string, string][]][] = [
  [
    "Anywhere",
    [
      ["?", "Show these keys"],
      ["/", "Search in the list"],
      ["Ctrl+k", "Find a record of any type, or a page"],
      ["u", "Undo what the notice tells of"],
      ["g o", "Go to the overview"],
      ["g q", "Go to the queue"],
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
      ["x", "Tick or untick the row"],
      ["Enter", "Open the row"],
      ["c", "Compare what is ticked"],
      ["n  p", "Next page, page before"],
    ],
  ],
  [
    "Queue, and a cluster",
    [
      ["t", "Take the next that nobody has"],
      ["a", "Keep apart what is ticked, or this one"],
      ["o", "Put it off a week"],
      ["b", "Back to the queue"],
    ],
  ],
  [
    "Comparing",
    [
      ["Arrow keys", "Move between values"],
      ["Enter", "Let this value stay"],
      ["1 … 9", "Let that record's value stay, and go on"],
      ["e", "Type a value for the field"],
      ["r", "Back to the field's rule"],
      ["m", "Make this record the master"],
      ["j", "Join, unite or add up the values"],
      ["d", "What differs, everything, gaps"],
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
