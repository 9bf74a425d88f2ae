import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, render, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { refresh, refreshAll } from "./refresh";

/** The answers that are under way, in the order in which they were asked for. */
let answers: ((answer: string) => void)[] = [];

/** Their failures, likewise. */
let failures: ((why: Error) => void)[] = [];

const read = () =>
  new Promise<string>((answer, fail) => {
    answers.push(answer);
    failures.push(fail);
  });

function List() {
  const list = useQuery({ queryKey: ["tokens"], queryFn: read });
  return <p>{list.data ?? "reading"}</p>;
}

function show(): QueryClient {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 5_000, retry: false } } });
  render(
    <QueryClientProvider client={queries}>
      <List />
    </QueryClientProvider>,
  );
  return queries;
}

describe("what was changed", () => {
  beforeEach(() => {
    answers = [];
    failures = [];
  });

  it("is read again though it was just being read for the first time", async () => {
    const queries = show();
    const done = refresh(queries, { queryKey: ["tokens"] });
    expect(answers).toHaveLength(1);
    await act(async () => answers[0]?.("before the change"));
    await screen.findByText("before the change");
    expect(answers).toHaveLength(2);
    await act(async () => answers[1]?.("after the change"));
    await screen.findByText("after the change");
    await done;
  });

  it("is read again as everything on the screen is", async () => {
    const queries = show();
    const done = refreshAll(queries);
    await act(() => new Promise((resolve) => setTimeout(resolve)));
    await act(async () => answers[0]?.("before the change"));
    expect(answers).toHaveLength(2);
    await act(async () => answers[1]?.("after the change"));
    await screen.findByText("after the change");
    await done;
  });

  it("is shown as it comes, however often it changes meanwhile, and read once more", async () => {
    const queries = show();
    const change = () => refresh(queries, { queryKey: ["tokens"] });
    const done = [change(), change(), change()];
    await act(async () => answers[0]?.("first"));
    await screen.findByText("first");
    expect(answers).toHaveLength(2);
    await act(async () => answers[1]?.("second"));
    await screen.findByText("second");
    await Promise.all(done);
    expect(answers).toHaveLength(2);
  });

  it("is asked for again after a reading that failed", async () => {
    const queries = show();
    const done = refresh(queries, { queryKey: ["tokens"] });
    await act(async () => failures[0]?.(new Error("too busy")));
    expect(answers).toHaveLength(2);
    await act(async () => answers[1]?.("after the change"));
    await screen.findByText("after the change");
    await done;
  });

  it("is read again when it is shown, if it was being read beforehand", async () => {
    const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 5_000, retry: false } } });
    const early = queries.fetchQuery({ queryKey: ["tokens"], queryFn: read });
    await refresh(queries, { queryKey: ["tokens"] });
    answers[0]?.("before the change");
    expect(await early).toBe("before the change");
    await new Promise((resolve) => setTimeout(resolve));
    expect(queries.getQueryState(["tokens"])?.isInvalidated).toBe(true);
  });
});
