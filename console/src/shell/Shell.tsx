import { Button, Menu, useMantineColorScheme } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { NavLink, useNavigate } from "react-router";
import { api, type MapView, type Session } from "../api/client";
import { useContrast } from "../ui/contrast";
import { useLive } from "../ui/live";
import { NoticeBoard } from "../ui/notices";
import { useFocusKept } from "../ui/useFocusKept";
import { singleKeysWork, switchSingleKeys, useKeys } from "../ui/useKeys";
import { usePage } from "../ui/usePage";
import { Finder } from "./Finder";
import { KeyList } from "./KeyList";

/** What is around every page: where one can go, who is signed in, and the list of keys. */
export function Shell({ session, map, children }: { session: Session; map: MapView; children: ReactNode }) {
  const [keysShown, showKeys] = useState(false);
  const [finding, setFinding] = useState(false);
  const [singleKeys, setSingleKeys] = useState(singleKeysWork);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const scheme = useMantineColorScheme();
  const [contrast, setContrast] = useContrast();
  const reached = useLive();
  useFocusKept();
  usePage("Kettlefog");
  useKeys({
    "?": () => showKeys(true),
    "Ctrl+k": () => setFinding(true),
    "g r": () => navigate(`/records/${map.recordTypes[0]?.name}`),
    "g o": () => navigate("/"),
    "g q": () => navigate("/queue"),
    "g h": () => navigate("/history"),
    "g l": () => navigate("/rules"),
    "g s": () => navigate("/settings"),
    "/": () => document.querySelector<HTMLInputElement>("[data-search]")?.focus(),
  });
  const signOut = async () => {
    await api.signOut();
    queries.clear();
    navigate("/sign-in");
  };
  return (
    <>
      <header className="shell-bar">
        <span className="brand">
          <img src="/mark.svg" alt="" width={22} height={22} />
          Kettlefog
        </span>
        <nav aria-label="Main">
          <NavLink to="/" end>
            Overview
          </NavLink>
          <NavLink to="/queue">To review</NavLink>
          {map.recordTypes.map((type) => (
            <NavLink key={type.name} to={`/records/${type.name}`}>
              {type.plural}
            </NavLink>
          ))}
          <NavLink to="/history">History</NavLink>
          <NavLink to="/rules">Rules</NavLink>
        </nav>
        <span className="push muted">{map.name}</span>
        <Button variant="default" size="compact-sm" onClick={() => setFinding(true)}>
          Find (Ctrl+K)
        </Button>
        <Button variant="default" size="compact-sm" onClick={() => showKeys(true)}>
          Keys (?)
        </Button>
        <Menu position="bottom-end">
          <Menu.Target>
            <Button variant="default" size="compact-sm">
              {session.fullName}
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Label>
              {session.name}, {session.role}
            </Menu.Label>
            <Menu.Item onClick={() => navigate("/settings")}>Settings (g s)</Menu.Item>
            <Menu.Divider />
            <Menu.Item onClick={() => scheme.setColorScheme("light")}>Light</Menu.Item>
            <Menu.Item onClick={() => scheme.setColorScheme("dark")}>Dark</Menu.Item>
            <Menu.Item onClick={() => scheme.setColorScheme("auto")}>System</Menu.Item>
            <Menu.Item onClick={() => setContrast(!contrast)}>
              {contrast ? "Standard contrast" : "High contrast"}
            </Menu.Item>
            <Menu.Item
              onClick={() => {
                switchSingleKeys(!singleKeys);
                setSingleKeys(!singleKeys);
              }}
            >
              {singleKeys ? "Switch single-key shortcuts off" : "Switch single-key shortcuts on"}
            </Menu.Item>
            <Menu.Divider />
            <Menu.Item onClick={signOut}>Sign out</Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </header>
      <main className="page">
        {!reached && (
          <div className="note warning" role="status">
            <strong>The connection to the service is lost.</strong> Reconnecting; what you chose is kept.
          </div>
        )}
        <NoticeBoard>{children}</NoticeBoard>
      </main>
      {finding && <Finder map={map} opened close={() => setFinding(false)} />}
      {keysShown && <KeyList opened close={() => showKeys(false)} />}
    </>
  );
}
