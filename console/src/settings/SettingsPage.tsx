import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Tabs } from "@mantine/core";
import { useNavigate, useParams } from "react-router";
import type { Session } from "../api/client";
import { HealthPanel } from "./HealthPanel";
import { MapPanel } from "./MapPanel";
import { PasswordPanel } from "./PasswordPanel";
import { SessionPanel } from "./SessionPanel";
import { TokenPanel } from "./TokenPanel";
import { UserPanel } from "./UserPanel";

const sections = [
  { value: "people", text: t`People` },
  { value: "tokens", text: t`Tokens` },
  { value: "map", text: t`Map` },
  { value: "health", text: t`Health` },
];

/** Who may work here and who is signed in, the tokens of programs, the map as it was read, and the service's health. */
export default function SettingsPage({ session }: { session: Session }) {
  const navigate = useNavigate();
  const { section = "people" } = useParams();
  return (
    <>
      <div className="page-head">
        <h1>
          <Trans>Settings</Trans>
        </h1>
      </div>
      <Tabs
        value={section}
        onChange={(to) => navigate(to === "people" ? "/settings" : `/settings/${to}`)}
        keepMounted={false}
      >
        <Tabs.List mb="sm" aria-label={t`Sections of the settings`}>
          {sections.map((each) => (
            <Tabs.Tab key={each.value} value={each.value}>
              {each.text}
            </Tabs.Tab>
          ))}
        </Tabs.List>
        <Tabs.Panel value="people" className="stack">
          <UserPanel session={session} />
          <SessionPanel session={session} />
          <PasswordPanel session={session} />
        </Tabs.Panel>
        <Tabs.Panel value="tokens">
          <TokenPanel session={session} />
        </Tabs.Panel>
        <Tabs.Panel value="map">
          <MapPanel />
        </Tabs.Panel>
        <Tabs.Panel value="health">
          <HealthPanel />
        </Tabs.Panel>
      </Tabs>
    </>
  );
}
