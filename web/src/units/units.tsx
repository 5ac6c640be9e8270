import { useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from "react";
import type { Schema } from "../api/client";
import { number } from "./typed";
import {
  amount,
  atGauge,
  type Dial,
  type Dimension,
  free,
  inUnit,
  SYMBOL,
  significant,
  type Toward,
  toPa,
  type Unit,
  scaleOf,
  UNITS,
  type Units,
  unitFor,
} from "./shown";

type Amount = Schema["Amount"];
type Rest = Omit<Units, "pressure">;

const REST: Rest = { temperature: "celsius", length: "metre", volume: "litre" };
/** What each choice is called, as the server reads it. */
export const CHOICES = {
  temperature: [
    ["celsius", "°C"],
    ["fahrenheit", "°F"],
  ],
  length: [
    ["metre", "m, mm"],
    ["foot", "ft, in"],
  ],
  volume: [
    ["litre", "L, m³"],
    ["us_gallon", "US gallons"],
    ["imperial_gallon", "imperial gallons"],
  ],
} as const satisfies { [K in keyof Rest]: readonly (readonly [Rest[K], string])[] };

interface Choice {
  /** The person's own choice for pressures; none follows the gauge. */
  pressure: Unit | null;
  /** What a gauge shows where none is in hand. */
  usual: Unit;
  rest: Rest;
  choose: (change: { pressure?: Unit | null } & Partial<Rest>) => void;
}
const Context = createContext<Choice>({ pressure: null, usual: "bar", rest: REST, choose: () => {} });

function kept<K extends keyof Rest>(key: K): Rest[K] | undefined {
  const word = localStorage.getItem(`unit-${key}`);
  return CHOICES[key].find(([value]) => value === word)?.[0] as Rest[K] | undefined;
}

/** The person's set of units; what they did not choose is the project's. */
export function UnitProvider({ usual, children }: { usual?: Schema["Units"]; children: ReactNode }) {
  const queries = useQueryClient();
  const [pressure, setPressure] = useState<Unit | null>(() => UNITS.find((u) => u === localStorage.getItem("unit")) ?? null);
  const [own, setOwn] = useState<Partial<Rest>>(() => ({ temperature: kept("temperature"), length: kept("length"), volume: kept("volume") }));
  const value = useMemo<Choice>(
    () => ({
      pressure,
      usual: usual?.pressure ?? "bar",
      rest: {
        temperature: own.temperature ?? usual?.temperature ?? REST.temperature,
        length: own.length ?? usual?.length ?? REST.length,
        volume: own.volume ?? usual?.volume ?? REST.volume,
      },
      choose({ pressure: next, ...rest }) {
        if (next !== undefined) {
          setPressure(next);
          if (next) localStorage.setItem("unit", next);
          else localStorage.removeItem("unit");
        }
        for (const [key, word] of Object.entries(rest)) localStorage.setItem(`unit-${key}`, word);
        setOwn((o) => ({ ...o, ...rest }));
        // the server's sentences are said in the person's units too
        void queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" });
      },
    }),
    [pressure, own, usual, queries],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

/** What a person chose, and how they choose anew. */
export function useChoice(): Choice & { next: (shown: Unit) => void } {
  const choice = useContext(Context);
  return { ...choice, next: (shown) => choice.choose({ pressure: UNITS[(UNITS.indexOf(shown) + 1) % UNITS.length] ?? "bar" }) };
}

/** Figures as one person reads them, before one gauge or none. */
export class Figures {
  readonly symbol: string;
  constructor(
    readonly units: Units,
    readonly dial: Dial | undefined,
  ) {
    this.symbol = SYMBOL[units.pressure];
  }
  /** One of its pressures, in Pa: 1 over. */
  get perPa(): number {
    return inUnit(1, this.unit);
  }
  /** The unit in which amounts of a dimension are typed, with how it is reckoned. */
  unitFor(dimension: Dimension, size: "small" | "large" = "large"): Beside {
    return unitFor(dimension, this.units, size);
  }
  get unit(): Unit {
    return this.units.pressure;
  }
  /** A pressure at the gauge, without its unit. */
  n(pa: number, toward: Toward = "nearest"): string {
    return this.dial ? atGauge(pa, this.dial, this.unit, toward) : free(pa, this.unit, toward);
  }
  /** With its unit. */
  p(pa: number, toward: Toward = "nearest"): string {
    return `${this.n(pa, toward)}\u00a0${this.symbol}`;
  }
  /** A pressure that no gauge shows, without its unit. */
  freeN(pa: number, toward: Toward = "nearest"): string {
    return free(pa, this.unit, toward);
  }
  /** With its unit. */
  free(pa: number, toward: Toward = "nearest"): string {
    return `${this.freeN(pa, toward)}\u00a0${this.symbol}`;
  }
  /** A pressure with the digits that a half-width leaves it, so that a small share is not lost; without its unit. */
  to(pa: number, halfWidth: number): string {
    const least = inUnit(Math.max(halfWidth, 1), this.unit);
    const decimals = Math.min(6, Math.max(0, -Math.floor(Math.log10(least))));
    return inUnit(pa, this.unit).toFixed(decimals).replace("-", "−");
  }
  /** As a scale is named. */
  named(pa: number): string {
    return `${significant(inUnit(pa, this.unit), 3)}\u00a0${this.symbol}`;
  }
  /** A height, in the unit of lengths however small it is. */
  height(m: number): string {
    const scale = unitFor("length_m", this.units);
    return `${significant(m * scale.factor, scale.exact)}\u00a0${scale.symbol}`;
  }
  /** Anything with its unit. */
  of(value: number, dimension: Dimension, toward: Toward = "nearest"): string {
    return amount(value, dimension, this.units, "said", toward);
  }
  /** A figure as a sentence says it. */
  said(a: Amount, toward: Toward): string {
    if (a.dimension === "gauge_pressure_pa") return toward === "as_named" ? this.named(a.value) : this.p(a.value, toward);
    return this.of(a.value, a.dimension, toward);
  }
  /** A figure as arithmetic has it. */
  exactly(a: Amount): string {
    return amount(a.value, a.dimension, this.units, "exact");
  }
  /** In the unit of the largest amounts, or of sizes, with so many decimals: for columns and axes. */
  in(value: number, dimension: Dimension, decimals: number, size: "small" | "large" = "large"): string {
    const scale = unitFor(dimension, this.units, size);
    return (value * scale.factor + scale.offset).toFixed(decimals).replace("-", "−");
  }
  /** The one unit in which an axis that ends at an amount is drawn. */
  axis(most: number, dimension: Dimension): { factor: number; offset: number; symbol: string } {
    return scaleOf(most, dimension, this.units);
  }
  /** The symbol of that unit. */
  symbolOf(dimension: Dimension, size: "small" | "large" = "large"): string {
    return unitFor(dimension, this.units, size).symbol;
  }
}

/** Figures before any gauge: for lists of several. */
export function useFiguresAt(): (at: { unit: Unit; gauge: { division_pa: number } }) => Figures {
  const { pressure, rest } = useContext(Context);
  return (at) => new Figures({ pressure: pressure ?? at.unit, ...rest }, { unit: at.unit, division_pa: at.gauge.division_pa });
}

/** Figures before a test's gauge; without one, as no gauge shows them. */
export function useFigures(at?: { unit: Unit; gauge: { division_pa: number } }): Figures {
  const { pressure, usual, rest } = useContext(Context);
  const [dial, division] = [at?.unit, at?.gauge.division_pa];
  return useMemo(
    () => new Figures({ pressure: pressure ?? dial ?? usual, ...rest }, dial && division ? { unit: dial, division_pa: division } : undefined),
    [pressure, usual, rest, dial, division],
  );
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

/** The unit that stands beside a field: shown = SI × factor + offset. */
export interface Beside {
  factor: number;
  offset: number;
  symbol: string;
}

/** A figure as its field shows it. */
export function inField(value: number | null | undefined, beside: Omit<Beside, "symbol">): string {
  return value == null ? "" : String(Number((value * beside.factor + beside.offset).toPrecision(6)));
}

/** Keeps a typed figure the same amount when the unit beside its field changes; what has a unit of its own stays. */
export function useFollow(beside: Beside, text: string, set: (text: string) => void) {
  const before = useRef(beside);
  useEffect(() => {
    const was = before.current;
    before.current = beside;
    const bare = number(text);
    if (was.symbol === beside.symbol || bare === undefined) return;
    set(String(Number((((bare - was.offset) / was.factor) * beside.factor + beside.offset).toPrecision(7))));
  });
}
