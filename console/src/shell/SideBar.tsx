import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Menu, useMantineColorScheme } from "@mantine/core";
import {
  CircleUserRound,
  Cog,
  Database,
  Gauge,
  History,
  Keyboard,
  Layers2,
  type LucideIcon,
  PanelLeftClose,
  PanelLeftOpen,
  Scale,
  Search,
} from "lucide-react";
import { useState } from "react";
import { NavLink, useNavigate } from "react-router";
import type { MapView, Session } from "../api/client";
import { queueAddress } from "../queue/filter";
import { useContrast } from "../ui/contrast";
import { useDensity } from "../ui/density";
import { type ActionOf, shownKey } from "../ui/keyMap";
import { singleKeysWork, switchSingleKeys } from "../ui/useKeys";

interface Entry {
  to: string;
  text: string;
  icon: LucideIcon;
  action: ActionOf<"anywhere">;
}

/** Where one can go, in groups; what is the same on every page, and who is signed in. */
export function SideBar({
  map,
  session,
  records,
  isOpen,
  fold,
  find,
  showKeys,
  signOut,
}: {
  map: MapView;
  session: Session;
  /** The address of the records that were looked at last. */
  records: string;
  isOpen: boolean;
  fold: () => void;
  find: () => void;
  showKeys: () => void;
  signOut: () => void;
}) {
  const groups: [string, Entry[]][] = [
    [
      t`Work`,
      [
        { to: "/", text: t`Overview`, icon: Gauge, action: "overview" },
        { to: queueAddress(), text: t`To review`, icon: Layers2, action: "queue" },
        { to: records, text: t`Records`, icon: Database, action: "records" },
      ],
    ],
    [t`Audit`, [{ to: "/history", text: t`History`, icon: History, action: "history" }]],
    [
      t`Set up`,
      [
        { to: "/rules", text: t`Rules`, icon: Scale, action: "rules" },
        { to: "/settings", text: t`Settings`, icon: Cog, action: "settings" },
      ],
    ],
  ];
  return (
    <div className={isOpen ? "side" : "side folded"}>
      <div className="brand" title={map.name}>
        <img src="/mark.svg" alt="" width={24} height={24} />
        <span className="side-text">
          <Trans>
            Kettlefog
            <span className="muted small">{map.name}</span>
          </Trans>
        </span>
      </div>
      <Pressed icon={Search} text={t`Find`} action="find" press={find} />
      <nav aria-label={t`Main`}>
        {groups.map(([title, entries]) => (
          <section key={title} aria-label={title}>
            <span className="side-group" aria-hidden>
              {title}
            </span>
            {entries.map((entry) => (
              <NavLink
                key={entry.text}
                to={entry.to}
                end={entry.to === "/"}
                title={`${entry.text} (${shownKey("anywhere", entry.action)})`}
                aria-label={entry.text}
              >
                <entry.icon size={18} aria-hidden />
                <span className="side-text">{entry.text}</span>
              </NavLink>
            ))}
          </section>
        ))}
      </nav>
      <div className="side-foot">
        <Pressed icon={Keyboard} text={t`Keys`} action="showKeys" press={showKeys} />
        <UserMenu session={session} signOut={signOut} />
        <Pressed
          icon={isOpen ? PanelLeftClose : PanelLeftOpen}
          text={isOpen ? t`Close the side bar` : t`Open the side bar`}
          action="fold"
          press={fold}
        />
      </div>
    </div>
  );
}

function Pressed({
  icon: Icon,
  text,
  action,
  press,
}: {
  icon: LucideIcon;
  text: string;
  action: ActionOf<"anywhere">;
  press: () => void;
}) {
  const key = shownKey("anywhere", action);
  return (
    <button
      type="button"
      className="side-button"
      aria-label={`${text} (${key})`}
      title={`${text} (${key})`}
      onClick={press}
    >
      <Icon size={18} aria-hidden />
      <span className="side-text" aria-hidden>
        {text}
      </span>
      <kbd className="side-text cap" aria-hidden>
        {key}
      </kbd>
    </button>
  );
}

/** Who is signed in, how the console looks to them, and the way out. */
function UserMenu({ session, signOut }: { session: Session; signOut: () => void }) {
  const navigate = useNavigate();
  const scheme = useMantineColorScheme();
  const [contrast, setContrast] = useContrast();
  const [isRoomy, setRoomy] = useDensity();
  const [singleKeys, setSingleKeys] = useState(singleKeysWork);
  return (
    <Menu position="right-end" transitionProps={{ duration: 0 }}>
      <Menu.Target>
        <button type="button" className="side-button" aria-label={session.fullName} title={session.fullName}>
          <CircleUserRound size={18} aria-hidden />
          <span className="side-text" aria-hidden>
            {session.fullName}
          </span>
        </button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>
          {session.name}, {session.role}
        </Menu.Label>
        <Menu.Item onClick={() => navigate("/settings")}>
          <Trans>Settings ({shownKey("anywhere", "settings")})</Trans>
        </Menu.Item>
        <Menu.Divider />
        <Menu.Item onClick={() => scheme.setColorScheme("light")}>
          <Trans>Light</Trans>
        </Menu.Item>
        <Menu.Item onClick={() => scheme.setColorScheme("dark")}>
          <Trans>Dark</Trans>
        </Menu.Item>
        <Menu.Item onClick={() => scheme.setColorScheme("auto")}>
          <Trans>System</Trans>
        </Menu.Item>
        <Menu.Item onClick={() => setContrast(!contrast)}>
          {contrast ? t`Standard contrast` : t`High contrast`}
        </Menu.Item>
        <Menu.Item onClick={() => setRoomy(!isRoomy)}>{isRoomy ? t`Dense rows` : t`Roomy rows`}</Menu.Item>
        <Menu.Item
          onClick={() => {
            switchSingleKeys(!singleKeys);
            setSingleKeys(!singleKeys);
          }}
        >
          {singleKeys ? t`Switch single-key shortcuts off` : t`Switch single-key shortcuts on`}
        </Menu.Item>
        <Menu.Divider />
        <Menu.Item onClick={signOut}>
          <Trans>Sign out</Trans>
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
