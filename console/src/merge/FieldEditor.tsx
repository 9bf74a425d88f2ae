import { Button, Textarea, TextInput } from "@mantine/core";
import { type FormEvent, type KeyboardEvent, useState } from "react";
import { type PlanField, Refused } from "../api/client";

const inputTypes: Record<string, string> = { date: "date", email: "email", phone: "tel", url: "url" };

const examples: Record<string, string> = {
  country: "two letters, as in GB",
  currency: "three letters, as in EUR",
  money: "as in 1234.50",
  number: "as in 12.5",
  integer: "a whole number",
  timestamp: "as in 2026-03-09T14:30:00Z",
  flag: "1 for yes, 0 for no",
};

/** Types a value for a field; the service checks it before it is taken. */
export function FieldEditor({
  field,
  save,
  cancel,
}: {
  field: PlanField;
  save: (text: string) => Promise<void>;
  cancel: () => void;
}) {
  const [text, setText] = useState(field.value ?? "");
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const submit = async (event?: FormEvent) => {
    event?.preventDefault();
    setBusy(true);
    try {
      await save(text);
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
    "aria-label": `New value for ${field.title}`,
    placeholder: examples[field.kind] ?? "",
    value: text,
    error: wrong,
    autoFocus: true,
    size: "xs",
    onKeyDown,
  } as const;
  return (
    <form onSubmit={submit} noValidate>
      {field.kind === "long-text" ? (
        <Textarea
          {...common}
          autosize
          minRows={3}
          maxRows={8}
          onChange={(event) => setText(event.currentTarget.value)}
        />
      ) : (
        <TextInput
          {...common}
          type={inputTypes[field.kind] ?? "text"}
          onChange={(event) => setText(event.currentTarget.value)}
        />
      )}
      <div style={{ display: "flex", gap: 6, marginTop: 4 }}>
        <Button size="compact-xs" type="submit" loading={busy}>
          Take it
        </Button>
        <Button size="compact-xs" variant="default" onClick={cancel}>
          Cancel (Esc)
        </Button>
      </div>
    </form>
  );
}
