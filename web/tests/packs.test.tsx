import { cleanup, fireEvent, waitFor } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { Schema } from "../src/api/client";
import { SessionGate } from "../src/api/session";
import { Packs } from "../src/features/packs";
import { ready, words } from "./demo";
import { screen } from "./screen";

afterEach(cleanup);

const line = (number: string, title: string, planned_pa: number | null, state_kind: Schema["StateKind"]): Schema["PackLine"] => ({
  id: number,
  number,
  title,
  form: "pack",
  basis: "ASME B31.3",
  state: state_kind,
  state_kind,
  planned_pa,
  blockers: [],
});
const LINES = [line("CW-10", "Cooling water", 25.91e5, "ready"), line("CW-9", "Cooling towers", 7.65e5, "signed"), line("BR-2", "Brine", null, "blocked")];

async function list() {
  vi.stubGlobal("fetch", async (input: Request | URL) => {
    const path = new URL(input instanceof Request ? input.url : input).pathname;
    return Response.json(
      path.endsWith("/packs") ? LINES : path.endsWith("/words") ? words() : { sign_in: "engineer", role: "engineer", role_words: "engineer", token: "t" },
    );
  });
  const shown = await screen(
    <SessionGate signIn={null}>
      <Packs />
    </SessionGate>,
    ready(),
  );
  await waitFor(() => expect(shown.getByText("Brine")).toBeTruthy());
  const numbers = () => [...shown.container.querySelectorAll("tbody tr")].map((r) => r.querySelector("td")?.textContent);
  return { ...shown, numbers };
}

it("sorts numbers as people count, up and down", async () => {
  const { numbers, getByRole } = await list();
  expect(numbers()).toEqual(["BR-2", "CW-9", "CW-10"]);
  fireEvent.click(getByRole("button", { name: /^number/ }));
  expect(numbers()).toEqual(["CW-10", "CW-9", "BR-2"]);
  expect(getByRole("columnheader", { name: /^number/ }).getAttribute("aria-sort")).toBe("descending");
});

it("sorts by planned pressure, what has none at one end", async () => {
  const { numbers, getByRole } = await list();
  fireEvent.click(getByRole("button", { name: /^planned/ }));
  const first = numbers();
  fireEvent.click(getByRole("button", { name: /^planned/ }));
  expect([first, numbers()].map((n) => n.join()).sort()).toEqual(["BR-2,CW-9,CW-10", "CW-10,CW-9,BR-2"]);
});

it("shows the lines in which every word stands, and only the chosen state", async () => {
  const { numbers, getByLabelText, getByRole, getByText } = await list();
  fireEvent.change(getByLabelText(/Filter by/), { target: { value: "cool WATER" } });
  expect(numbers()).toEqual(["CW-10"]);
  expect(getByText("1 of 3")).toBeTruthy();
  fireEvent.change(getByLabelText(/Filter by/), { target: { value: "" } });
  fireEvent.click(getByRole("button", { name: "signed" }));
  expect(numbers()).toEqual(["CW-9"]);
});

it("says none where no pressure is derived, and keeps the hundredths of a bar", async () => {
  const { container } = await list();
  expect(container.querySelector("tbody")?.textContent).toMatch(/Brine.*none/);
  expect(container.querySelector("tbody")?.textContent).toContain("25.91");
});
