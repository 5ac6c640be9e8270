import { expect, test } from "vitest";
import { changed, rebase } from "../src/api/rebase";

const base = { permit: "", gauge: "PG-1", people: { performs: "a" } };

test("what I did not touch is theirs, what I touched is mine", () => {
  const mine = { ...base, permit: "PTW-7" };
  const theirs = { ...base, gauge: "PG-2", permit: "PTW-6" };
  expect(rebase(base, mine, theirs)).toEqual({ permit: "PTW-7", gauge: "PG-2", people: { performs: "a" } });
});

test("without a change of mine nothing of theirs is lost", () => {
  const theirs = { ...base, people: { performs: "b" } };
  expect(rebase(base, { ...base, people: { performs: "a" } }, theirs)).toEqual(theirs);
});

test("an absent field and an empty one are the same", () => {
  expect(changed({ a: null } as { a?: string | null }, {})).toBe(false);
  expect(changed(base, { ...base, people: { performs: "b" } })).toBe(true);
});
