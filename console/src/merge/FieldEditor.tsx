import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { queryOptions, useQueries, useQuery } from "@tanstack/react-query";
import { type FormEvent, type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { api, type PlanField, type RecordType, Refused } from "../api/client";
import { readSet } from "../ui/sets";

const inputTypes: Record<string, string> = {
  date: "date",
  "birth-date": "date",
  email: "email",
  phone: "tel",
  url: "url",
};

const numeric = ["money", "number", "integer"];

const examples: Record<string, string> = {
  country: t`two letters, as in GB`,
  currency: t`three letters, as in EUR`,
  money: t`as in 1234.50`,
  number: t`as in 12.5`,
  integer: t`a whole number`,
  timestamp: t`as in 2026-03-09T14:30:00Z`,
};

interface Props {
  /** The record type. */
  type: string;
  field: PlanField;
  /** The longest text in characters, or null. */
  maxLength: number | null;
  save: (text: string) => Promise<void>;
  cancel: () => void;
}

/** What a field may take, or usually takes. */
const choicesOf = (type: string, field: string) =>
  queryOptions({
    queryKey: ["field-choices", type, field],
    queryFn: () => api.fieldChoices(type, field),
    staleTime: 60_000,
    retry: false,
  });

/** Reads the lists of a type's fields that take nothing else, before one of them is edited. */
export function useFieldLists(type: RecordType) {
  useQueries({
    queries: type.fields.filter((field) => field.isClosed).map((field) => choicesOf(type.name, field.name)),
  });
}

/**
 * Types a value for a field, with what fits its kind; the service checks it before it is taken. It is there at once,
 * so that no letter is lost: what may be chosen is a list only if it was read before.
 */
export function FieldEditor({ type, field, maxLength, save, cancel }: Props) {
  const { data: choices = { isClosed: false, values: [] } } = useQuery(choicesOf(type, field.name));
  const [isClosed] = useState(choices.isClosed && choices.values.length > 0);
  const isSet = field.rule === "union";
  const set = isSet ? readSet(field.value ?? "", field.values) : null;
  const [text, setText] = useState(set ? set.members.join("\n") : (field.value ?? ""));
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const known = useId();
  const form = useRef<HTMLFormElement>(null);
  // The browser brings only the input into sight.
  useEffect(() => {
    form.current?.scrollIntoView?.({ block: "nearest" });
  }, []);
  const submit = async (event?: FormEvent) => {
    event?.preventDefault();
    setBusy(true);
    const members = text.split("\n").map((member) => member.trim());
    try {
      await save(set ? set.write(members.filter((member) => member !== "")) : text);
    } catch (error) {
      setBusy(false);
      setWrong(
        error instanceof Refused ? [error.problem.title, error.problem.hint].join(" ") : String(error),
      );
    }
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Escape") {
      event.stopPropagation();
      cancel();
    }
    if (event.key === "Enter" && event.ctrlKey) {
      event.preventDefault();
      event.stopPropagation();
      void submit();
    }
  };
  const common = {
    "aria-label": t`New value for ${field.title}`,
    value: text,
    error: wrong,
    autoFocus: true,
    size: "xs",
    onKeyDown,
  } as const;
  // What a record has already is taken, and what was typed before, whatever the list says.
  const taken = [...field.values, field.value].filter((value) => value !== null && value !== "");
  const labels = new Map(choices.values.map((each) => [each.value, each.label]));
  const options = [...new Set([...choices.values.map((each) => each.value), ...taken])].map((value) => {
    const label = value && labels.get(value);
    return { value: value ?? "", label: label ? `${value} – ${label}` : (value ?? "") };
  });
  const listed =
    field.kind === "flag"
      ? [
          { value: "1", label: "yes" },
          { value: "0", label: "no" },
        ]
      : !isSet && isClosed
        ? options
        : null;
  const typed = { placeholder: examples[field.kind] ?? "", ...(maxLength && { maxLength }) };
  const isLong = isSet || field.kind === "long-text" || field.rule === "append" || text.includes("\n");
  return (
    <form ref={form} onSubmit={submit} noValidate>
      {listed ? (
        <NativeSelect
          {...common}
          data={[{ value: "", label: "blank" }, ...listed]}
          onChange={(event) => setText(event.currentTarget.value)}
        />
      ) : isLong ? (
        <Textarea
          {...common}
          {...typed}
          {...(isSet && { description: t`one a line`, placeholder: "" })}
          autosize
          minRows={3}
          maxRows={10}
          onChange={(event) => setText(event.currentTarget.value)}
        />
      ) : (
        <>
          <TextInput
            {...common}
            {...typed}
            type={inputTypes[field.kind] ?? "text"}
            inputMode={numeric.includes(field.kind) ? "decimal" : undefined}
            list={known}
            onChange={(event) => setText(event.currentTarget.value)}
          />
          <datalist id={known}>
            {options.map((each) => (
              <option key={each.value} value={each.value} />
            ))}
          </datalist>
        </>
      )}
      <div style={{ display: "flex", gap: 6, marginTop: 4, alignItems: "center" }}>
        <Button size="compact-xs" type="submit" loading={busy}>
          <Trans>Save</Trans>
        </Button>
        <Button size="compact-xs" variant="default" onClick={cancel}>
          <Trans>Cancel (Esc)</Trans>
        </Button>
        {isLong && maxLength && (
          <span className="muted small">
            <Trans>
              {text.length} of {maxLength}
            </Trans>
          </span>
        )}
      </div>
    </form>
  );
}
