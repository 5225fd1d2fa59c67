/** The way to the server: writes carry the value that proves where they come from, and every failure is a sentence. */
import { beforeEach, expect, test, vi } from "vitest";
import { standsOnAPage } from "../shared/browser.testing";

standsOnAPage();

let client: typeof import("./client");
let sent: Request[];
let answer: (request: Request) => Response | Promise<Response>;

beforeEach(async () => {
  vi.resetModules();
  sent = [];
  answer = () => Response.json({});
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push(request);
    return answer(request);
  });
  client = await import("./client");
});

const problem = (message: string) => ({ code: "conflict", message, where: "version", details: [] });
const refusal = (told: Promise<unknown>) =>
  told.then(
    () => {
      throw new Error("it was taken");
    },
    (error: unknown) => error as InstanceType<typeof client.ApiError>,
  );

test("a reading carries nothing, a write carries the value, which is asked for where the page has none", async () => {
  answer = ({ url }) => Response.json(url.endsWith("/api/me") ? { csrf: "from-the-server" } : {});
  await client.take(client.api.GET("/api/day"));
  await client.readyToWrite();
  await client.readyToWrite();
  await client.take(client.api.POST("/api/sign-out"));
  expect(sent.map((one) => [one.method, new URL(one.url).pathname, one.headers.get("X-CSRF")])).toEqual([
    ["GET", "/api/day", null],
    ["GET", "/api/me", null],
    ["POST", "/api/sign-out", "from-the-server"],
  ]);
});

test("what the server says is told as it said it", async () => {
  answer = () => Response.json(problem("This person was changed in another window."), { status: 409 });
  const told = await refusal(client.take(client.api.GET("/api/day")));
  expect([told.status, told.message, told.problem.where, told.away]).toEqual([
    409,
    "This person was changed in another window.",
    "version",
    false,
  ]);
});

test.each([
  ["no answer", () => Promise.reject(new TypeError("Failed to fetch")), 0, true],
  ["a page of something in between", () => new Response("<h1>502</h1>", { status: 502 }), 502, false],
  ["an answer without words", () => Response.json({ detail: 1 }, { status: 500 }), 500, false],
  ["the server is starting", () => Response.json(problem("Starting."), { status: 503 }), 503, true],
])("%s: a sentence for people, and whether to try again", async (_, says, status, away) => {
  answer = says;
  const told = await refusal(client.take(client.api.GET("/api/day")));
  expect(told).toBeInstanceOf(client.ApiError);
  expect([told.status, told.away]).toEqual([status, away]);
  expect(told.message).toMatch(/^[A-Z].*\.$/);
  expect(told.message).not.toMatch(/fetch|<|detail/);
});
