import { useEffect, useState } from "react";
import { Field, TextInput } from "../ui";

interface Props {
  label: string;
  hint?: string;
  /** What stands against it. */
  error?: string;
  /** In SI; absent where it is not known. */
  value: number | null | undefined;
  /** SI of one unit of the label. */
  factor?: number;
  onChange: (value: number | null) => void;
}

const shown = (value: number | null | undefined, factor: number) => (value == null ? "" : String(Number((value / factor).toPrecision(6))));

/** A figure in the unit of its label; empty where it is not known. What is typed stays as typed. */
export function Measured({ label, hint, error, value, factor = 1, onChange }: Props) {
  const [text, setText] = useState(shown(value, factor));
  const figure = Number(text.trim().replace(",", "."));
  const wrong = text.trim() !== "" && !Number.isFinite(figure);
  useEffect(() => {
    // somebody else's figure replaces the text, the same figure does not
    setText((t) => (Number(t.replace(",", ".")) * factor === value || (t.trim() === "" && value == null) ? t : shown(value, factor)));
  }, [value, factor]);
  return (
    <Field label={label} hint={hint} error={wrong ? "This is a figure, for example 1.5; leave it empty where it is not known." : error}>
      {(ids) => (
        <TextInput
          {...ids}
          value={text}
          inputMode="decimal"
          onChange={(e) => {
            setText(e.target.value);
            const next = Number(e.target.value.trim().replace(",", "."));
            if (e.target.value.trim() === "") onChange(null);
            else if (Number.isFinite(next)) onChange(next * factor);
          }}
        />
      )}
    </Field>
  );
}
