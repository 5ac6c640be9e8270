import { cleanup, fireEvent, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { GridRow, Plan } from "../src/api/client";
import { blankRow, putIn, withUnits } from "../src/features/derive/grid-rows";
import { PartsEditor } from "../src/features/derive/parts-editor";
import { PlanFields } from "../src/planning";
import { ready } from "./demo";
import { problem, screen, server } from "./screen";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

/** The pack as somebody else left it. */
function newer(change: Partial<Plan>, title = "Somebody else's title") {
  const pack = ready();
  return { ...pack, version: pack.version + 1, title, plan: { ...pack.plan, ...change } };
}

describe("fields of the plan", () => {
  const show = ["permit", "people", "gauge"] as const;
  const permit = (form: Awaited<ReturnType<typeof screen>>) => form.getByLabelText("Permit number") as HTMLInputElement;
  const save = (form: Awaited<ReturnType<typeof screen>>) => fireEvent.submit(form.getByRole("button", { name: "Save" }));

  it("save with the version on which the typing began", async () => {
    const pack = ready();
    const sent = server(pack, { body: { ...pack, version: pack.version + 1 } });
    const form = await screen(<PlanFields show={show} />, pack);
    fireEvent.change(permit(form), { target: { value: "PTW-9" } });
    save(form);
    await waitFor(() => expect(sent.length).toBe(1));
    expect(sent[0]?.headers.get("if-match")).toBe(`"v${pack.version}"`);
    expect(sent[0]?.body).toMatchObject({ plan: { permit_number: "PTW-9" } });
  });

  it("keep what was typed when somebody else was faster, and take over the rest", async () => {
    const pack = ready();
    const theirs = newer({ water_temperature_c: 9, permit_number: "PTW-OTHER" });
    const sent = server(theirs, problem(412, "engineer changed this pack after you opened it."), { body: theirs });
    const form = await screen(<PlanFields show={show} />, pack);
    fireEvent.change(permit(form), { target: { value: "PTW-9" } });
    save(form);
    await waitFor(() => expect(form.getByText(/engineer changed this pack/)).toBeTruthy());
    expect(permit(form).value).toBe("PTW-9");
    save(form);
    await waitFor(() => expect(sent.length).toBe(2));
    expect(sent[1]?.headers.get("if-match")).toBe(`"v${theirs.version}"`);
    const body = sent[1]?.body as { plan: Plan; title: string };
    expect(body.plan.permit_number).toBe("PTW-9");
    expect(body.plan.water_temperature_c).toBe(9);
    expect(body.title).toBe("Somebody else's title");
  });

  it("refuse a height that is no number without asking the server", async () => {
    const sent = server(ready());
    const form = await screen(<PlanFields show={show} />, ready());
    fireEvent.change(form.getByLabelText("Read at height, m"), { target: { value: "one metre" } });
    save(form);
    await waitFor(() => expect(form.getByText(/is no figure/)).toBeTruthy());
    expect(sent).toEqual([]);
  });

  it("cannot be changed by whoever may not, nor while a test runs", async () => {
    server(ready());
    for (const pack of [
      { ...ready(), may: { ...ready().may, plan: false } },
      { ...ready(), locked: "Attempt 1 is under way." },
    ]) {
      const form = await screen(<PlanFields show={show} />, pack);
      expect(permit(form).closest("fieldset")?.disabled).toBe(true);
      expect(form.queryByRole("button", { name: "Save" })).toBeNull();
      cleanup();
    }
  });
});

describe("grid of parts", () => {
  const cell = (grid: Awaited<ReturnType<typeof screen>>, column: string, row: number) => grid.getByLabelText(`${column}, row ${row}`) as HTMLInputElement;

  it("asks what the columns of a block are when it is pasted without names, and puts it in from the cell where it is pasted", async () => {
    const pack = { ...ready(), rows: [] };
    const read = (line: number, typed: Record<string, string>) => ({ line, row: { typed }, part: {}, problems: [] });
    const bare = { rows: [], ignored_columns: [], good: 0, headed: false, first_line: ["Run", "pipe", "18,5"], separator: "\t" };
    const named = {
      rows: [read(1, { tag: "Run", kind: "pipe", height: "18,5" }), read(2, { tag: "B", kind: "valve", height: "3" })],
      ignored_columns: [],
      good: 2,
      headed: true,
    };
    const sent = server(pack, { body: bare }, { body: named });
    const grid = await screen(<PartsEditor onDone={() => {}} />, pack);
    fireEvent.paste(cell(grid, "tag", 2), { clipboardData: { getData: () => "Run\tpipe\t18,5\r\nB\tvalve\t3\r\n" } });
    await waitFor(() => expect(grid.getByText(/which column is which/)).toBeTruthy());
    expect((grid.getByLabelText("“18,5”") as HTMLSelectElement).value, "offered in the grid's order").toBe("height");
    fireEvent.submit(grid.getByRole("button", { name: "Read it so" }));
    await waitFor(() => expect(grid.getByRole("heading", { name: "What was pasted: 2 of 2 rows good" })).toBeTruthy());
    fireEvent.click(grid.getByRole("button", { name: "Take these rows" }));
    await waitFor(() => expect(cell(grid, "height", 2).value).toBe("18,5"));
    expect(cell(grid, "tag", 3).value).toBe("B");
    expect(sent.filter((s) => s.path.endsWith("/preview")).map((s) => s.headers.get("x-units"))).toEqual(["bar", "bar"]);
  });

  it("carries the unit under which a bare pressure was typed when the unit beside it changes, or was stored before units were kept", async () => {
    const rows: GridRow[] = [{ typed: { tag: "A", rating: "80", limit: "66 bar" } }, { typed: { tag: "B", height: "3" } }];
    const pressures = ["rating", "limit"].map((name) => ({ name, unit: "", dimension: "gauge_pressure_pa", small: false, seldom: false, example: "" }) as const);
    expect(withUnits(rows, pressures, "psi")[0]?.typed).toEqual({ tag: "A", rating: "80 psi", limit: "66 bar" });
    expect(withUnits(rows, pressures, "psi")[1]).toBe(rows[1]);
    expect(putIn([rows[0] ?? blankRow(), { typed: {} }], 1, [rows[1] ?? blankRow()])).toEqual(rows);
    const pack = { ...ready(), rows };
    server(pack);
    const grid = await screen(<PartsEditor onDone={() => {}} />, pack);
    expect(cell(grid, "rating", 1).value).toBe("80 bar");
  });

  it("marks the cell that an objection names, with its sentence", async () => {
    const pack = ready();
    const tag = pack.rows[0]?.typed.tag ?? "";
    const against = {
      ...pack,
      against: [{ rule: "R", part: tag, field: "material", name: "material", step: "derive", sentence: "Say what it is made of.", says: "Say what it is made of." }],
    };
    server(against);
    const grid = await screen(<PartsEditor onDone={() => {}} />, against);
    expect(cell(grid, "material", 1).title).toBe("Say what it is made of.");
    expect(cell(grid, "material", 1).getAttribute("aria-invalid")).toBe("true");
    expect(cell(grid, "size", 1).getAttribute("aria-invalid")).toBeNull();
  });

  it("leaves a single pasted word to the field itself", async () => {
    const pack = { ...ready(), rows: [] };
    server(pack);
    const grid = await screen(<PartsEditor onDone={() => {}} />, pack);
    const event = fireEvent.paste(cell(grid, "tag", 1), { clipboardData: { getData: () => "Run" } });
    expect(event, "not prevented").toBe(true);
  });

  it("keeps the rows when somebody else was faster, and says how many rows are there now", async () => {
    const pack = ready();
    const theirs = { ...newer({}), rows: [{ typed: { tag: "Only one" } }] };
    const sent = server(theirs, problem(412, "engineer changed this pack after you opened it."), { body: theirs });
    let done = false;
    const grid = await screen(<PartsEditor onDone={() => (done = true)} />, pack);
    fireEvent.change(cell(grid, "height", 1), { target: { value: "19" } });
    fireEvent.click(grid.getByRole("button", { name: "Save the parts" }));
    await waitFor(() => expect(grid.getByText(/engineer changed this pack.*now has 1 row/)).toBeTruthy());
    expect(cell(grid, "height", 1).value).toBe("19");
    expect(done).toBe(false);
    fireEvent.click(grid.getByRole("button", { name: "Save the parts" }));
    await waitFor(() => expect(done).toBe(true));
    const puts = sent.filter((s) => s.method === "PUT");
    expect(puts.map((s) => s.headers.get("if-match"))).toEqual([`"v${pack.version}"`, `"v${theirs.version}"`]);
  });

  it("shows each row's fate of a file before it takes them, and says when the file cannot be read", async () => {
    const pack = { ...ready(), rows: [] };
    const row = (line: number, tag: string, problems: unknown[]) => ({
      line,
      row: { typed: { tag, kind: "vessel", height: "3,2", limit: "1200 psi" } },
      part: problems.length ? null : {},
      problems,
    });
    const fate = { rows: [row(2, "V-1", []), row(3, "V-2", [{ column: "height", sentence: "height is missing." }])], ignored_columns: ["Remark"], good: 1, headed: true };
    server(pack, { body: fate }, problem(422, "The file is not text (byte 0 is zero): export it as CSV."));
    const grid = await screen(<PartsEditor onDone={() => {}} />, pack);
    const bring = () => fireEvent.change(grid.getByLabelText("Read a file (CSV, XLSX, INP)"), { target: { files: [new File(["x"], "parts.csv")] } });
    bring();
    await waitFor(() => expect(grid.getByText("parts.csv: 1 of 2 rows good")).toBeTruthy());
    expect(grid.getByText(/height is missing/)).toBeTruthy();
    expect(grid.getByText(/Remark/)).toBeTruthy();
    fireEvent.click(grid.getByRole("button", { name: /Take them to the grid/ }));
    await waitFor(() => expect(cell(grid, "limit", 1).value).toBe("1200 psi"));
    bring();
    await waitFor(() => expect(grid.getByText(/export it as CSV/)).toBeTruthy());
    expect(cell(grid, "tag", 2).value, "what stood in the grid stays").toBe("V-2");
  });

  it("moves with the arrow keys and adds a row below the last", async () => {
    const pack = ready();
    server(pack);
    const grid = await screen(<PartsEditor onDone={() => {}} />, pack);
    const rows = pack.rows.length;
    fireEvent.keyDown(cell(grid, "tag", rows), { key: "ArrowDown" });
    await waitFor(() => expect(document.activeElement).toBe(cell(grid, "tag", rows + 1)));
    fireEvent.keyDown(cell(grid, "tag", rows + 1), { key: "ArrowUp" });
    await waitFor(() => expect(document.activeElement).toBe(cell(grid, "tag", rows)));
  });
});
