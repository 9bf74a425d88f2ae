import { Button } from "@mantine/core";

/** Goes from page to page; says why it cannot go further. */
export function Pager({ page, pages, go }: { page: number; pages: number; go: (page: number) => void }) {
  return (
    <span style={{ display: "inline-flex", gap: 6, alignItems: "center" }}>
      <Button
        size="compact-sm"
        variant="default"
        disabled={page <= 1}
        title={page <= 1 ? "This is the first page." : undefined}
        onClick={() => go(page - 1)}
      >
        Before
      </Button>
      <span>
        Page {page} of {pages}
      </span>
      <Button
        size="compact-sm"
        variant="default"
        disabled={page >= pages}
        title={page >= pages ? "This is the last page." : undefined}
        onClick={() => go(page + 1)}
      >
        Next
      </Button>
    </span>
  );
}
