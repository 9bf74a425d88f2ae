import { Button, type ButtonProps, Kbd } from "@mantine/core";
import type { ReactNode } from "react";
import { type ActionOf, keysOf, type Scope, shownKey } from "./keyMap";
import { useNotices } from "./notices";

/**
 * A button with the key that does the same. Where it cannot be pressed it keeps the focus, and says why: as its
 * description, under the pointer, and when it is pressed.
 */
export function KeyButton<S extends Scope>({
  scope,
  action,
  label,
  does,
  whyNot = null,
  press,
  icon,
  ...look
}: {
  scope: S;
  action: ActionOf<S>;
  label: string;
  /** What it does, if that is more than what its key is said to do. */
  does?: string | undefined;
  /** Why it cannot be pressed now, or null. */
  whyNot?: string | null;
  press: () => void;
  /** Shown instead of the label. */
  icon?: ReactNode;
} & Pick<ButtonProps, "variant" | "size" | "loading" | "className" | "ml" | "fullWidth">) {
  const notices = useNotices();
  const key = shownKey(scope, action);
  return (
    <Button
      size="compact-sm"
      variant="default"
      {...look}
      aria-label={`${label} (${key})`}
      aria-description={whyNot ?? undefined}
      aria-disabled={whyNot !== null}
      data-disabled={whyNot !== null}
      title={whyNot ?? does ?? keysOf(scope, action).does}
      onClick={() => (whyNot === null ? press() : notices.say({ text: whyNot }))}
    >
      {icon ?? label}
      <Kbd size="xs" className="cap" aria-hidden>
        {key}
      </Kbd>
    </Button>
  );
}
