import { cleanup, fireEvent, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Schema } from "../src/api/client";
import { Library } from "../src/features/library";
import { Specification } from "../src/features/specification";
import { ready } from "./demo";
import { screen } from "./screen";

type View = Schema["SpecificationView"];

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const question = (key: string, words: string): Schema["QuestionView"] => ({
  key,
  question: words,
  step: "ready",
  touches: ["manifold"],
  answers: [
    { key: "a", words: "first" },
    { key: "b", words: "second" },
  ],
});
const NAMED = { title: "Materials", columns: ["id", "name", "yield_ksi"], heads: ["id", "name", "yield ksi"], figures: [false, false, true] };
const view = (by: Partial<View> = {}): View => ({
  specification: { schools: {}, bases: {}, library: [] },
  version: 1,
  changed: "",
  may_change: true,
  schools: [question("one", "One?"), question("two", "Two?")],
  bases: [],
  tables: [{ name: "materials", note: "From memory.", ...NAMED, rows: [["a106_b", "A106-B", "35"]], key_columns: 1 }],
  ...by,
});

/** Answers `views` one after the other to who asks, the last for ever; keeps what was sent, and answers it in turn. */
function server(views: View[], answers: { status: number; body: unknown }[] = []) {
  const sent: { match: string | null; body: Schema["Specification"] }[] = [];
  vi.stubGlobal("fetch", async (input: Request) => {
    const json = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
    if (input.method === "GET") return json(views.length > 1 ? views.shift() : views[0]);
    sent.push({ match: input.headers.get("if-match"), body: await input.json() });
    const answer = answers.shift();
    return json(answer?.body ?? view(), answer?.status ?? 200);
  });
  return sent;
}

describe("the project's specification", () => {
  it("sends only what differs, each with its reason, and a default again takes it out", async () => {
    const sent = server([view()]);
    const page = await screen(<Specification />, ready());
    fireEvent.change(await page.findByLabelText("One?"), { target: { value: "b" } });
    fireEvent.change(page.getByLabelText("Reason: One?"), { target: { value: "so agreed" } });
    fireEvent.change(page.getByLabelText("Two?"), { target: { value: "b" } });
    fireEvent.change(page.getByLabelText("Two?"), { target: { value: "a" } });
    fireEvent.click(page.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent.length).toBe(1));
    expect(sent[0]?.match).toBe('"v1"');
    expect(sent[0]?.body.schools).toEqual({ one: { answer: "b", reason: "so agreed" } });
  });

  it("keeps what was chosen when somebody else was faster, and takes over theirs", async () => {
    const theirs = view({ version: 2, specification: { schools: { two: { answer: "b", reason: "theirs" } }, bases: {}, library: [] } });
    const refused = { status: 412, body: { type: "/problems/changed", title: "Changed", status: 412, detail: "The specification was changed by somebody else." } };
    const sent = server([view(), theirs], [refused]);
    const page = await screen(<Specification />, ready());
    fireEvent.change(await page.findByLabelText("One?"), { target: { value: "b" } });
    fireEvent.change(page.getByLabelText("Reason: One?"), { target: { value: "mine" } });
    fireEvent.click(page.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(page.getByText(/changed by somebody else/)).toBeTruthy());
    await waitFor(() => expect((page.getByLabelText("Reason: Two?") as HTMLInputElement).value).toBe("theirs"));
    expect((page.getByLabelText("Reason: One?") as HTMLInputElement).value).toBe("mine");
    fireEvent.click(page.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent.length).toBe(2));
    expect(sent[1]?.match).toBe('"v2"');
    expect(Object.keys(sent[1]?.body.schools ?? {}).sort()).toEqual(["one", "two"]);
  });

  it("is only shown to whoever may not change it", async () => {
    server([view({ may_change: false })]);
    const page = await screen(<Specification />, ready());
    expect((await page.findByLabelText("One?")).hasAttribute("disabled")).toBe(true);
    expect(page.queryByRole("button", { name: "Save" })).toBeNull();
  });
});

describe("the library", () => {
  it("puts the project's value with reason and source, and shows it as the project's", async () => {
    const sent = server([view()]);
    const page = await screen(<Library />, ready());
    fireEvent.click(await page.findByRole("button", { name: "yield_ksi of a106_b: 35" }));
    fireEvent.change(page.getByLabelText(/Value, in the unit/), { target: { value: "42,5" } });
    fireEvent.change(page.getByLabelText("Why it differs"), { target: { value: "mill certificate" } });
    fireEvent.change(page.getByLabelText("Where it comes from"), { target: { value: "MC-118" } });
    fireEvent.click(page.getByRole("button", { name: "Put the project's value" }));
    await waitFor(() => expect(sent.length).toBe(1));
    expect(sent[0]?.body.library).toEqual([{ table: "materials", row: "a106_b", column: "yield_ksi", value: "42.5", reason: "mill certificate", source: "MC-118" }]);
  });

  it("finds rows by any of their words", async () => {
    const rows = [
      ["a106_b", "A106-B", "35"],
      ["tp304", "A312 TP304", "30"],
    ];
    server([view({ tables: [{ name: "materials", note: "From memory.", ...NAMED, rows, key_columns: 1 }] })]);
    const page = await screen(<Library />, ready());
    fireEvent.change(await page.findByLabelText("Find a row"), { target: { value: "a312 304" } });
    expect(page.queryByText("A106-B")).toBeNull();
    expect(page.getByText("A312 TP304")).toBeTruthy();
    fireEvent.change(page.getByLabelText("Find a row"), { target: { value: "unobtainium" } });
    expect(page.getByText("No row has that in it.")).toBeTruthy();
  });
});
