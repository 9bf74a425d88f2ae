import { t } from "@lingui/core/macro";
import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];
export type MapView = Schemas["MapView"];
export type RecordType = Schemas["RecordTypeView"];
export type RecordView = Schemas["RecordView"];
export type Plan = Schemas["PlanView"];
export type LinkedMerge = Schemas["LinkedMerge"];
export type Clearing = Schemas["ClearingView"];
export type Offer = Schemas["OfferView"];
export type PlanField = Schemas["PlanField"];
export type PlanRequest = Schemas["PlanRequest"];
export type EntrySummary = Schemas["EntrySummary"];
export type Job = Schemas["JobView"];
export type Cluster = Schemas["ClusterView"];
export type Pair = Schemas["PairView"];
export type Overview = Schemas["OverviewView"];
export type MapReading = Schemas["MapDetailsView"];
export type RecordTypeDetails = Schemas["RecordTypeDetails"];
/** Whether the service works. */
export interface Health {
  status: string;
  version: string;
}
export type RuleView = Schemas["RuleView"];
export type RuleTrial = Schemas["RuleTrialView"];
export type SamplePair = Schemas["SamplePairView"];
export type ComparableField = Schemas["ComparableFieldView"];
export type HistoryQuery = NonNullable<paths["/api/history"]["get"]["parameters"]["query"]>;
export type ClusterPlace = Schemas["ClusterPlaceView"];
export type PlaceQuery = NonNullable<paths["/api/clusters/{id}/place"]["get"]["parameters"]["query"]>;
export type ClusterQuery = NonNullable<paths["/api/clusters"]["get"]["parameters"]["query"]>;
export type Comment = Schemas["CommentView"];
export type SavedView = Schemas["SavedViewView"];
export type Session = Schemas["SessionView"];
export type User = Schemas["UserView"];

/** The service refused a request, or could not be reached; nothing was changed by it. */
export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.title);
  }
}

/** True if a call failed because nobody is signed in, or not any longer. */
export const isSignedOut = (error: unknown) => error instanceof Refused && error.problem.status === 401;

let antiForgery: string | null = null;

/** Remembers the token that has to go with every change. */
export function keepAntiForgery(session: Session): Session {
  antiForgery = session.antiForgery;
  return session;
}

const carryAntiForgery: Middleware = {
  onRequest({ request }) {
    if (antiForgery) request.headers.set("X-Kettlefog-Antiforgery", antiForgery);
    return request;
  },
};

const http = createClient<paths>({ baseUrl: globalThis.location?.origin ?? "" });
http.use(carryAntiForgery);

function problemOf(status: number, title: string, hint: string): Problem {
  return { type: "about:blank", title, status, code: "unexpected", hint, details: [], traceId: null };
}

/** Gives a call's answer, or throws what the service said instead. */
async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<NonNullable<T>> {
  let result: { data?: T; error?: unknown; response: Response };
  try {
    result = await call;
  } catch {
    throw new Refused(
      problemOf(
        0,
        t`The service cannot be reached.`,
        t`Check that it runs, and your connection; then try again.`,
      ),
    );
  }
  if (result.response.ok) return result.data as NonNullable<T>;
  const said = result.error as Partial<Problem> | undefined;
  throw new Refused(
    said && typeof said === "object" && said.code
      ? { ...problemOf(result.response.status, "", ""), ...said }
      : problemOf(
          result.response.status,
          t`The service answered with status ${result.response.status}.`,
          t`Try again.`,
        ),
  );
}

/** Beyond this the service answers that the work goes on as a job. */
const prefer = "respond-async, wait=1";

/** Follows a job to its end. A connection that is lost comes again by itself, and with it how the job stands. */
function end(id: string, told: (job: Job) => void): Promise<Job> {
  return new Promise((resolve, reject) => {
    const source = new EventSource(`/api/jobs/${encodeURIComponent(id)}/events`);
    source.addEventListener("job", (event) => {
      const job = JSON.parse((event as MessageEvent<string>).data) as Job;
      told(job);
      if (job.state === "running") return;
      source.close();
      resolve(job);
    });
    source.onerror = () => {
      // The service answered, but does not know it: it says itself what to make of that.
      if (source.readyState === EventSource.CLOSED) api.job(id).then(resolve, reject);
    };
  });
}

