import createClient from "openapi-fetch";
import createQueryClient from "openapi-react-query";
import type { components, paths } from "./schema.gen";

export type Schema = components["schemas"];
export type Pack = Schema["PackView"];
export type Attempt = Schema["AttemptView"];
export type Plan = Schema["Plan"];
export type GridRow = Schema["GridRow"];
export type Derived = Schema["Derived"];
export type Problem = Schema["ProblemBody"];

let token = "";
/** The session's token goes back with every change. */
export function setToken(value: string) {
  token = value;
}
export function getToken() {
  return token;
}

// whoever signed in again in another tab comes back with another token
window.addEventListener("focus", async () => {
  if (!token) return;
  try {
    const answer = await fetch(new URL("/api/v1/session", location.origin));
    if (answer.ok) token = (await answer.json()).token;
  } catch {
    // the server cannot be reached: the next change says so
  }
});

/** A change was sent and no answer came. */
class NoAnswer extends TypeError {}

/** A change that the server had no time for, or its database, is sent again by itself: its id is the same, so it is stored once. */
export async function patient(request: Request, wait = (s: number) => new Promise((go) => setTimeout(go, 1000 * s))): Promise<Response> {
  for (let turn = 0; ; turn++) {
    const answer = await fetch(request.clone()).catch((e: unknown) => {
      throw ["GET", "HEAD"].includes(request.method) ? e : new NoAnswer();
    });
    const seconds = Number(answer.headers.get("retry-after") ?? Number.NaN);
    if (request.method !== "PUT" || answer.status !== 503 || turn >= 3 || !(seconds <= 5)) return answer;
    await wait(seconds);
  }
}

export const http = createClient<paths>({ baseUrl: location.origin, fetch: (request) => patient(request) });
/** Header that names the units in which the person reads. */
export const UNITS_HEADER = "x-units";
const OWN = ["unit", "unit-temperature", "unit-length", "unit-volume"];
/** The person's own units in words, as the server reads them; what they did not choose is the project's, and a pressure then that of the gauge. */
export function unitWords(): string {
  return OWN.map((key) => localStorage.getItem(key))
    .filter(Boolean)
    .join(",");
}
http.use({
  onRequest({ request }) {
    if (token) request.headers.set("x-request-token", token);
    const units = unitWords();
    if (units && !request.headers.has(UNITS_HEADER)) request.headers.set(UNITS_HEADER, units);
    return request;
  },
});

/** Queries and mutations by path, typed from the description of the API. */
export const api = createQueryClient(http);

/** The sentence of a problem, whatever went wrong. */
export function sentence(error: unknown): string {
  if (error && typeof error === "object" && "detail" in error && typeof error.detail === "string") return error.detail;
  if (error instanceof NoAnswer)
    return "The connection broke: it is not known whether this was stored. What you typed is still here; sending it again is safe, it is stored once.";
  if (error instanceof TypeError) return "The server cannot be reached. What you typed is still here: try again when it can.";
  return "Something went wrong that this program has no words for. Nothing was stored: try again.";
}

/** Whether a question is asked once more: where the network failed, once; where the server or its database was busy, a few times. */
export function again(failures: number, error: unknown): boolean {
  if (error instanceof TypeError) return failures < 1;
  return Boolean(error && typeof error === "object" && "status" in error && error.status === 503) && failures < 5;
}

/** Why a change was not taken, in a sentence; empty when it was. */
export async function refusal(change: Promise<{ error?: unknown }>): Promise<string> {
  try {
    const { error } = await change;
    return error ? sentence(error) : "";
  } catch (e) {
    return sentence(e);
  }
}

/** Sends a file to be looked at; what is there to see, or why not. */
export async function look<T>(path: string, file: Blob, units = unitWords()): Promise<{ seen: T; why: "" } | { seen: null; why: string }> {
  try {
    const headers = { "content-type": "application/octet-stream", "x-request-token": token, ...(units ? { [UNITS_HEADER]: units } : {}) };
    const answer = await fetch(new URL(path, location.origin), { method: "POST", body: file, headers });
    const body = await answer.json();
    return answer.ok ? { seen: body, why: "" } : { seen: null, why: sentence(body) };
  } catch (e) {
    return { seen: null, why: sentence(e) };
  }
}

/** The field that a problem names, without its path. */
export function problemField(error: unknown): string | undefined {
  if (error && typeof error === "object" && "field" in error && typeof error.field === "string") return error.field;
  return undefined;
}

/** True when somebody else changed the thing first. */
export function isOutrun(error: unknown): boolean {
  return Boolean(error && typeof error === "object" && "status" in error && error.status === 412);
}

/** A new id, made here so that sending twice stores once. */
export function newId(): string {
  return crypto.randomUUID();
}
