import { Modal, type ModalProps } from "@mantine/core";
import { useLayoutEffect, useState } from "react";

/**
 * A dialog that is there as long as it is drawn. When it goes, the focus goes back to what had it when the dialog came,
 * unless something else was given it by then.
 */
export function Dialog({ close, ...others }: Omit<ModalProps, "opened" | "onClose"> & { close: () => void }) {
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
      closeButtonProps={{ "aria-label": "Close" }}
      transitionProps={{ duration: 0 }}
      {...others}
    />
  );
}
