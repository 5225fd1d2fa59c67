/** For tests of what needs a browser and is no screen: its storage, and addresses that are read as the page's own. */
import { vi } from "vitest";

export const HERE = "http://practice.example";

/** From here on an address without a host is one of `HERE`. */
export function standsOnAPage(): void {
  vi.stubGlobal("location", { origin: HERE });
  vi.stubGlobal(
    "Request",
    class extends Request {
      constructor(input: RequestInfo | URL, init?: RequestInit) {
        super(typeof input === "string" && input.startsWith("/") ? HERE + input : input, init);
      }
    },
  );
}

/** A local storage of the test's own. Returns what is in it. */
export function keepsInMemory(): Map<string, string> {
  const storage = new Map<string, string>();
  vi.stubGlobal("localStorage", {
    getItem: (name: string) => storage.get(name) ?? null,
    setItem: (name: string, value: string) => void storage.set(name, value),
    removeItem: (name: string) => void storage.delete(name),
  });
  return storage;
}
