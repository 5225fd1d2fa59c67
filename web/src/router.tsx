/** Routes. Screens that need the body or the score come as chunks of their own. */
import type { QueryClient } from "@tanstack/react-query";
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  isRedirect,
  lazyRouteComponent,
  Outlet,
  redirect,
} from "@tanstack/react-router";
import { ApiError } from "./api/client";
import { meQuery } from "./api/queries";
import { DayScreen } from "./screens/day/DayScreen";
import { OfflineScreen } from "./screens/offline/OfflineScreen";
import { OverviewScreen } from "./screens/person/OverviewScreen";
import { PersonFrame } from "./screens/person/PersonFrame";
import { Lock } from "./screens/shell/Lock";
import { Shell } from "./screens/shell/Shell";
import { SignInScreen } from "./screens/sign-in/SignInScreen";
import { isDay } from "./shared/days";
import { ErrorPanel, Waiting } from "./shared/parts";
import { locks, owner } from "./treatment/device";
import { tellOwedLock } from "./treatment/locked";
import { endSession } from "./treatment/session";

/** What Find shows: a place on a side, the group that is looked through, the body or its close flat views. */
type FindSearch = { id?: string; side?: "right"; group?: string; view?: "sheets" };
/** Which shelf of the catalogue is open. */
const SHELVES = ["complaints", "schools", "doses", "techniques", "letters"] as const;
type CatalogueSearch = { shelf?: (typeof SHELVES)[number] };
/** What the audit is narrowed to: a person's id, a practitioner's id, a day. */
type AuditSearch = { person?: string; who?: string; day?: string };
/** For which moment complaints are rated, where whoever leads there knows. */
type ComplaintsSearch = { moment?: "after" };
/** Which day is shown, and which week; today's without it. */
type DaySearch = { on?: string };
type WeekSearch = { of?: string };
const ACCOUNT = "/account";
type Context = { queries: QueryClient };

const root = createRootRouteWithContext<Context>()({ component: Outlet });

const signIn = createRoute({
  getParentRoute: () => root,
  path: "/sign-in",
  validateSearch: (search: Record<string, unknown>) => ({
    next: typeof search.next === "string" ? search.next : undefined,
  }),
  component: SignInScreen,
});

const offline = createRoute({
  getParentRoute: () => root,
  path: "/offline",
  validateSearch: (search: Record<string, unknown>) => ({
    next: typeof search.next === "string" ? search.next : undefined,
  }),
  component: OfflineScreen,
});
const setUp = createRoute({
  getParentRoute: () => root,
  path: "/set-up",
  component: lazyRouteComponent(() => import("./screens/welcome/SetUpScreen"), "SetUpScreen"),
});
const join = createRoute({
  getParentRoute: () => root,
  path: "/join",
  component: lazyRouteComponent(() => import("./screens/welcome/JoinScreen"), "JoinScreen"),
});
const newPassword = createRoute({
  getParentRoute: () => root,
  path: "/new-password",
  component: lazyRouteComponent(() => import("./screens/welcome/NewPasswordScreen"), "NewPasswordScreen"),
});

/** Lets whoever is signed in go on; leads everybody else to signing in, and with the server away to the device's PIN. */
async function admit({ context, location }: { context: Context; location: { pathname: string; href: string } }) {
  if (await endSession()) {
    context.queries.clear();
    throw redirect({ to: "/sign-in", search: { next: undefined } });
  }
  try {
    await tellOwedLock();
    const me = await context.queries.ensureQueryData(meQuery);
    if (me.must_enrol && location.pathname !== ACCOUNT) throw redirect({ to: ACCOUNT });
  } catch (error) {
    if (isRedirect(error)) throw error;
    if (error instanceof ApiError && error.problem.code === "covered") return; // the lock asks for what opens it
    // With the server away, what is kept here can still be worked with, once its PIN or passkey has opened it.
    if (error instanceof ApiError && error.away && (await owner())) {
      if ((await locks()).open) return;
      throw redirect({ to: "/offline", search: { next: location.href } });
    }
    throw redirect({ to: "/sign-in", search: { next: location.href } });
  }
}

const inside = createRoute({
  getParentRoute: () => root,
  id: "inside",
  beforeLoad: admit,
  component: () => (
    <Lock>
      <Shell />
    </Lock>
  ),
});

