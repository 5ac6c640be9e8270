import type { Schema } from "../api/client";

export type Drawn = Schema["PartMark"];

/** A mark for what sits in the line or at a point; shapes and letters tell them apart, colour never alone. */
export function Mark({ drawn, x, y, angle = 0 }: { drawn: Drawn; x: number; y: number; angle?: number }) {
  const at = `translate(${x} ${y}) rotate(${angle})`;
  const upright = `translate(${x} ${y})`;
  const line = { fill: "var(--color-sheet)", stroke: "currentColor", strokeWidth: 1.6 };
  switch (drawn) {
    case "open_valve":
      return (
        <g transform={at}>
          <rect x={-7} y={-4.5} width={14} height={9} {...line} />
        </g>
      );
    case "shut_valve":
      return (
        <g transform={at}>
          <rect x={-7} y={-4.5} width={14} height={9} fill="currentColor" stroke="currentColor" />
          <path d="M0 -10V10" stroke="currentColor" strokeWidth={3} />
        </g>
      );
    case "check_valve":
      return (
        <g transform={at}>
          <path d="M-6 -6L6 0L-6 6Z" {...line} />
          <path d="M6 -7V7" stroke="currentColor" strokeWidth={2} />
        </g>
      );
    case "blind":
      return (
        <g transform={upright}>
          <path d="M-3 -9V9M3 -9V9" stroke="currentColor" strokeWidth={2.6} />
        </g>
      );
    case "vent":
      return (
        <g transform={upright}>
          <path d="M0 0V-13" stroke="currentColor" strokeWidth={1.6} />
          <path d="M-5 -13H5L0 -21Z" {...line} />
        </g>
      );
    case "drain":
      return (
        <g transform={upright}>
          <path d="M0 0V13" stroke="currentColor" strokeWidth={1.6} />
          <path d="M-5 13H5L0 21Z" {...line} />
        </g>
      );
    case "item":
      return (
        <g transform={at}>
          <rect x={-4} y={-6} width={8} height={12} rx={2} {...line} />
        </g>
      );
    case "fill":
    case "gauge":
    case "relief":
    case "pump":
      return (
        <g transform={upright}>
          <circle r={8.5} {...line} />
          <text textAnchor="middle" y={4} fontSize={11} fontWeight={700} fill="currentColor">
            {{ fill: "F", gauge: "G", relief: "R", pump: "P" }[drawn]}
          </text>
        </g>
      );
    default:
      return null;
  }
}

/** What the marks mean, for the line beneath the picture. */
export const MARKS: readonly (readonly [Drawn, string])[] = [
  ["open_valve", "valve, open"],
  ["shut_valve", "shut"],
  ["check_valve", "check valve, flow to the bar"],
  ["blind", "blind, cap or plug"],
  ["vent", "vent"],
  ["drain", "drain"],
  ["fill", "fill"],
  ["pump", "pump"],
  ["gauge", "gauge"],
  ["relief", "relief valve"],
  ["item", "item in the line"],
];
