import { t } from "@lingui/core/macro";
import { Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type RecordType } from "../api/client";

const most = 8;

/** Adds another record to a comparison, found by its words. */
export function AddRecord({
  type,
  keys,
  add,
}: {
  type: RecordType;
  keys: string[];
  add: (key: string) => void;
}) {
  const [typed, setTyped] = useState("");
  const [asked, setAsked] = useState("");
  useEffect(() => {
    const timer = window.setTimeout(() => setAsked(typed.trim()), 200);
    return () => window.clearTimeout(timer);
  }, [typed]);
  const found = useQuery({
    queryKey: ["records", type.name, "add", asked],
    queryFn: () => api.search(type.name, { q: asked, size: most }),
    enabled: asked.length > 0,
  });
  const options = (found.data?.items ?? []).filter((record) => !keys.includes(record.key));
  return (
    <Select
      size="xs"
      aria-label={t`Add another ${type.title.toLowerCase()}`}
      placeholder={t`Add a record…`}
      searchable
      comboboxProps={{ width: 320, position: "bottom-start" }}
      value={null}
      searchValue={typed}
      onSearchChange={setTyped}
      filter={({ options: all }) => all}
      data={options.map((record) => ({ value: record.key, label: `${record.key} ${record.label}` }))}
      nothingFoundMessage={
        asked === ""
          ? t`Type a word to search for.`
          : found.isFetching
            ? t`Loading…`
            : (found.error?.message ?? t`No matches.`)
      }
      onChange={(key) => {
        if (key === null) return;
        add(key);
        setTyped("");
      }}
    />
  );
}
