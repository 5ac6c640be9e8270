import { type PointerEvent, useRef } from "react";
import { Button } from "../ui";

const [WIDE, HIGH] = [600, 200];

interface Props {
  path: string;
  onChange: (path: string) => void;
  error?: string;
  /** True where the written name may stand for it. */
  optional?: boolean;
}

/** A field to draw a signature in, with a finger, a pen or the mouse. */
export function Draw({ path, onChange, error, optional }: Props) {
  const field = useRef<SVGSVGElement>(null);
  const down = useRef(false);
  const point = (e: PointerEvent) => {
    const box = field.current?.getBoundingClientRect();
    if (!box) return "";
    const inside = (v: number, most: number) => Math.min(most, Math.max(0, Math.round(v)));
    return `${inside(((e.clientX - box.left) / box.width) * WIDE, WIDE)} ${inside(((e.clientY - box.top) / box.height) * HIGH, HIGH)}`;
  };
  return (
    <div className="grid gap-1">
      <span className="text-sm font-semibold">Signature, drawn{optional ? " (without it the name above stands for it)" : ""}</span>
      <svg
        ref={field}
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={path ? "Field with a drawn signature" : "Empty field for a drawn signature"}
        data-draw={path ? "drawn" : "empty"}
        className={`w-full max-w-xl touch-none border bg-white ${error ? "border-2 border-danger" : "border-rule"}`}
        onPointerDown={(e) => {
          down.current = true;
          e.currentTarget.setPointerCapture(e.pointerId);
          onChange(`${path}M${point(e)}`);
        }}
        onPointerMove={(e) => {
          if (down.current) onChange(`${path}L${point(e)}`);
        }}
        onPointerUp={() => {
          down.current = false;
        }}
        onPointerCancel={() => {
          down.current = false;
        }}
      >
        <line x1="30" x2="570" y1="160" y2="160" stroke="#9aa5ad" strokeWidth="1" />
        <path d={path} fill="none" stroke="#1d2a33" strokeWidth="4" strokeLinecap="round" strokeLinejoin="round" />
      </svg>
      {error ? (
        <p role="alert" className="m-0 text-sm font-semibold text-danger">
          {error}
        </p>
      ) : null}
      {path ? (
        <div>
          <Button onClick={() => onChange("")}>Draw it again</Button>
        </div>
      ) : null}
    </div>
  );
}