/** Waits for the end of what goes on as a job, and gives its answer; throws what the service said instead. */
async function follow<T extends object>(
  started: Promise<T | Job>,
  pick: (job: Job) => T | null,
  told: (job: Job) => void,
): Promise<T> {
  const first = await started;
  if (!("totalRows" in first)) return first;
  told(first);
  const job = await end(first.id, told);
  const done = pick(job);
  if (done) return done;
  throw new Refused(job.problem ?? problemOf(0, t`It was stopped.`, t`Nothing was changed.`));
}

/** The calls of the API, each by its operation's name. */
export const api = {
  session: () => answer(http.GET("/api/session")).then(keepAntiForgery),
  signIn: (body: Schemas["SignInBody"]) => answer(http.POST("/api/session", { body })).then(keepAntiForgery),
  signOut: () => answer(http.DELETE("/api/session")),
  map: () => answer(http.GET("/api/map")),
  mapReading: () => answer(http.GET("/api/map/details")),
  users: () => answer(http.GET("/api/users")),
  addUser: (body: Schemas["NewUser"]) => answer(http.POST("/api/users", { body })),
  changeUser: (name: string, body: Schemas["UserChangeBody"]) =>
    answer(http.PATCH("/api/users/{name}", { params: { path: { name } }, body })),
  changePassword: (body: Schemas["PasswordBody"]) => answer(http.PUT("/api/session/password", { body })),
  sessions: () => answer(http.GET("/api/sessions")),
  endSession: (id: number) => answer(http.DELETE("/api/sessions/{id}", { params: { path: { id } } })),
  endSessions: (name: string) =>
    answer(http.DELETE("/api/users/{name}/sessions", { params: { path: { name } } })),
  tokens: () => answer(http.GET("/api/tokens")),
  issueToken: (label: string, days: number, role: string | null) =>
    answer(http.POST("/api/tokens", { body: { label, name: null, password: null, days, role } })),
  revokeToken: (id: number) => answer(http.DELETE("/api/tokens/{id}", { params: { path: { id } } })),
  health: () => fetch("/healthz").then((response) => response.json() as Promise<Health>),
  search: (
    type: string,
    query: { q?: string; sort?: string; page?: number; size?: number; retired?: boolean },
  ) => answer(http.GET("/api/records/{type}", { params: { path: { type }, query } })),
  fieldChoices: (type: string, field: string) =>
    answer(http.GET("/api/field-choices/{type}/{field}", { params: { path: { type, field } } })),
  record: (type: string, key: string) =>
    answer(http.GET("/api/records/{type}/{key}", { params: { path: { type, key } } })),
  recordHistory: (type: string, key: string) =>
    answer(http.GET("/api/records/{type}/{key}/history", { params: { path: { type, key } } })),
  related: (type: string, key: string, reference: string, page: number, size: number, q: string) =>
    answer(
      http.GET("/api/records/{type}/{key}/related/{reference}", {
        params: { path: { type, key, reference }, query: { page, size, ...(q && { q }) } },
      }),
    ),
  plan: (body: PlanRequest) => answer(http.POST("/api/plans", { body })),
  merge: (body: Schemas["MergeBody"], key: string, told: (job: Job) => void) =>
    follow<Schemas["EntryView"]>(
      answer(
        http.POST("/api/merges", { body, params: { header: { "Idempotency-Key": key, Prefer: prefer } } }),
      ),
      (job) => job.merge,
      told,
    ),
  job: (id: string) => answer(http.GET("/api/jobs/{id}", { params: { path: { id } } })),
  stopJob: (id: string) => answer(http.DELETE("/api/jobs/{id}", { params: { path: { id } } })),
  overview: () => answer(http.GET("/api/overview")),
  clusters: (query: ClusterQuery) => answer(http.GET("/api/clusters", { params: { query } })),
  clusterPlace: (id: number, query: PlaceQuery) =>
    answer(http.GET("/api/clusters/{id}/place", { params: { path: { id }, query } })),
  cluster: (id: number) => answer(http.GET("/api/clusters/{id}", { params: { path: { id } } })),
  claim: (id: number, force = false) =>
    answer(http.POST("/api/clusters/{id}/claim", { params: { path: { id }, query: { force } } })),
  // Also when the page is closed at once.
  release: (id: number) =>
    answer(http.DELETE("/api/clusters/{id}/claim", { params: { path: { id } }, keepalive: true })),
  markNonDuplicates: (id: number, body: Schemas["NonDuplicatesBody"]) =>
    answer(http.POST("/api/clusters/{id}/non-duplicates", { params: { path: { id } }, body })),
  addComment: (id: number, text: string) =>
    answer(http.POST("/api/clusters/{id}/comments", { params: { path: { id } }, body: { text } })),
  removeComment: (comment: number) =>
    answer(http.DELETE("/api/clusters/comments/{comment}", { params: { path: { comment } } })),
  views: () => answer(http.GET("/api/views")),
  saveView: (body: Schemas["SavedViewBody"]) => answer(http.POST("/api/views", { body })),
  removeView: (id: number) => answer(http.DELETE("/api/views/{id}", { params: { path: { id } } })),
  assignees: () => answer(http.GET("/api/assignees")),
  decideClusters: (body: Schemas["ClusterDecisionsBody"]) =>
    answer(http.POST("/api/clusters/decisions", { body })),
  markPairNonDuplicates: (body: Schemas["PairBody"]) => answer(http.POST("/api/non-duplicates", { body })),
  reopenEntry: (number: number, reason: string) =>
    answer(http.POST("/api/history/{number}/reopening", { params: { path: { number } }, body: { reason } })),
  addScan: (recordType: string) => answer(http.POST("/api/scans", { body: { recordType, scope: "whole" } })),
  moveScan: (id: number, to: "stop" | "resume" | "cancel") => {
    const params = { path: { id } };
    switch (to) {
      case "stop":
        return answer(http.POST("/api/scans/{id}/stop", { params }));
      case "resume":
        return answer(http.POST("/api/scans/{id}/resume", { params }));
      default:
        return answer(http.POST("/api/scans/{id}/cancel", { params }));
    }
  },
  explain: (body: Schemas["PairBody"]) => answer(http.POST("/api/explanations", { body })),
  similar: (type: string, key: string) =>
    answer(http.GET("/api/records/{type}/{key}/similar", { params: { path: { type, key } } })),
  learning: (type: string) =>
    answer(http.GET("/api/match-rules/{type}/learning", { params: { path: { type } } })),
  rules: (type: string) => answer(http.GET("/api/match-rules/{type}", { params: { path: { type } } })),
  comparableFields: (type: string) =>
    answer(http.GET("/api/match-rules/{type}/fields", { params: { path: { type } } })),
  ruleVersions: (type: string, name: string) =>
    answer(http.GET("/api/match-rules/{type}/{name}/versions", { params: { path: { type, name } } })),
  tryRule: (type: string, body: string, replaces: string | null, signal: AbortSignal) =>
    answer(
      http.POST("/api/match-rules/{type}/trials", {
        params: { path: { type } },
        body: { body, replaces },
        signal,
      }),
    ),
  saveRule: (type: string, name: string, body: Schemas["RuleBody"]) =>
    answer(http.PUT("/api/match-rules/{type}/{name}", { params: { path: { type, name } }, body })),
  removeRule: (type: string, name: string, note: string) =>
    answer(
      http.DELETE("/api/match-rules/{type}/{name}", { params: { path: { type, name }, query: { note } } }),
    ),
  checkHistory: (checkpoint?: string) =>
    answer(
      http.GET("/api/history/check", { params: { query: checkpoint === undefined ? {} : { checkpoint } } }),
    ),
  signCheckpoint: () => answer(http.GET("/api/history/checkpoint")),
  proveEntry: (number: number) =>
    answer(http.GET("/api/history/{number}/proof", { params: { path: { number } } })),
  history: (query: HistoryQuery) => answer(http.GET("/api/history", { params: { query } })),
  entry: (number: number) => answer(http.GET("/api/history/{number}", { params: { path: { number } } })),
  planReversal: (number: number, body: Schemas["ReversalPlanBody"]) =>
    answer(http.POST("/api/merges/{number}/reversal-plans", { params: { path: { number } }, body })),
  reverse: (number: number, body: Schemas["ReversalBody"], key: string, told: (job: Job) => void) =>
    follow<Schemas["ReversalResult"]>(
      answer(
        http.POST("/api/merges/{number}/reversals", {
          params: { path: { number }, header: { "Idempotency-Key": key, Prefer: prefer } },
          body,
        }),
      ),
      (job) => job.reversal,
      told,
    ),
};
