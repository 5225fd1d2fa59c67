/** For tests of what talks to the server: a browser reads an address as one of the page's own; here nobody does. */
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
