import { NativeSelect, NumberInput } from "@mantine/core";
import { memo } from "react";
import type { MapView } from "../api/client";
import type { QueueFilter } from "./filter";

const states = [
  { value: "open", label: "To review" },
  { value: "postponed", label: "Postponed" },
  { value: "merged", label: "Merged" },
  { value: "non-duplicates", label: "Not duplicates" },
  { value: "all", label: "All" },
];

const orders = [
  { value: "confidence", label: "Highest confidence first" },
  { value: "amount", label: "Largest amount first" },
  { value: "impact", label: "Most related records first" },
  { value: "age", label: "Oldest first" },
];

/** Which clusters are listed, and in what order; drawn again only when that changes. */
export const QueueFilters = memo(
  function QueueFilters({
    map,
    filter,
    change,
  }: {
    map: MapView;
    filter: QueueFilter;
    change: (next: Partial<QueueFilter>) => void;
  }) {
    return (
      <div className="filters">
        <NativeSelect
          size="xs"
          aria-label="Record type"
          value={filter.type}
          onChange={(event) => change({ type: event.currentTarget.value })}
          data={[
            { value: "", label: "All record types" },
            ...map.recordTypes.map((type) => ({ value: type.name, label: type.plural })),
          ]}
        />
        <NativeSelect
          size="xs"
          aria-label="State"
          value={filter.state}
          onChange={(event) => change({ state: event.currentTarget.value })}
          data={states}
        />
        <NativeSelect
          size="xs"
          aria-label="Assigned to"
          value={filter.who}
          onChange={(event) => change({ who: event.currentTarget.value as QueueFilter["who"] })}
          data={[
            { value: "anybody", label: "Assigned or not" },
            { value: "nobody", label: "Assigned to nobody" },
            { value: "me", label: "Assigned to me" },
            { value: "somebody", label: "Assigned to anyone" },
          ]}
        />
        <NumberInput
          size="xs"
          aria-label="Confidence from, in percent"
          placeholder="from %"
          w={70}
          min={0}
          max={100}
          hideControls
          value={filter.minScore}
          onChange={(value) => change({ minScore: String(value) })}
        />
        <NumberInput
          size="xs"
          aria-label="Confidence to, in percent"
          placeholder="to %"
          w={70}
          min={0}
          max={100}
          hideControls
          value={filter.maxScore}
          onChange={(value) => change({ maxScore: String(value) })}
        />
        <NativeSelect
          size="xs"
          aria-label="Order"
          value={filter.order}
          onChange={(event) => change({ order: event.currentTarget.value })}
          data={orders}
        />
      </div>
    );
  },
  (before, now) => JSON.stringify(before.filter) === JSON.stringify(now.filter) && before.map === now.map,
);
