/** The one way to the server: typed by the API's own description, with the CSRF value and one kind of error. */
import createClient, { type Middleware } from "openapi-fetch";
import type { Readable } from "openapi-typescript-helpers";
import { tellAnswered, tellAway } from "../shared/network";
import type { components, paths } from "./schema";

// As the client hands it out: tuples of numbers arrive as plain arrays.
export type Schema = Readable<components["schemas"]>;
export type Problem = Schema["Problem"];

/** What the server (or its absence) said, in a sentence for people. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly problem: Problem,
    /** Seconds that the server asked to wait before another try; 0 where it did not. */
    readonly retryAfter_s = 0,
  ) {
    super(problem.message);
  }
  /** No answer, or none now: the server or the network is away, or too busy. */
  get away(): boolean {
    return this.status === 0 || this.status === 429 || this.status === 503;
  }
}

/** What has to happen on this device when the server says that the session has ended, or that the screen is locked. */
type Hooks = { ended: () => void; covered: () => void };
let hooks: Hooks = { ended: () => undefined, covered: () => undefined };
export const whenRefused = (what: Partial<Hooks>) => {
  hooks = { ...hooks, ...what };
};

let csrf = "";
export const setCsrf = (value: string) => {
  csrf = value;
};

const withCsrf: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRF", csrf);
    return request;
  },
};

type Kept = (address: string) => Promise<Response | null>;
let keptFor: Kept = async () => null;
/** What to answer with where the server is away; without it nothing is. */
export const whenAway = (kept: Kept) => {
  keptFor = kept;
};

/** Fetch; where no answer comes to a reading, what was kept of it. */
export async function reach(request: Request): Promise<Response> {
  try {
    const answer = await fetch(request);
    tellAnswered();
    return answer;
  } catch (away) {
    const kept = request.method === "GET" ? await keptFor(request.url) : null;
    if (kept === null) throw away;
    tellAway(true);
    return kept;
  }
}

/** For what a page asks at intervals by itself: it does not keep an idle session from ending. */
export const BACKGROUND = { headers: { "X-Background": "1" } } as const;

export const api = createClient<paths>({ baseUrl: "", fetch: reach });
api.use(withCsrf);

const AWAY: Problem = {
  code: "away",
  message: "The server is not responding. Your entries are saved on this device.",
  where: "",
  details: [],
};

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Make sure that writes carry the CSRF value: a page that opened while the server was away has none yet. */
export async function readyToWrite(): Promise<void> {
  if (csrf === "") setCsrf((await take(api.GET("/api/me"))).csrf);
}

/** The data of an answer. Throws ApiError, also when no answer came. */
export async function take<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await request;
  } catch {
    throw new ApiError(0, AWAY);
  }
  if (answer.response.ok) return answer.data as T;
  const problem = answer.error as Problem | undefined;
  const known = problem && typeof problem.message === "string";
  if (problem?.code === "signed_out" && !/\/api\/sign-in/.test(answer.response.url)) hooks.ended();
  if (problem?.code === "covered") hooks.covered();
  const wait = Number(answer.response.headers.get("Retry-After"));
  throw new ApiError(
    answer.response.status,
    known ? problem : { ...AWAY, code: "unknown" },
    Number.isFinite(wait) ? Math.max(wait, 0) : 0,
  );
}
