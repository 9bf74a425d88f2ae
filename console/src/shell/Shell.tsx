import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { api, type MapView, type Session } from "../api/client";
import { queueAddress } from "../queue/filter";
import { useLive } from "../ui/live";
import { NoticeBoard } from "../ui/NoticeBoard";
import { ProblemNote } from "../ui/ProblemNote";
import { StaleNotice } from "../ui/stale";
import { useFocusKept } from "../ui/useFocusKept";
import { useKeys } from "../ui/useKeys";
import { usePage } from "../ui/usePage";
import { LegalForms } from "../ui/Value";
import { Finder } from "./Finder";
import { KeyList } from "./KeyList";
import { SideBar } from "./SideBar";
import { useSide } from "./useSide";

/** What is around every page: where one can go, who is signed in, and what was just done. */
export function Shell({ session, map, children }: { session: Session; map: MapView; children: ReactNode }) {
  const [keysShown, showKeys] = useState(false);
  const [finding, setFinding] = useState(false);
  const [failed, setFailed] = useState<unknown>(null);
  const [isOpen, fold] = useSide();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const records = useRecords(map);
  const reached = useLive();
  const legalForms = useMemo(() => new Set(map.legalForms), [map]);
  useFocusKept();
  usePage("Kettlefog");
  useKeys("anywhere", {
    showKeys: () => showKeys(true),
    find: () => setFinding(true),
    fold,
    overview: () => navigate("/"),
    queue: () => navigate(queueAddress()),
    records: () => navigate(records),
    history: () => navigate("/history"),
    rules: () => navigate("/rules"),
    settings: () => navigate("/settings"),
    search: () => document.querySelector<HTMLInputElement>("[data-search]")?.focus(),
  });
  const signOut = async () => {
    setFailed(null);
    try {
      await api.signOut();
      queries.clear();
      navigate("/sign-in");
    } catch (error) {
      setFailed(error);
    }
  };
  return (
    <div className={isOpen ? "shell" : "shell folded"}>
      <SideBar
        map={map}
        session={session}
        records={records}
        isOpen={isOpen}
        fold={fold}
        find={() => setFinding(true)}
        showKeys={() => showKeys(true)}
        signOut={() => void signOut()}
      />
      <main className="page">
        {!reached && (
          <div className="note warning" role="status">
            <Trans>
              <strong>The connection to the service is lost.</strong> Reconnecting; what you chose is kept.
            </Trans>
          </div>
        )}
        {reached && <StaleNotice />}
        {failed !== null && <ProblemNote error={failed} retry={() => void signOut()} />}
        <LegalForms value={legalForms}>
          <NoticeBoard>{children}</NoticeBoard>
        </LegalForms>
      </main>
      {finding && <Finder map={map} close={() => setFinding(false)} />}
      {keysShown && <KeyList close={() => showKeys(false)} />}
    </div>
  );
}

const lastType = "kettlefog record type";

/** The address of the records that were looked at last in this tab; at first those of the map's first type. */
function useRecords(map: MapView): string {
  const { pathname } = useLocation();
  const [, page, type] = pathname.split("/");
  const isRecords = page === "records" && map.recordTypes.some((each) => each.name === type);
  useEffect(() => {
    if (isRecords && type) sessionStorage.setItem(lastType, type);
  }, [isRecords, type]);
  const kept = isRecords ? type : sessionStorage.getItem(lastType);
  const known = map.recordTypes.find((each) => each.name === kept) ?? map.recordTypes[0];
  return `/records/${known?.name}`;
}
