import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, NativeSelect, NumberInput, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api, type ComparableField, type RecordType } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { failureOf } from "../ui/stale";
import { type Comparison, changeRule, readRule, reviewOf, usual } from "./rule";

/** A rule as a form, and as the text that is saved: each shows what the other says. */
export function RuleForm({
  type,
  text,
  change,
}: {
  type: RecordType;
  text: string;
  change: (text: string) => void;
}) {
  const fields = useQuery({
    queryKey: ["comparable-fields", type.name],
    queryFn: () => api.comparableFields(type.name),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const rule = readRule(text);
  const failure = failureOf(fields);
  if (failure) return <ProblemNote error={failure} retry={() => fields.refetch()} />;
  const all = fields.data ?? [];
  const first = all[0];
  const added = (): Comparison => ({ field: first?.field ?? "", is: first?.comparators[0]?.name ?? "exact" });
  return (
    <>
      {typeof rule === "string" ? (
        <div className="note blocker" role="alert">
          <strong>
            <Trans>The text cannot be read:</Trans>
          </strong>{" "}
          {rule}
        </div>
      ) : (
        <div className="rule-form">
          <TextInput
            size="xs"
            label={t`Title`}
            value={rule.title}
            onChange={(event) => change(changeRule(text, { title: event.currentTarget.value }))}
          />
          <fieldset>
            <legend>
              {rule.anyOf.length > 0
                ? t`Two records are proposed if their score is high enough and`
                : t`Two records are proposed if their score is high enough`}
            </legend>
            {rule.anyOf.length === 0 && (
              <p className="muted small">
                <Trans>No conditions.</Trans>
              </p>
            )}
            {rule.anyOf.map((group, at) => (
              <div key={at} className="rule-group">
                {at > 0 && (
                  <div className="rule-or">
                    <Trans>or</Trans>
                  </div>
                )}
                {group.map((comparison, place) => (
                  <ComparisonRow
                    key={place}
                    fields={all}
                    lead={place > 0 ? "and" : ""}
                    comparison={comparison}
                    change={(next) =>
                      change(
                        changeRule(text, {
                          anyOf: rule.anyOf
                            .map((each, here) =>
                              here === at
                                ? each.flatMap((old, there) => (there === place ? (next ?? []) : old))
                                : each,
                            )
                            .filter((each) => each.length > 0),
                        }),
                      )
                    }
                  />
                ))}
                <Button
                  size="compact-xs"
                  variant="default"
                  onClick={() =>
                    change(
                      changeRule(text, {
                        anyOf: rule.anyOf.map((each, here) => (here === at ? [...each, added()] : each)),
                      }),
                    )
                  }
                >
                  <Trans>and…</Trans>
                </Button>
              </div>
            ))}
            <Button
              size="compact-xs"
              variant="default"
              onClick={() => change(changeRule(text, { anyOf: [...rule.anyOf, [added()]] }))}
            >
              {rule.anyOf.length === 0 ? t`Add condition` : t`or…`}
            </Button>
          </fieldset>
          <fieldset>
            <legend>
              <Trans>Never duplicates if</Trans>
            </legend>
            {rule.never.map((comparison, at) => (
              <ComparisonRow
                key={at}
                fields={all}
                lead={at > 0 ? "or" : ""}
                comparison={comparison}
                change={(next) =>
                  change(
                    changeRule(text, {
                      never: rule.never.flatMap((old, here) => (here === at ? (next ?? []) : old)),
                    }),
                  )
                }
              />
            ))}
            <Button
              size="compact-xs"
              variant="default"
              onClick={() =>
                change(
                  changeRule(text, {
                    never: [
                      ...rule.never,
                      { field: first?.field ?? "", differs: first?.comparators[0]?.name ?? "exact" },
                    ],
                  }),
                )
              }
            >
              {rule.never.length === 0 ? t`Add exclusion` : t`or…`}
            </Button>
          </fieldset>
          <div className="rule-lines">
            <NumberInput
              size="xs"
              label={t`Review from, in percent`}
              min={1}
              max={100}
              value={rule.review ?? reviewOf(rule)}
              onChange={(value) => change(changeRule(text, { review: Number(value) || null }))}
            />
            <NumberInput
              size="xs"
              label={t`Certain from, in percent`}
              min={1}
              max={100}
              value={rule.automatic ?? usual.automatic}
              onChange={(value) => change(changeRule(text, { automatic: Number(value) || null }))}
            />
          </div>
          {rule.others.length > 0 && (
            <p className="muted small">
              <Trans>The text also says: {rule.others.join(", ")}.</Trans>
            </p>
          )}
        </div>
      )}
      <details open={typeof rule === "string" || undefined}>
        <summary>
          <Trans>The rule as text</Trans>
        </summary>
        <Textarea
          aria-label={t`The rule as text`}
          autosize
          minRows={4}
          maxRows={18}
          value={text}
          styles={{ input: { fontFamily: "ui-monospace, monospace", fontSize: 12.5 } }}
          onChange={(event) => change(event.currentTarget.value)}
        />
      </details>
    </>
  );
}

const settings = {
  at_least: { words: t`% at least`, usual: 85, min: 1, max: 100 },
  within: { words: t`at most`, usual: 0, min: 0, max: 1_000_000 },
  digits: { words: t`last digits`, usual: 7, min: 4, max: 15 },
} as const;

function ComparisonRow({
  fields,
  comparison,
  lead,
  change,
}: {
  fields: ComparableField[];
  comparison: Comparison;
  lead: string;
  /** Null takes it away. */
  change: (next: Comparison | null) => void;
}) {
  const field = fields.find((each) => each.field === comparison.field);
  const asked = comparison.differs !== undefined ? `differs:${comparison.differs}` : `is:${comparison.is}`;
  const comparator = field?.comparators.find((each) => each.name === (comparison.differs ?? comparison.is));
  const setting = comparator?.setting as keyof typeof settings | null | undefined;
  const asking = (fieldName: string, words: string): Comparison => {
    const [how, name] = words.split(":") as ["is" | "differs", string];
    return { field: fieldName, [how]: name };
  };
  return (
    <div className="comparison">
      <span className="muted small">{lead}</span>
      <NativeSelect
        size="xs"
        aria-label={t`Field`}
        value={comparison.field}
        data={[
          ...(field ? [] : [{ value: comparison.field, label: t`${comparison.field} (unknown)` }]),
          ...fields.map((each) => ({ value: each.field, label: each.title })),
        ]}
        onChange={(event) => {
          const next = fields.find((each) => each.field === event.currentTarget.value);
          const fits = next?.comparators.some((each) => asked.endsWith(`:${each.name}`));
          change(asking(event.currentTarget.value, fits ? asked : `is:${next?.comparators[0]?.name}`));
        }}
      />
      <NativeSelect
        size="xs"
        aria-label={t`How values of ${field?.title ?? comparison.field} compare`}
        value={asked}
        data={[
          {
            group: "agree",
            items: (field?.comparators ?? []).map((each) => ({
              value: `is:${each.name}`,
              label: each.agree,
            })),
          },
          {
            group: t`do not agree`,
            items: (field?.comparators ?? []).map((each) => ({
              value: `differs:${each.name}`,
              label: each.differ,
            })),
          },
        ]}
        onChange={(event) => change(asking(comparison.field, event.currentTarget.value))}
      />
      {setting ? (
        <NumberInput
          size="xs"
          w={66}
          hideControls
          aria-label={`${settings[setting].words}, ${field?.title}`}
          placeholder={setting === "digits" ? t`all` : String(settings[setting].usual)}
          min={settings[setting].min}
          max={settings[setting].max}
          value={comparison[setting] ?? ""}
          onChange={(value) => {
            const { [setting]: _, ...rest } = comparison;
            change(value === "" ? rest : { ...rest, [setting]: Number(value) });
          }}
        />
      ) : (
        <span />
      )}
      <span className="muted small">{setting ? settings[setting].words : ""}</span>
      <button
        type="button"
        className="close"
        aria-label={t`Remove this condition`}
        onClick={() => change(null)}
      >
        ×
      </button>
    </div>
  );
}
