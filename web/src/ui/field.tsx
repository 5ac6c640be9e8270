import { type ComponentProps, type ReactNode, type SelectHTMLAttributes, useId } from "react";

interface FieldProps {
  label: string;
  /** Read at an instrument: the label names the unit of its face, whoever reads. */
  dial?: boolean;
  hint?: ReactNode;
  error?: string;
  children: (ids: { id: string; "aria-describedby"?: string; "aria-invalid"?: boolean }) => ReactNode;
}

/** A labelled field. The error stands under it in a sentence; the typed text is never rewritten. */
export function Field({ label, dial, hint, error, children }: FieldProps) {
  const id = useId();
  const described = [hint ? `${id}-hint` : "", error ? `${id}-error` : ""].filter(Boolean).join(" ") || undefined;
  return (
    <div className="grid content-start gap-1">
      <label htmlFor={id} className="text-sm font-semibold" data-dial={dial || undefined}>
        {label}
      </label>
      {children({ id, "aria-describedby": described, "aria-invalid": error ? true : undefined })}
      {hint ? (
        <p id={`${id}-hint`} className="m-0 text-xs text-soft">
          {hint}
        </p>
      ) : null}
      {error ? (
        <p id={`${id}-error`} role="alert" className="m-0 text-sm font-semibold text-danger">
          {error}
        </p>
      ) : null}
    </div>
  );
}

const BOX =
  "w-full rounded-[3px] border border-rule bg-sheet px-2.5 py-1.5 text-base text-ink aria-invalid:border-danger aria-invalid:border-2 disabled:bg-paper disabled:text-soft";

export function TextInput({ className = "", ...rest }: ComponentProps<"input">) {
  return <input className={`${BOX} ${className}`} autoComplete="off" {...rest} />;
}

interface SelectProps extends SelectHTMLAttributes<HTMLSelectElement> {
  options: readonly (readonly [value: string, label: string, ...rest: string[]])[];
}

export function Select({ options, ...rest }: SelectProps) {
  return (
    <select className={`${BOX} text-ellipsis`} {...rest}>
      {options.map(([value, label]) => (
        <option key={value} value={value}>
          {label}
        </option>
      ))}
    </select>
  );
}

interface ChoiceProps {
  legend: string;
  name: string;
  value: string;
  onChange: (value: string) => void;
  disabled?: boolean;
  options: readonly (readonly [value: string, label: string, hint?: string])[];
  /** Of many: in two columns of one width. */
  even?: boolean;
}

/** One of a few, side by side, each with a line that says what it means. */
export function Choice({ legend, name, value, onChange, options, disabled, even }: ChoiceProps) {
  return (
    <fieldset className="m-0 border-0 p-0" disabled={disabled}>
      <legend className="mb-1 p-0 text-sm font-semibold">{legend}</legend>
      <div className={even ? "grid grid-cols-2 gap-2 max-[500px]:grid-cols-1" : "flex flex-wrap gap-2"}>
        {options.map(([v, label, hint]) => (
          <label
            key={v}
            className={`flex min-h-9 cursor-pointer items-center gap-2 rounded-[3px] border px-3 py-1 text-sm max-[500px]:w-full ${v === value ? "border-water bg-wash" : "border-hair bg-sheet"}`}
          >
            <input type="radio" name={name} value={v} checked={v === value} onChange={() => onChange(v)} className="accent-water" />
            <span>
              {label}
              {hint ? <span className="block text-xs text-soft">{hint}</span> : null}
            </span>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
