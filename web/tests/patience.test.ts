import { afterEach, expect, test, vi } from "vitest";
import { again, patient } from "../src/api/client";

afterEach(() => vi.unstubAllGlobals());

const busy = (seconds: string) => new Response("{}", { status: 503, headers: { "retry-after": seconds } });

/** Answers in turn; how often each body was sent. */
function server(...answers: Response[]) {
  const sent: string[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push(`${request.method} ${await request.text()}`);
    return answers[Math.min(sent.length, answers.length) - 1]?.clone();
  });
  return sent;
}

test("a change that the server had no time for is sent again, the same, until it is stored", async () => {
  const sent = server(busy("2"), busy("2"), new Response(null, { status: 204 }));
  const waits: number[] = [];
  const answer = await patient(new Request("http://here/api", { method: "PUT", body: "reading 7" }), async (s) => void waits.push(s));
  expect(answer.status).toBe(204);
  expect(sent).toEqual(["PUT reading 7", "PUT reading 7", "PUT reading 7"]);
  expect(waits).toEqual([2, 2]);
});

test("it does not go on for ever, and nothing else is sent twice", async () => {
  const never = server(busy("2"));
  expect((await patient(new Request("http://here/api", { method: "PUT" }), async () => {})).status).toBe(503);
  expect(never.length).toBe(4);
  // what has no id of its own might be done twice; a long wait is the person's to decide
  const once = server(busy("2"));
  await patient(new Request("http://here/api", { method: "POST" }), async () => {});
  expect(once.length).toBe(1);
  const long = server(busy("20"));
  await patient(new Request("http://here/api", { method: "PUT" }), async () => {});
  expect(long.length).toBe(1);
});

test("a question is asked again while the server is busy, not when it was answered", () => {
  expect(again(4, { status: 503 })).toBe(true);
  expect(again(5, { status: 503 })).toBe(false);
  expect(again(0, { status: 404 })).toBe(false);
  expect(again(0, new TypeError("network"))).toBe(true);
  expect(again(1, new TypeError("network"))).toBe(false);
});
