import { useEffect, useState } from "react";
import { Field, TextInput } from "../ui";
import { type Beside, type Dimension, type Figures, inField, typed, useFigures } from "../units";

interface Props {
  label: string;
  hint?: string;
  /** What stands against it. */
  error?: string;
  /** What it is; its unit stands behind the label. A plain figure where it is none. */
  dimension?: Dimension;
  /** Sizes are typed in the small unit of a dimension, all else in the large one. */
  size?: "small" | "large";
  /** In SI; absent where it is not known. */
  value: number | null | undefined;
  /** SI of one unit of the label, for a plain figure. */
  factor?: number;
  onChange: (value: number | null) => void;
}

/** The unit that stands beside a field. */
export function beside(show: Figures, dimension: Dimension | undefined, size: "small" | "large", factor = 1): Beside {
  if (!dimension) return { factor: 1 / factor, offset: 0, symbol: "" };
  if (dimension === "gauge_pressure_pa") return { factor: show.perPa, offset: 0, symbol: show.symbol };
  return show.unitFor(dimension, size);
}

/** A figure in the unit of its label, or with another behind it; empty where it is not known. What is typed stays as typed. */
export function Measured({ label, hint, error, dimension, size = "large", value, factor = 1, onChange }: Props) {
  const show = useFigures();
  const bare = beside(show, dimension, size, factor);
  const [text, setText] = useState(() => inField(value, bare));
  const read = typed(text, dimension ?? "number", bare);
  const { factor: by, offset } = bare;
  useEffect(() => {
    // somebody else's figure replaces the text, and so does another unit; the same figure does not
    setText((t) => {
      const now = typed(t, dimension ?? "number", { factor: by, offset }).si;
      const same = now === value || (now != null && value != null && Math.abs(now - value) <= 1e-9 * Math.max(Math.abs(now), Math.abs(value)));
      return same || (now === null && value == null) ? t : inField(value, { factor: by, offset });
    });
  }, [value, by, offset, dimension]);
  const named = /[a-z"'°%]/i.test(text) && read.si != null && dimension;
  return (
    <Field
      label={bare.symbol ? `${label}, ${bare.symbol}` : label}
      hint={named ? `That is ${inField(read.si, bare)}\u00a0${bare.symbol}.` : hint}
      error={read.si === undefined ? read.why : error}
    >
      {(ids) => (
        <TextInput
          {...ids}
          value={text}
          inputMode={dimension ? "text" : "decimal"}
          data-unread={read.si === undefined || undefined}
          onChange={(e) => {
            setText(e.target.value);
            const next = typed(e.target.value, dimension ?? "number", bare).si;
            if (next !== undefined) onChange(next);
          }}
        />
      )}
    </Field>
  );
}
