import { t } from "@lingui/core/macro";
import { TextInput } from "@mantine/core";
import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, type MapView } from "../api/client";
import { queueAddress } from "../queue/filter";
import { Dialog } from "../ui/Dialog";
import { type ActionOf, shownKey } from "../ui/keyMap";
import { actionsNow } from "../ui/useKeys";

const mostOfType = 6;

interface Target {
  /** What tells it from the others. */
  id: string;
  text: string;
  beside: string;
  go: () => void;
}

/** Actions that are ways of moving about by keys, or what opened the finder. */
const noTargets = ["down", "up", "open", "enter", "take", "find"];

/** What can be done on the page that is open; pages have targets of their own. */
const actions = (): Target[] =>
  actionsNow()
    .filter(({ action, use }) => !noTargets.includes(action) && !use.keys[0]?.startsWith("g "))
    .map(({ scope, action, use, act }) => ({
      id: `${scope} ${action}`,
      text: use.does,
      beside: t`action, ${use.shown ?? use.keys[0] ?? ""}`,
      go: act,
    }));

/** Finds records of all types, pages, and the actions of the page, from anywhere; each is a key away. */
export function Finder({ map, close }: { map: MapView; close: () => void }) {
  const [typed, setTyped] = useState("");
  const [asked, setAsked] = useState("");
  const [cursor, setCursor] = useState(0);
  const [doable] = useState(actions);
  const navigate = useNavigate();
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(typed.trim()), 150);
    return () => window.clearTimeout(timer);
  }, [typed]);
  const found = useQueries({
    queries: map.recordTypes.map((type) => ({
      queryKey: ["records", type.name, "finder", asked],
      queryFn: () => api.search(type.name, { q: asked, size: mostOfType, retired: true }),
      enabled: asked.length > 0,
      placeholderData: keepPreviousData,
    })),
  });
  const target = (to: string, text: string, beside: string): Target => ({
    id: to,
    text,
    beside,
    go: () => navigate(to),
  });
  const page = (to: string, text: string, action?: ActionOf<"anywhere">) =>
    target(to, text, action ? t`page, ${shownKey("anywhere", action)}` : t`page`);
  const fits = ({ text }: Target) => text.toLowerCase().includes(typed.trim().toLowerCase());
  const pages = [
    page("/", t`Overview`, "overview"),
    page(queueAddress(), t`To review`, "queue"),
    ...map.recordTypes.map((type) => page(`/records/${type.name}`, type.plural)),
    page("/history", t`History`, "history"),
    page("/rules", t`Rules`, "rules"),
    page("/settings", t`Settings`, "settings"),
  ].filter(fits);
  const records = map.recordTypes.flatMap((type, at) =>
    asked === ""
      ? []
      : (found[at]?.data?.items ?? []).map((record) =>
          target(
            `/records/${type.name}/${encodeURIComponent(record.key)}`,
            record.label,
            record.retired
              ? t`${type.title} ${record.key}, retired, now ${record.retired.master}`
              : `${type.title} ${record.key}`,
          ),
        ),
  );
  const isExact = ({ id }: Target) => id.endsWith(`/${encodeURIComponent(asked)}`);
  const targets: Target[] = [
    ...records.filter(isExact),
    ...pages,
    ...doable.filter(fits),
    ...records.filter((each) => !isExact(each)),
  ];
  const current = Math.min(cursor, Math.max(0, targets.length - 1));
  useEffect(() => {
    document.getElementById(`finder-${current}`)?.scrollIntoView({ block: "nearest" });
  }, [current]);
  const failed = asked !== "" && found.find((each) => each.error)?.error;
  const reading = asked !== "" && found.some((each) => each.isFetching);
  const go = (chosen: Target | undefined) => {
    if (!chosen) return;
    close();
    setTyped("");
    // Once the dialog is closed: an action may open one of its own, or give the focus to something.
    window.setTimeout(chosen.go, 0);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (step !== 0) {
      event.preventDefault();
      setCursor(Math.min(Math.max(0, current + step), targets.length - 1));
    }
    if (event.key === "Enter") go(targets[current]);
  };
  return (
    <Dialog close={close} withCloseButton={false} size="lg" yOffset="10vh" title={t`Find anything`}>
      <TextInput
        aria-label={t`Find anything`}
        placeholder={t`A record of any type, a page or an action; * and ? stand for letters`}
        value={typed}
        data-autofocus
        role="combobox"
        aria-expanded
        aria-controls="finder-targets"
        aria-activedescendant={targets.length > 0 ? `finder-${current}` : undefined}
        onChange={(event) => {
          setCursor(0);
          setTyped(event.currentTarget.value);
        }}
        onKeyDown={onKeyDown}
      />
      <div id="finder-targets" role="listbox" aria-label={t`Found`} className="finder">
        {targets.map((target, at) => (
          <button
            key={target.id}
            id={`finder-${at}`}
            type="button"
            role="option"
            tabIndex={-1}
            aria-selected={at === current}
            onClick={() => go(target)}
          >
            <span dir="auto">{target.text}</span>
            <span className="muted small">{target.beside}</span>
          </button>
        ))}
      </div>
      <div className="muted small" role="status">
        {failed
          ? String(failed instanceof Error ? failed.message : failed)
          : reading
            ? t`Loading…`
            : targets.length === 0
              ? t`No matches.`
              : ""}
      </div>
    </Dialog>
  );
}
