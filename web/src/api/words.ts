import type { Schema } from "./client";

type Words = Schema["Words"];
/** A kind of term. */
export type Kind = Exclude<keyof Words, "note" | "by_hand">;
type Worded = Schema["Worded"];

let known: Words | undefined;
/** What the server calls things; said once, before any screen is drawn. */
export function setWords(words: Words) {
  known = words;
}

/** Terms of a kind, in the order in which they are offered. */
export function terms(kind: Kind): readonly Worded[] {
  return known?.[kind] ?? [];
}

/** A term by its key; one that the server does not know shows its key. */
export function term(kind: Kind, key: string): Worded {
  return terms(kind).find((t) => t.key === key) ?? { key, words: key, short: key, more: "" };
}

/** A term in words. */
export function word(kind: Kind, key: string): string {
  return term(kind, key).words;
}

/** Terms of a kind as a list to choose from: key, words, what is said beside it. */
export function offered(kind: Kind): (readonly [string, string, string])[] {
  return terms(kind).map((t) => [t.key, t.words, t.more] as const);
}

/** The same without what is said beside it, and with a first line for none. */
export function offeredOrNone(kind: Kind, none: string): (readonly [string, string])[] {
  return [["", none], ...terms(kind).map((t) => [t.key, t.words] as const)];
}

/** What is booked by hand, and what each asks for. */
export function byHand(): readonly Schema["ByHand"][] {
  return known?.by_hand ?? [];
}

/** What is often noted on a site. */
export function notes(): readonly string[] {
  return known?.note ?? [];
}
