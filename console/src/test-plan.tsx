import { i18n } from "@lingui/core";
import { I18nProvider } from "@lingui/react";
import { MantineProvider } from "@mantine/core";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import type { Plan, PlanField, RecordType } from "./api/client";

/** A field of a plan for two records, 1 the master and 2 the duplicate. */
export function fieldOf(changes: Partial<PlanField>): PlanField {
  return {
    name: "phone",
    title: "Phone",
    kind: "phone",
    group: "Contact",
    values: ["01632 960118", "+44 1632 960118"],
    value: "01632 960118",
    from: 0,
    chosenBy: "rule",
    rule: "master-unless-blank",
    differs: true,
    changes: false,
    ...changes,
  };
}

/** A plan for two records. */
export function planOf(changes: Partial<Plan> = {}): Plan {
  const record = { created: "2015-04-13", changed: "2024-11-05", source: "clerk", owner: "m.tilling" };
  return {
    recordType: "vendor",
    fingerprint: "kf1.0.0",
    records: [
      { key: "1", label: "Gannet Chandlery", ...record },
      { key: "2", label: "Gannett Chandlery", ...record },
    ],
    fields: [
      fieldOf({}),
      fieldOf({
        name: "email",
        title: "E-mail",
        values: [null, "a@b.example"],
        value: "a@b.example",
        from: 1,
        changes: true,
      }),
      fieldOf({
        name: "city",
        title: "City",
        values: ["Ternhaven", "Ternhaven"],
        value: "Ternhaven",
        differs: false,
      }),
      fieldOf({
        name: "flags",
        title: "flags",
        kind: "unmapped",
        group: null,
        values: ["1", "2"],
        value: "1",
      }),
    ],
    moves: [
      {
        reference: "bills",
        title: "Bills",
        table: "bill",
        policy: "reassign",
        counts: [6, 8],
        count: 8,
        amount: "95001.6",
        collisions: [],
        mayExclude: false,
        removed: 0,
      },
      {
        reference: "notes",
        title: "Notes",
        table: "note",
        policy: "reassign",
        counts: [1, 0],
        count: 0,
        amount: null,
        collisions: [],
        mayExclude: false,
        removed: 0,
      },
    ],
    suggestion: { key: "1", reasons: [] },
    figures: [
      {
        name: "billed",
        title: "Billed",
        operation: "sum",
        control: true,
        before: ["10", "20.5"],
        after: "30.5",
      },
      {
        name: "last",
        title: "Last bill",
        operation: "last",
        control: false,
        before: [null, "2026-03-09"],
        after: "2026-03-09",
      },
    ],
    blockers: [],
    warnings: [],
    timeline: null,
    offers: null,
    linked: null,
    ended: null,
    added: null,
    ...changes,
  };
}

/** The record type of these plans. */
export function typeOf(): RecordType {
  return {
    name: "vendor",
    title: "Vendor",
    plural: "Vendors",
    key: ["id"],
    fields: [],
    references: [],
    figures: [],
    requireReason: false,
  };
}

/** Renders with the theme and an address around it. */
export function show(page: ReactNode) {
  return render(
    <I18nProvider i18n={i18n}>
      <MantineProvider env="test">
        <QueryClientProvider client={new QueryClient()}>
          <MemoryRouter>{page}</MemoryRouter>
        </QueryClientProvider>
      </MantineProvider>
    </I18nProvider>,
  );
}
