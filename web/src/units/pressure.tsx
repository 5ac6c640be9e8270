import { useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from "react";
import type { Schema } from "../api/client";

export type Unit = Schema["PressureUnit"];

/** Pascal per unit; exact. The pound-force per square inch by its definition. */
const PA: Record<Unit, number> = {
  bar: 1e5,
  kpa: 1e3,
  mpa: 1e6,
  psi: (0.45359237 * 9.80665) / (0.0254 * 0.0254),
  kg_cm2: 98066.5,
};
export const SYMBOL: Record<Unit, string> = { bar: "bar", kpa: "kPa", mpa: "MPa", psi: "psi", kg_cm2: "kg/cm²" };
export const UNITS = Object.keys(PA) as Unit[];

export type Rounding = "nearest" | "up" | "down";

/** Pa in a unit. */
export function inUnit(pa: number, unit: Unit): number {
  return pa / PA[unit];
}
/** A figure of a unit in Pa. */
export function toPa(value: number, unit: Unit): number {
  return value * PA[unit];
}

/** Decimals that show a division of so many Pa in a unit: 10 kPa in bar → 1. */
export function decimalsFor(divisionPa: number, unit: Unit): number {
  const division = inUnit(divisionPa, unit);
  if (!(division > 0)) return 2;
  return Math.min(4, Math.max(0, Math.ceil(-Math.log10(division) - 1e-9)));
}

/** Division to which an upper bound is shown: a tenth of the gauge's, not finer than 0.01 bar unless the gauge is. */
export function fineDivision(divisionPa: number): number {
  return Math.max(divisionPa / 10, Math.min(divisionPa, 1000));
}

/** Rounds to decimals; what lies within a millionth of a step counts as that step. */
export function roundTo(value: number, decimals: number, how: Rounding): number {
  const scale = 10 ** decimals;
  const x = value * scale;
  if (how === "up") return Math.ceil(x - 1e-6) / scale;
  if (how === "down") return Math.floor(x + 1e-6) / scale;
  return Math.round(x) / scale;
}

/** A pressure without its unit. */
export function figure(pa: number, unit: Unit, decimals: number, how: Rounding = "nearest"): string {
  const value = roundTo(inUnit(pa, unit), decimals, how);
  return (Object.is(value, -0) ? 0 : value).toFixed(decimals).replace("-", "−");
}

/** A pressure with its unit, never parted by a line break. */
export function withUnit(pa: number, unit: Unit, decimals: number, how: Rounding = "nearest"): string {
  return `${figure(pa, unit, decimals, how)}\u00a0${SYMBOL[unit]}`;
}

interface Choice {
  /** The person's own choice; none follows the gauge. */
  chosen: Unit | null;
  choose: (unit: Unit | null) => void;
}
const UnitContext = createContext<Choice>({ chosen: null, choose: () => {} });

export function UnitProvider({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const [chosen, setChosen] = useState<Unit | null>(() => {
    const kept = localStorage.getItem("unit");
    return UNITS.find((u) => u === kept) ?? null;
  });
  const value = useMemo(
    () => ({
      chosen,
      choose(unit: Unit | null) {
        setChosen(unit);
        if (unit) localStorage.setItem("unit", unit);
        else localStorage.removeItem("unit");
        // the server's sentences are said in the person's unit too
        void queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" });
      },
    }),
    [chosen, queries],
  );
  return <UnitContext.Provider value={value}>{children}</UnitContext.Provider>;
}

/** Unit on display: the person's choice, or the gauge's own. */
export function useUnit(gauge: Unit = "bar") {
  const { chosen, choose } = useContext(UnitContext);
  const unit = chosen ?? gauge;
  return {
    unit,
    symbol: SYMBOL[unit],
    choose,
    next() {
      choose(UNITS[(UNITS.indexOf(unit) + 1) % UNITS.length] ?? "bar");
    },
  };
}

/** A typed figure in another unit, to seven digits; what is no figure stays as it is. */
export function converted(text: string, from: Unit, to: Unit): string {
  const value = Number(text.replace(",", "."));
  if (text.trim() === "" || !Number.isFinite(value) || from === to) return text;
  return String(Number(inUnit(toPa(value, from), to).toPrecision(7)));
}

/** Keeps a typed pressure the same pressure when the unit beside its field changes. */
export function useFollowUnit(unit: Unit, text: string, set: (text: string) => void) {
  const typedIn = useRef(unit);
  useEffect(() => {
    const from = typedIn.current;
    typedIn.current = unit;
    if (from !== unit) set(converted(text, from, unit));
  });
}
