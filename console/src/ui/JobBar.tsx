import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Progress } from "@mantine/core";
import { useState } from "react";
import { api, type Job } from "../api/client";
import { number } from "./format";

/** How far a merge or reversal has come that takes long, and the way to stop it. */
export function JobBar({ job, what }: { job: Job; what: string }) {
  const [stopping, setStopping] = useState(false);
  const share = job.totalRows === 0 ? 0 : Math.round((100 * job.movedRows) / job.totalRows);
  const said =
    job.totalRows === 0
      ? t`${what}: looking at the records…`
      : t`${what}: ${number(job.movedRows)} of ${number(job.totalRows)} rows`;
  return (
    <div className="job" role="status">
      <span>{stopping ? t`Stopping; nothing will be changed…` : said}</span>
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
        <Trans>Stop</Trans>
      </Button>
    </div>
  );
}
