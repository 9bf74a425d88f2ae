import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, NativeSelect, NumberInput, Popover, TextInput } from "@mantine/core";
import { X } from "lucide-react";
import { memo, useState } from "react";
import type { MapView } from "../api/client";
import { chipsOf, type QueueFilter, whose } from "./filter";

const states = [
  { value: "open", label: t`To review` },
  { value: "postponed", label: t`Postponed` },
  { value: "merged", label: t`Merged` },
  { value: "non-duplicates", label: t`Not duplicates` },
  { value: "all", label: t`All` },
];

/** Each order and its opposite. */
const orders = [
  ["confidence", t`Highest confidence first`, t`Lowest confidence first`],
  ["amount", t`Largest amount first`, t`Smallest amount first`],
  ["impact", t`Most related records first`, t`Fewest related records first`],
  ["age", t`Oldest first`, t`Newest first`],
].flatMap(([order, usual, opposite]) => [
  { value: order ?? "", label: usual ?? "" },
  { value: `${order} reversed`, label: opposite ?? "" },
]);

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
    const chips = chipsOf(filter);
    return (
      <div className="filters">
        <NativeSelect
          size="xs"
          aria-label={t`Record type`}
          value={filter.type}
          onChange={(event) => change({ type: event.currentTarget.value })}
          data={[
            { value: "", label: t`All record types` },
            ...map.recordTypes.map((type) => ({ value: type.name, label: type.plural })),
          ]}
        />
        <NativeSelect
          size="xs"
          aria-label={t`State`}
          value={filter.state}
          onChange={(event) => change({ state: event.currentTarget.value })}
          data={states}
        />
        <NativeSelect
          size="xs"
          aria-label={t`Order`}
          value={filter.reverse ? `${filter.order} reversed` : filter.order}
          onChange={(event) => {
            const [order = "", reversed] = event.currentTarget.value.split(" ");
            change({ order, reverse: reversed ? "true" : "" });
          }}
          data={orders}
        />
        <MoreFilters filter={filter} change={change} count={chips.length} />
        {chips.map((chip) => (
          <span key={chip.text} className="chip">
            {chip.text}
            <button
              type="button"
              aria-label={t`Clear the filter: ${chip.text}`}
              onClick={() => change(chip.without)}
            >
              <X size={14} aria-hidden />
            </button>
          </span>
        ))}
      </div>
    );
  },
  (before, now) => JSON.stringify(before.filter) === JSON.stringify(now.filter) && before.map === now.map,
);

/** The filters that are used now and then. */
function MoreFilters({
  filter,
  change,
  count,
}: {
  filter: QueueFilter;
  change: (next: Partial<QueueFilter>) => void;
  /** How many of them leave something out. */
  count: number;
}) {
  const [isOpen, open] = useState(false);
  return (
    <Popover
      opened={isOpen}
      onChange={open}
      trapFocus
      returnFocus
      position="bottom-start"
      transitionProps={{ duration: 0 }}
    >
      <Popover.Target>
        <Button
          size="xs"
          variant="default"
          aria-label={
            count > 0
              ? t`More filters, ${plural(count, { one: "# is", other: "# are" })} set`
              : t`More filters`
          }
          onClick={() => open(!isOpen)}
        >
          <Trans>More filters{count > 0 && ` (${count})`}</Trans>
        </Button>
      </Popover.Target>
      <Popover.Dropdown className="more-filters" aria-label={t`More filters`}>
        <NativeSelect
          size="xs"
          label={t`Assigned to`}
          value={filter.who}
          onChange={(event) => change({ who: event.currentTarget.value as QueueFilter["who"] })}
          data={Object.entries(whose).map(([value, label]) => ({ value, label }))}
        />
        <NumberInput
          size="xs"
          label={t`Confidence from, in percent`}
          min={0}
          max={100}
          hideControls
          value={filter.minScore}
          onChange={(value) => change({ minScore: String(value) })}
        />
        <NumberInput
          size="xs"
          label={t`Confidence to, in percent`}
          min={0}
          max={100}
          hideControls
          value={filter.maxScore}
          onChange={(value) => change({ maxScore: String(value) })}
        />
        <TextInput
          size="xs"
          label={t`Match rule`}
          description={t`Its name, such as ready.`}
          value={filter.rule}
          onChange={(event) => change({ rule: event.currentTarget.value.trim() })}
        />
        <Button
          size="xs"
          variant="default"
          onClick={() => change({ who: "anybody", minScore: "", maxScore: "", rule: "" })}
        >
          <Trans>Clear these filters</Trans>
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
