import { t } from "@lingui/core/macro";
import { Kbd } from "@mantine/core";
import { Dialog } from "../ui/Dialog";
import { type KeyUse, keyMap, type Scope, scopeTitles } from "../ui/keyMap";
import { Table } from "../ui/Table";

/** The keys of the console. */
export function KeyList({ close }: { close: () => void }) {
  return (
    <Dialog close={close} title={t`Keys`} size="xl">
      <div className="key-list">
        {(Object.entries(keyMap) as [Scope, Record<string, KeyUse>][]).map(([scope, uses]) => (
          <section key={scope}>
            <h2>{scopeTitles[scope]}</h2>
            <Table
              rows={Object.values(uses)}
              keyOf={(use) => use.does}
              columns={[
                { kind: "short", cell: (use) => <Kbd size="sm">{use.shown ?? use.keys[0]}</Kbd> },
                { cell: (use) => use.does },
              ]}
            />
          </section>
        ))}
      </div>
    </Dialog>
  );
}
