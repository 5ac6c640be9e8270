import { cleanup, fireEvent, within } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { RecordRead } from "../src/features/judge/record-read";
import { hold, running } from "./demo";
import { screen } from "./screen";

afterEach(cleanup);

async function read(change: (view: ReturnType<typeof hold>) => void = () => {}, judge = true) {
  const pack = running();
  pack.may.judge = judge;
  const attempt = pack.attempts.at(-1);
  if (!attempt) throw new Error("the demo's run is on");
  const view = hold();
  const start = view.hold?.start_s ?? 0;
  view.stretches = [
    { kind: "ramp", start_s: start - 900, end_s: start - 300 },
    { kind: "stabilise", start_s: start - 300, end_s: start },
    { kind: "hold", start_s: start, end_s: start + 3000 },
  ];
  change(view);
  return { view, start, attempt, ...(await screen(<RecordRead attempt={attempt} view={view} defects={[]} />, pack)) };
}

it("lets every boundary be moved but the first and those of the hold, which are moved as such", async () => {
  const { getAllByRole, getByRole } = await read();
  expect(getAllByRole("button", { name: /^move where/ }).map((b) => b.textContent)).toEqual(["move"]);
  fireEvent.click(getByRole("button", { name: /^move where settling begins/ }));
  const asked = within(getByRole("dialog"));
  fireEvent.click(asked.getByRole("button", { name: "Book it" }));
  expect(asked.getByText("Say why, in a few words.")).toBeTruthy();
});

it("keeps what was found beside what a person made of it", async () => {
  const { getByText } = await read((view) => {
    const [, settling] = view.stretches;
    if (!settling) throw new Error("it settles");
    const found = settling.start_s;
    settling.found_start_s = found;
    settling.start_s = found + 40;
    view.moved = [{ boundary: "between", found_s: found, moved_s: found + 40, reason: "by the pump's log", by: "supervisor" }];
  });
  expect(getByText(/begins where moved from \d\d:\d\d:\d\d by supervisor: by the pump's log/)).toBeTruthy();
});

it("offers nothing to those who only look on", async () => {
  const { queryAllByRole } = await read(() => {}, false);
  expect(queryAllByRole("button")).toEqual([]);
});
