import type { Attempt, Pack, Schema } from "../../api/client";
import type { Act } from "../../api/outbox";
import type { Figures } from "../../units";

/** Where one person is with a test, from what is booked and what is kept on this device. */
export type Stage = "ready" | "fill" | "raise" | "hold" | "release" | "restore" | "sign" | "done";

export const STAGES: readonly (readonly [Stage, string])[] = [
  ["ready", "Before it begins"],
  ["fill", "Fill"],
  ["raise", "Raise"],
  ["hold", "Hold and look"],
  ["release", "Let it out"],
  ["restore", "Put back"],
  ["sign", "Sign"],
];

/** True where a wall that creeps is lowered from its test pressure before it is held: stopping the pump is then not yet shutting it off. */
export const lowers = (pack: Pack) => Boolean(pack.derived?.criteria?.some((c) => c.kind === "expansion" || c.kind === "contraction"));

/** True where the rule counts a loss, so that the readings have to tell of one. */
export const counted = (pack: Pack) => Boolean(pack.derived?.criteria?.some((c) => c.kind === "no_loss" || c.kind === "makeup_allowance"));

export interface Standing {
  stage: Stage;
  /** Steps of the raise that were reached. */
  reached: number;
  /** When the pump was stopped for the hold, ms; none before. */
  off: number | null;
  has: (kind: Schema["EventKind"]) => boolean;
}

export function standing(pack: Pack, kept: readonly Act[]): Standing {
  const attempt: Attempt | undefined = pack.attempts.at(-1);
  const mine = kept.filter((a) => !a.refused && a.attempt === attempt?.id).flatMap((a) => (a.does.is === "event" ? [{ kind: a.does.body.kind, at: a.at }] : []));
  const all = [...(attempt?.events ?? []).map((e) => ({ kind: e.kind, at: e.at })), ...mine];
  const has = (kind: Schema["EventKind"]) => all.some((e) => e.kind === kind);
  const off = all.filter((e) => e.kind === "pump_off" || e.kind === "repump").at(-1);
  const at = (stage: Stage): Standing => ({ stage, reached: all.filter((e) => e.kind === "step_reached").length, off: off ? Date.parse(off.at) : null, has });
  if (!attempt || attempt.withdrawn) return at("ready");
  if (has("released")) {
    if (attempt.signatures.length > 0 && !attempt.next_act) return at("done");
    const left = attempt.restore.filter((l) => !l.done && !(l.event && has(l.event)));
    return at(left.length && !attempt.frozen ? "restore" : "sign");
  }
  if (has("hold_ended")) return at("release");
  if (has("pump_off")) return at("hold");
  return at(has("filled") ? "raise" : "fill");
}

/** What whoever tests alone may say keeps the pressure from running past, with what it changes in the plan. */
export function wordsOf(pack: Pack, show: Figures): (readonly [string, Partial<Schema["Plan"]>])[] {
  const day = pack.derived?.day;
  const set_at = day?.conflicts?.some((c) => c.about === "relief") ? null : day?.relief_set_pa;
  return [
    ["I pump by hand, eyes on the gauge, one hand at the bleed", { hand_pump: true }],
    ...(set_at == null ? [] : [[`a relief valve set at ${show.p(set_at, "down")} is fitted and in date`, { relief_fitted_pa: set_at }] as const]),
  ];
}

/** True where nothing is missing but the word of whoever begins it about what keeps the pressure down. */
export function onlyUnsaid(pack: Pack): boolean {
  const shut = pack.gates.filter((g) => !g.ready);
  return shut.length === 1 && shut[0]?.rule === "GATE-RELIEF" && pack.plan.basis.medium === "liquid" && pack.may.plan;
}

/** The pressure that nobody pumps past, Pa: the stop line, or the end of the gauge's scale where that comes first; beyond it nobody knows what there is. */
export function neverPast(pack: Pack): number | undefined {
  const stop = pack.derived?.day?.stop_line_pa;
  return stop == null ? undefined : Math.min(stop, pack.gauge.full_scale_pa ?? stop);
}

/** For how long such a wall is kept at the test pressure, and by how much it is lowered then; nothing where the fall itself says it. */
export function stretched(pack: Pack): { least_s: number; lowered_pa: number } | undefined {
  return pack.derived?.criteria?.find((c) => c.kind === "expansion");
}

/** For how long it settles before it is pumped up again, once, s; nothing where the rule has no such time. */
export const settles = (pack: Pack) => (lowers(pack) ? 0 : (pack.derived?.settle_s ?? 0));

/** From shutting the pump off to the end of the hold, s. What settles does so first; a wall that creeps has been stretched and lowered before. */
export const heldFor = (pack: Pack, at: Standing) => pack.hold_s + (at.has("repump") ? 0 : settles(pack));
