/** The live stream: it stands while it is renewed in time, and is opened anew where the browser would wait for ever. */
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { followStream } from "./stream";

class Source {
  static readonly OPEN = 1;
  static readonly CLOSED = 2;
  static all: Source[] = [];
  readyState = 0;
  onopen = () => undefined;
  onmessage = () => undefined;
  onerror = () => undefined;
  closed = false;
  constructor() {
    Source.all.push(this);
  }
  close() {
    this.closed = true;
  }
  opens() {
    this.readyState = Source.OPEN;
    this.onopen();
  }
  fails(readyState: number) {
    this.readyState = readyState;
    this.onerror();
  }
}

let stands: boolean[];
let told: string[];
let end: () => void;
const last = () => Source.all[Source.all.length - 1] as Source;

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("EventSource", Source);
  Source.all = [];
  stands = [];
  told = [];
  end = followStream("v", {
    moved: () => void told.push("moved"),
    opened: () => void told.push("opened"),
    stands: (does) => void stands.push(does),
  });
});
afterEach(() => {
  end();
  vi.useRealTimers();
});

test("a stream that ends and opens anew at once has stood all the time", () => {
  last().opens();
  for (let times = 0; times < 4; times++) {
    vi.advanceTimersByTime(25_000);
    last().fails(0);
    vi.advanceTimersByTime(500);
    last().opens();
    last().onmessage();
  }
  expect(stands).not.toContain(false);
  expect(told.filter((word) => word === "moved")).toHaveLength(4);
  expect(Source.all).toHaveLength(1);
});

test("one that hangs, or that the browser has given up, is opened anew and does not stand meanwhile", () => {
  last().opens();
  vi.advanceTimersByTime(30_000);
  expect(stands).toEqual([true, false]);
  expect(Source.all).toHaveLength(2);
  expect(Source.all[0]?.closed).toBe(true);
  last().fails(Source.CLOSED);
  vi.advanceTimersByTime(8_000);
  expect(Source.all).toHaveLength(3);
  last().opens();
  expect(stands[stands.length - 1]).toBe(true);
});

test("one that never opens does not stand, and after its end nothing is opened", () => {
  vi.advanceTimersByTime(3_000);
  expect(stands).toEqual([false]);
  last().fails(Source.CLOSED);
  end();
  vi.advanceTimersByTime(60_000);
  expect(Source.all).toHaveLength(1);
});
