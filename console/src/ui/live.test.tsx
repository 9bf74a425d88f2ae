import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, render, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { useLive } from "./live";

class Stream extends EventTarget {
  static all: Stream[] = [];
  static readonly CLOSED = 2;
  readyState = 1;
  onerror: (() => void) | null = null;

  constructor(readonly address: string) {
    super();
    Stream.all.push(this);
  }

  close() {
    this.readyState = Stream.CLOSED;
  }

  say(type: string, data: unknown = {}) {
    act(() => void this.dispatchEvent(new MessageEvent(type, { data: JSON.stringify(data) })));
  }

  breakOff(state: number) {
    this.readyState = state;
    act(() => this.onerror?.());
  }
}

const read = vi.fn((name: string) => Promise.resolve(name));

function Page({ name }: { name: string }) {
  const reached = useLive();
  useQuery({ queryKey: [name], queryFn: () => read(name) });
  return <p>{reached ? "reached" : "lost"}</p>;
}

async function setUp(name: string) {
  render(
    <QueryClientProvider client={new QueryClient()}>
      <Page name={name} />
    </QueryClientProvider>,
  );
  await vi.advanceTimersByTimeAsync(10);
  const [stream] = Stream.all;
  if (!stream) throw new Error("nothing listens");
  expect(stream.address).toBe("/api/events");
  return stream;
}

const pass = (milliseconds: number) => act(() => vi.advanceTimersByTimeAsync(milliseconds));

describe("what goes on", () => {
  beforeEach(() => {
    Stream.all = [];
    read.mockClear();
    vi.stubGlobal("EventSource", Stream);
    vi.useFakeTimers();
    return () => vi.useRealTimers();
  });

  it("lets be read again what it made old, and nothing else", async () => {
    const stream = await setUp("clusters");
    expect(read).toHaveBeenCalledTimes(1);
    stream.say("rules");
    await pass(50);
    expect(read).toHaveBeenCalledTimes(1);
    stream.say("queue");
    await pass(50);
    expect(read).toHaveBeenCalledTimes(2);
    stream.say("history", { history: 7 });
    await pass(50);
    expect(read).toHaveBeenCalledTimes(3);
  });

  it("lets be read once what several events made old", async () => {
    const stream = await setUp("clusters");
    stream.say("queue");
    stream.say("history", { history: 7 });
    stream.say("queue");
    await pass(50);
    expect(read).toHaveBeenCalledTimes(2);
  });

  it("leaves a plan alone, which says itself when it is old", async () => {
    const stream = await setUp("plan");
    stream.say("history", { history: 7 });
    await pass(50);
    expect(read).toHaveBeenCalledTimes(1);
  });

  it("is not said to be lost for a moment's break, but for a longer one, until it is there again", async () => {
    const stream = await setUp("clusters");
    stream.say("alive");
    stream.breakOff(0);
    await pass(1_000);
    expect(screen.getByText("reached")).toBeTruthy();
    stream.say("alive");
    stream.breakOff(0);
    await pass(2_000);
    expect(screen.getByText("lost")).toBeTruthy();
    stream.say("alive");
    await pass(10);
    expect(screen.getByText("reached")).toBeTruthy();
    expect(read).toHaveBeenCalledTimes(2);
  });

  it("is listened to anew where the service refused, or said nothing for long", async () => {
    const stream = await setUp("clusters");
    stream.breakOff(Stream.CLOSED);
    await pass(2_100);
    expect(Stream.all.length).toBe(2);
    Stream.all[1]?.say("alive");
    await pass(41_000);
    expect(Stream.all.length).toBe(3);
    expect(Stream.all[1]?.readyState).toBe(Stream.CLOSED);
  });
});