const day = createRoute({
  getParentRoute: () => inside,
  path: "/",
  validateSearch: (search: Record<string, unknown>): DaySearch => ({ on: isDay(search.on) ? search.on : undefined }),
  component: DayScreen,
});
const week = createRoute({
  getParentRoute: () => inside,
  path: "/week",
  validateSearch: (search: Record<string, unknown>): WeekSearch => ({ of: isDay(search.of) ? search.of : undefined }),
  component: lazyRouteComponent(() => import("./screens/week/WeekScreen"), "WeekScreen"),
});
const visit = createRoute({
  getParentRoute: () => inside,
  path: "/visits/$visitId",
  component: lazyRouteComponent(() => import("./screens/visit/VisitScreen"), "VisitScreen"),
});
const followUp = createRoute({
  getParentRoute: () => inside,
  path: "/follow-up",
  component: lazyRouteComponent(() => import("./screens/follow-up/FollowUpScreen"), "FollowUpScreen"),
});
const practice = createRoute({
  getParentRoute: () => inside,
  path: "/practice",
  component: lazyRouteComponent(() => import("./screens/practice/PracticeScreen"), "PracticeScreen"),
});
const account = createRoute({
  getParentRoute: () => inside,
  path: ACCOUNT,
  component: lazyRouteComponent(() => import("./screens/account/AccountScreen"), "AccountScreen"),
});
const handsFree = createRoute({
  getParentRoute: () => inside,
  path: "/hands-free",
  component: lazyRouteComponent(() => import("./screens/hands-free/HandsFreeScreen"), "HandsFreeScreen"),
});
const people = createRoute({
  getParentRoute: () => inside,
  path: "/people",
  component: lazyRouteComponent(() => import("./screens/day/PeopleScreen"), "PeopleScreen"),
});
const audit = createRoute({
  getParentRoute: () => inside,
  path: "/audit",
  validateSearch: (search: Record<string, unknown>): AuditSearch => ({
    person: typeof search.person === "string" ? search.person : undefined,
    who: typeof search.who === "string" ? search.who : undefined,
    day: typeof search.day === "string" ? search.day : undefined,
  }),
  component: lazyRouteComponent(() => import("./screens/audit/AuditScreen"), "AuditScreen"),
});
const safety = createRoute({
  getParentRoute: () => inside,
  path: "/safety",
  component: lazyRouteComponent(() => import("./screens/safety/SafetyScreen"), "SafetyScreen"),
});
const catalogue = createRoute({
  getParentRoute: () => inside,
  path: "/catalogue",
  validateSearch: (search: Record<string, unknown>): CatalogueSearch => ({
    shelf: SHELVES.find((shelf) => shelf === search.shelf),
  }),
  component: lazyRouteComponent(() => import("./screens/catalogue/CatalogueScreen"), "CatalogueScreen"),
});
const person = createRoute({ getParentRoute: () => inside, path: "/people/$personId", component: PersonFrame });
const overview = createRoute({ getParentRoute: () => person, path: "/", component: OverviewScreen });
const story = createRoute({
  getParentRoute: () => person,
  path: "/story",
  component: lazyRouteComponent(() => import("./screens/story/StoryScreen"), "StoryScreen"),
});
const complaints = createRoute({
  getParentRoute: () => person,
  path: "/complaints",
  validateSearch: (search: Record<string, unknown>): ComplaintsSearch => ({
    moment: search.moment === "after" ? "after" : undefined,
  }),
  component: lazyRouteComponent(() => import("./screens/complaints/ComplaintsScreen"), "ComplaintsScreen"),
});
const measures = createRoute({
  getParentRoute: () => person,
  path: "/measures",
  component: lazyRouteComponent(() => import("./screens/measures/MeasuresScreen"), "MeasuresScreen"),
});
const find = createRoute({
  getParentRoute: () => person,
  path: "/find",
  validateSearch: (search: Record<string, unknown>): FindSearch => ({
    id: typeof search.id === "string" ? search.id : undefined,
    side: search.side === "right" ? "right" : undefined,
    group: typeof search.group === "string" ? search.group : undefined,
    view: search.view === "sheets" ? "sheets" : undefined,
  }),
  component: lazyRouteComponent(() => import("./screens/find/FindScreen"), "FindScreen"),
});
const compose = createRoute({
  getParentRoute: () => person,
  path: "/compose",
  component: lazyRouteComponent(() => import("./screens/compose/ComposeScreen"), "ComposeScreen"),
});
const follow = createRoute({
  getParentRoute: () => person,
  path: "/follow",
  component: lazyRouteComponent(() => import("./screens/follow/FollowScreen"), "FollowScreen"),
});
const takeAway = createRoute({
  getParentRoute: () => person,
  path: "/take-away",
  component: lazyRouteComponent(() => import("./screens/take-away/TakeAwayScreen"), "TakeAwayScreen"),
});
const atHome = createRoute({
  getParentRoute: () => person,
  path: "/at-home",
  component: lazyRouteComponent(() => import("./screens/at-home/AtHomeScreen"), "AtHomeScreen"),
});
const file = createRoute({
  getParentRoute: () => person,
  path: "/file",
  component: lazyRouteComponent(() => import("./screens/file/FileScreen"), "FileScreen"),
});
const Treat = lazyRouteComponent(() => import("./screens/treat/TreatScreen"), "TreatScreen");
const treat = createRoute({
  getParentRoute: () => root,
  path: "/treat/$visitId",
  beforeLoad: admit,
  component: () => (
    <Lock>
      <Treat />
    </Lock>
  ),
});

const tree = root.addChildren([
  signIn,
  offline,
  setUp,
  join,
  newPassword,
  treat,
  inside.addChildren([
    day,
    week,
    visit,
    followUp,
    practice,
    account,
    handsFree,
    people,
    safety,
    audit,
    catalogue,
    person.addChildren([overview, story, complaints, measures, find, compose, follow, atHome, takeAway, file]),
  ]),
]);

export const makeRouter = (queries: QueryClient) =>
  createRouter({
    routeTree: tree,
    context: { queries },
    defaultPreload: "intent",
    defaultPendingComponent: () => <Waiting for="Loading" />,
    defaultErrorComponent: ({ error, reset }) => <ErrorPanel error={error} retry={reset} />,
    defaultNotFoundComponent: () => <ErrorPanel error={new ApiError(404, NOT_HERE)} />,
  });

const NOT_HERE = { code: "not_found", message: "There is no page at this address.", where: "", details: [] };

declare module "@tanstack/react-router" {
  interface Register {
    router: ReturnType<typeof makeRouter>;
  }
}
