import { cleanup, fireEvent, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { Schema } from "../src/api/client";
import { Packs } from "../src/features/packs";
import { setWords } from "../src/api/words";
import { ready, words } from "./demo";
import { screen } from "./screen";

afterEach(cleanup);
beforeEach(() => {
  // what is drawn depends on how high the page is, which nothing has here
  vi.spyOn(Element.prototype, "clientHeight", "get").mockReturnValue(800);
  vi.spyOn(Element.prototype, "clientWidth", "get").mockReturnValue(1200);
});

const line = (number: string, title: string, change: Partial<Schema["PackLine"]> = {}): Schema["PackLine"] => ({
  id: number,
  project: "p",
  project_name: "Power house",
  number,
  title,
  form: "pack",
  basis: "ASME B31.3",
  state: "2 things stop this pack",
  state_kind: "blocked",
  renewing: false,
  planned_pa: 25.91e5,
  blockers: [],
  blinds: [],
  step: "ready",
  ...change,
});

/** The list, with the questions that it asked of the server. Pages are answered by the place behind which they begin. */
async function list(pages: Record<string, Schema["Lines"]>) {
  const asked: URLSearchParams[] = [];
  vi.stubGlobal("fetch", async (input: Request | URL) => {
    const url = new URL(input instanceof Request ? input.url : input);
    asked.push(url.searchParams);
    return Response.json(pages[url.searchParams.get("after") ?? ""]);
  });
  setWords(words());
  const shown = await screen(
    <main id="main">
      <Packs />
    </main>,
    ready(),
  );
  const numbers = () => [...shown.container.querySelectorAll("tbody td:first-child")].map((c) => c.textContent);
  const last = () => Object.fromEntries(asked.at(-1) ?? []);
  await waitFor(() => expect(asked.length).toBeGreaterThan(0));
  return { ...shown, numbers, asked, last };
}

const ONE = { "": { lines: [line("CW-9", "Cooling towers"), line("CW-10", "Cooling water")], next: null, total: 2 } };

it("leaves order and choice to the server, and says in the table which they are", async () => {
  const { numbers, last, getByRole, getByText } = await list(ONE);
  await waitFor(() => expect(numbers()).toEqual(["CW-9", "CW-10"]));
  expect(getByText("2 of 2")).toBeTruthy();
  fireEvent.click(getByRole("button", { name: /^planned/ }));
  await waitFor(() => expect(last()).toEqual({ sort: "planned" }));
  await waitFor(() => expect(getByRole("columnheader", { name: /^planned/ }).getAttribute("aria-sort")).toBe("ascending"));
  fireEvent.click(getByRole("button", { name: /^planned/ }));
  await waitFor(() => expect(last()).toEqual({ sort: "planned", down: "true" }));
  fireEvent.click(getByRole("button", { name: "signed" }));
  await waitFor(() => expect(last()).toEqual({ sort: "planned", down: "true", state: "signed" }));
});

it("asks once the keys rest, not for every letter", async () => {
  const { last, asked, getByLabelText } = await list(ONE);
  const before = asked.length;
  for (const value of ["c", "co", "coo", "cool"]) fireEvent.change(getByLabelText(/Filter by/), { target: { value } });
  await waitFor(() => expect(last()).toEqual({ q: "cool" }));
  expect(asked.length).toBe(before + 1);
});

it("reads on before its end is seen, behind the place that the page before named", async () => {
  const first = Array.from({ length: 30 }, (_, i) => line(`A-${i}`, "First page"));
  const { numbers, asked } = await list({
    "": { lines: first, next: '["a","1"]', total: 31 },
    '["a","1"]': { lines: [line("Z-1", "Last of all")], next: null, total: 31 },
  });
  await waitFor(() => expect(asked.some((a) => a.get("after") === '["a","1"]')).toBe(true));
  await waitFor(() => expect(numbers()).toContain("Z-1"));
  expect(asked.filter((a) => a.get("after")).length).toBe(1);
});

it("says none where no pressure is derived, keeps the hundredths of a bar, and that a line is being renewed", async () => {
  const { container } = await list({
    "": {
      lines: [
        line("BR-2", "Brine", { planned_pa: null }),
        line("CW-9", "Cooling", { state: "holding, attempt 1", state_kind: "running", renewing: true }),
        line("CW-10", "Towers", { state: "being renewed", planned_pa: null, renewing: true }),
      ],
      next: null,
      total: 3,
    },
  });
  await waitFor(() => expect(container.querySelector("tbody")?.textContent).toMatch(/Brine.*none/));
  const rows = [...container.querySelectorAll("tbody tr")].map((r) => r.textContent);
  expect(rows[1]).toContain("25.91");
  expect(rows[1]).toMatch(/holding, attempt 1, being renewed$/);
  expect(rows[2]).toMatch(/nonebeing renewed$/);
});

it("shows beside a filter by what is missing the sentence that says so", async () => {
  const blockers = [
    { rule: "GATE-PERMIT", sentence: "No permit number.", who: "supervisor", step: "ready" },
    { rule: "GATE-PEOPLE", sentence: "Nobody is named.", who: "engineer", step: "ready" },
  ];
  history.replaceState(null, "", "/packs");
  const { container, last, getByRole } = await list({ "": { lines: [line("BR-2", "Brine", { blockers })], next: null, total: 1 } });
  await waitFor(() => expect(container.querySelector("tbody")?.textContent).toContain("Brine"));
  expect(container.querySelector("tbody")?.textContent).not.toContain("permit");
  fireEvent.click(getByRole("button", { name: "stopped" }));
  await waitFor(() => expect(last()).toEqual({ state: "blocked" }));
});
