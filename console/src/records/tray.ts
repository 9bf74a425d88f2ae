import { useSyncExternalStore } from "react";

/** A record picked for comparing. */
export interface Picked {
  key: string;
  label: string;
}

const storageKey = (type: string) => `kettlefog.tray.${type}`;
const listeners = new Set<() => void>();
const cache = new Map<string, { text: string; picked: Picked[] }>();

function read(type: string): Picked[] {
  const text = sessionStorage.getItem(storageKey(type)) ?? "[]";
  const known = cache.get(type);
  if (known?.text === text) return known.picked;
  const picked = JSON.parse(text) as Picked[];
  cache.set(type, { text, picked });
  return picked;
}

function write(type: string, picked: Picked[]) {
  sessionStorage.setItem(storageKey(type), JSON.stringify(picked));
  for (const listener of listeners) listener();
}

/** The records picked of one type; they stay picked across pages, searches and reloads. */
export function useTray(type: string) {
  const picked = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => read(type),
  );
  return {
    picked,
    has: (key: string) => picked.some((record) => record.key === key),
    toggle: (record: Picked) => {
      const now = read(type);
      write(
        type,
        now.some((other) => other.key === record.key)
          ? now.filter((other) => other.key !== record.key)
          : [...now, { key: record.key, label: record.label }],
      );
    },
    add: (record: Picked) => {
      const now = read(type);
      if (!now.some((other) => other.key === record.key)) write(type, [...now, record]);
    },
    clear: () => write(type, []),
  };
}

/** The address of the comparison of records. */
export function compareAddress(type: string, keys: string[]): string {
  const query = new URLSearchParams(keys.map((key) => ["key", key]));
  return `/compare/${encodeURIComponent(type)}?${query}`;
}
