import { t } from "@lingui/core/macro";
import { Modal, type ModalProps } from "@mantine/core";
import { useLayoutEffect, useRef, useState } from "react";

/**
 * A dialog that is there as long as it is drawn. When it goes, the focus goes back to what had it when the dialog came,
 * unless something else was given it by then.
 */
export function Dialog({
  close,
  children,
  ...others
}: Omit<ModalProps, "opened" | "onClose"> & { close: () => void }) {
  const [opener] = useState(() => document.activeElement);
  useLayoutEffect(
    () => () =>
      // The dialog is still drawn now; what it holds has the focus.
      queueMicrotask(() => {
        const isNowhere = document.activeElement?.matches("body, [data-portal]") ?? true;
        if (isNowhere && opener instanceof HTMLElement && opener.isConnected)
          opener.focus({ preventScroll: true });
      }),
    [opener],
  );
  return (
    <Modal
      opened
      onClose={close}
      closeButtonProps={{ "aria-label": t`Close` }}
      transitionProps={{ duration: 0 }}
      {...others}
    >
      <FirstFocus />
      {children}
    </Modal>
  );
}

/** Gives the focus to where one begins as soon as it is drawn: the next key is meant for the dialog, however quick. */
function FirstFocus() {
  const ref = useRef<HTMLSpanElement>(null);
  useLayoutEffect(() => {
    ref.current?.closest("[role=dialog]")?.querySelector<HTMLElement>("[data-autofocus]")?.focus();
  }, []);
  return <span ref={ref} hidden />;
}
