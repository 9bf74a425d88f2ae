import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";

/** Goes from page to page; says why it cannot go further. */
export function Pager({ page, pages, turn }: { page: number; pages: number; turn: (by: number) => void }) {
  return (
    <span style={{ display: "inline-flex", gap: 6, alignItems: "center" }}>
      <Button
        size="compact-sm"
        variant="default"
        disabled={page <= 1}
        title={page <= 1 ? t`This is the first page.` : undefined}
        onClick={() => turn(-1)}
      >
        <Trans>Before</Trans>
      </Button>
      <span>
        <Trans>
          Page {page} of {pages}
        </Trans>
      </span>
      <Button
        size="compact-sm"
        variant="default"
        disabled={page >= pages}
        title={page >= pages ? t`This is the last page.` : undefined}
        onClick={() => turn(1)}
      >
        <Trans>Next</Trans>
      </Button>
    </span>
  );
}
