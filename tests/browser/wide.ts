import { Service } from "./service";

const letters = "ابتثجحخدذرز";

/** A word of some length, the same for the same numbers. */
const word = (field: number, record: number, length: number, from = "abcdefghijklmnoprstuvwyz") =>
  Array.from({ length }, (_, at) => from[(field * 7 + record * 3 + at * 5 + at * at) % from.length]).join("");

/** What a field of a record holds: mostly alike, some long, some written from right to left, some blank. */
function value(field: number, record: number): string {
  if (field === 1)
    return `Party ${record} of the Ancient and Honourable Company of Lightermen, Wherrymen and Keepers of the Outer Buoys at Saltmarrow`;
  if (field === 2)
    return [word(2, record, 6, letters), word(2, 1, 8, letters), word(2, 2, 5, letters)].join(" ");
  if (field === 3) return word(3, record, 300);
  if (field % 11 === record % 11) return "";
  if (field % 3 === 0) return `${word(field, 0, 9)} ${word(field, 0, 6)}`;
  return `${word(field, 0, 12)} ${field % 2 === 0 ? word(field, record, 4) : record}`;
}

/** The demo world with one more record type, `party`, of many fields: eight records that differ in most of them. */
export function startWide(fields: number, records = 8): Promise<Service> {
  const names = Array.from({ length: fields }, (_, at) => `field_${at + 1}`);
  return Service.start(60, (map, service) => {
    const rows = Array.from(
      { length: records },
      (_, record) =>
        `(${[record + 1, ...names.map((_name, at) => `'${value(at + 1, record + 1)}'`)].join(", ")}, 'active')`,
    );
    service.foreign(
      `CREATE TABLE party (party_id INTEGER PRIMARY KEY, ${names.map((name) => `${name} TEXT`).join(", ")}, status TEXT); INSERT INTO party VALUES ${rows.join(", ")}`,
    );
    const group = (at: number) => `Group ${Math.floor(at / 10) + 1}`;
    return `${map}
  party:
    title: Party
    plural: Parties
    table: party
    label: "{field_1}"
    fields:
${names.map((name, at) => `      ${name}: { kind: ${at === 2 ? "long-text" : "text"}, group: ${group(at)} }`).join("\n")}
    retire: { mark: { status: merged } }
`;
  });
}
