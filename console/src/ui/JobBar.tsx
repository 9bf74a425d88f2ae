import { Button, Progress } from "@mantine/core";
import { useState } from "react";
import { api, type Job } from "../api/client";

/** How far a merge or reversal has come that takes long, and the way to stop it. */
export function JobBar({ job, what }: { job: Job; what: string }) {
  const [stopping, setStopping] = useState(false);
  const share = job.totalRows === 0 ? 0 : Math.round((100 * job.movedRows) / job.totalRows);
  const said =
    job.totalRows === 0
      ? `${what}: looking at the records…`
      : `${what}: ${job.movedRows.toLocaleString()} of ${job.totalRows.toLocaleString()} rows`;
  return (
    <div className="job" role="status">
      <span>{stopping ? "Stopping; nothing will be changed…" : said}</span>
      <Progress
        aria-label={said}
        value={job.totalRows === 0 ? 100 : share}
        animated={job.totalRows === 0}
        style={{ flex: 1, minWidth: 120 }}
      />
      <Button
        size="xs"
        variant="default"
        disabled={stopping}
        onClick={() => {
          setStopping(true);
          void api.stopJob(job.id);
        }}
      >
        Stop
      </Button>
    </div>
  );
}
