import { Modal, TextInput } from "@mantine/core";
import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, type MapView } from "../api/client";
import { queueAddress } from "../queue/filter";

const mostOfType = 6;

interface Target {
  to: string;
  text: string;
  beside: string;
}

/** Finds records of all types, and pages, from anywhere; each is a key away. */
export function Finder({ map, opened, close }: { map: MapView; opened: boolean; close: () => void }) {
  const [typed, setTyped] = useState("");
  const [asked, setAsked] = useState("");
  const [cursor, setCursor] = useState(0);
  const navigate = useNavigate();
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(typed.trim()), 150);
    return () => window.clearTimeout(timer);
  }, [typed]);
  const found = useQueries({
    queries: map.recordTypes.map((type) => ({
      queryKey: ["records", type.name, "finder", asked],
      queryFn: () => api.search(type.name, { q: asked, size: mostOfType, retired: true }),
      enabled: opened && asked.length > 0,
      placeholderData: keepPreviousData,
    })),
  });
  const pages: Target[] = [
    { to: "/", text: "Overview", beside: "page" },
    { to: queueAddress(), text: "To review", beside: "page" },
    ...map.recordTypes.map((type) => ({ to: `/records/${type.name}`, text: type.plural, beside: "page" })),
    { to: "/history", text: "History", beside: "page" },
    { to: "/rules", text: "Rules", beside: "page" },
    { to: "/settings", text: "Settings", beside: "page" },
  ].filter((page) => page.text.toLowerCase().includes(typed.trim().toLowerCase()));
  const records = map.recordTypes.flatMap((type, at) =>
    asked === ""
      ? []
      : (found[at]?.data?.items ?? []).map((record) => ({
          to: `/records/${type.name}/${encodeURIComponent(record.key)}`,
          text: record.label,
          beside: `${type.title} ${record.key}${record.retired ? `, retired, now ${record.retired.master}` : ""}`,
        })),
  );
  const isExact = (target: Target) => target.to.endsWith(`/${encodeURIComponent(asked)}`);
  const targets: Target[] =
    asked === ""
      ? pages
      : [...records.filter(isExact), ...pages, ...records.filter((each) => !isExact(each))];
  const current = Math.min(cursor, Math.max(0, targets.length - 1));
  useEffect(() => {
    document.getElementById(`finder-${current}`)?.scrollIntoView({ block: "nearest" });
  }, [current]);
  const failed = asked !== "" && found.find((each) => each.error)?.error;
  const reading = asked !== "" && found.some((each) => each.isFetching);
  const go = (target: Target | undefined) => {
    if (!target) return;
    close();
    setTyped("");
    navigate(target.to);
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
    <Modal
      opened={opened}
      onClose={close}
      withCloseButton={false}
      size="lg"
      yOffset="10vh"
      title="Find anything"
    >
      <TextInput
        aria-label="Find anything"
        placeholder="A record of any type, or a page; * and ? stand for letters"
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
      <div id="finder-targets" role="listbox" aria-label="Found" className="finder">
        {targets.map((target, at) => (
          <button
            key={target.to}
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
            ? "Loading…"
            : targets.length === 0
              ? "No matches."
              : ""}
      </div>
    </Modal>
  );
}
