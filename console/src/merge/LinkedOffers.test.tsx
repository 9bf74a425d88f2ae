import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { LinkedMerge, Offer } from "../api/client";
import { planOf, show } from "../test-plan";
import { LinkedOffers, withoutLinked } from "./LinkedOffers";

function offer(recordType: string, keys: string[], ofRecordType: string, ofMaster: string): Offer {
  const records = keys.map((key) => ({
    key,
    label: `Label ${key}`,
    created: null,
    changed: null,
    source: null,
    owner: null,
  }));
  return {
    link: `${recordType}s`,
    title: recordType,
    recordType,
    ofRecordType,
    ofMaster,
    records,
    reason: "same hull number",
    suggestion: { key: keys[1] ?? "", reasons: ["It was created first: 2015-01-01."] },
    chosen: false,
  };
}

const merge = (recordType: string, master: string, ...duplicates: string[]): LinkedMerge => ({
  recordType,
  master,
  duplicates,
  fields: null,
  exclude: null,
  end: null,
});

describe("linked offers", () => {
  const offers = [
    offer("contact", ["1", "2"], "account", "1"),
    offer("household", ["7", "8"], "contact", "2"),
  ];

  it("are merged along into the suggested master, or into another", () => {
    const asked: LinkedMerge[][] = [];
    const plan = planOf({ offers: [offer("vessel", ["12", "13"], "account", "1")] });
    const { unmount } = show(
      <LinkedOffers plan={plan} linked={[]} change={(linked) => asked.push(linked)} />,
    );
    fireEvent.click(screen.getByRole("checkbox", { name: "vessel: 12 Label 12 and 13 Label 13" }));
    expect(asked.pop()).toEqual([merge("vessel", "13", "12")]);
    unmount();
    show(
      <LinkedOffers
        plan={plan}
        linked={[merge("vessel", "13", "12")]}
        change={(linked) => asked.push(linked)}
      />,
    );
    fireEvent.change(screen.getByRole("combobox"), { target: { value: "12" } });
    expect(asked.pop()).toEqual([merge("vessel", "12", "13")]);
  });

  it("show nothing where there are none", () => {
    show(<LinkedOffers plan={planOf()} linked={[]} change={() => {}} />);
    expect(screen.queryByRole("heading")).toBeNull();
  });

  it("go with what only they brought to light", () => {
    const contact = merge("contact", "2", "1");
    const vessel = merge("vessel", "12", "13");
    const linked = [contact, merge("household", "7", "8"), vessel];
    expect(withoutLinked(linked, offers, contact)).toEqual([vessel]);
  });
});
