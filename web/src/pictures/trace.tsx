import { useEffect, useRef, useState } from "react";
import { usePrinting } from "../ui";
import { decimate } from "./decimate";
import type { Channel } from "./series";

export interface Line {
  channel: Channel;
  /** Value at the bottom and at the top of its box. */
  domain: readonly [number, number];
  /** Top and bottom of its box, in the picture's own units. */
  box: readonly [number, number];
  /** Name of the colour. */
  colour: "--color-ink" | "--color-water" | "--color-soft";
  /** Of a further instrument: thin and without points. */
  thin?: boolean;
  /** Part of a line that has too many points to be drawn one by one. */
  dense?: boolean;
}

interface Props {
  lines: readonly Line[];
  from: number;
  to: number;
  /** Left and right edge, and the size of the whole picture, in its own units. */
  left: number;
  right: number;
  width: number;
  height: number;
}

/** Columns of a printed line, for each unit of the picture. */
const PRINTED = 2;

/** Draws lines of many thousand points over the picture: on a canvas, on paper as lines. */
export function Trace(props: Props) {
  return usePrinting() ? <Drawn {...props} /> : <Painted {...props} />;
}

/** On paper, where a canvas would keep the size that it had on the screen. */
function Drawn({ lines, from, to, left, right, width, height }: Props) {
  const x = (t: number) => left + ((t - from) / (to - from)) * (right - left);
  return (
    <svg aria-hidden="true" viewBox={`0 0 ${width} ${height}`} className="absolute inset-0 size-full" data-drawn>
      {lines.map(({ channel, domain: [low, high], box: [top, bottom], colour, thin }, i) => {
        const points = decimate(channel, from, to, Math.ceil((right - left) * PRINTED));
        const y = (v: number) => bottom - ((v - low) / (high - low)) * (bottom - top);
        const at: string[] = [];
        for (let p = 0; p < points.length; p += 2) at.push(`${x(points[p] ?? 0).toFixed(1)},${y(points[p + 1] ?? 0).toFixed(1)}`);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: the lines of one picture keep their order
          <svg key={i} aria-hidden="true" x={left} y={top} width={right - left} height={bottom - top} viewBox={`${left} ${top} ${right - left} ${bottom - top}`}>
            <polyline points={at.join(" ")} fill="none" stroke={`var(${colour})`} strokeWidth={thin ? 0.9 : 1.6} />
          </svg>
        );
      })}
    </svg>
  );
}

/** On the screen; points themselves where there are few. */
function Painted({ lines, from, to, left, right, width, height }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  // asking for the size on every frame would make the browser lay out the page on every frame
  const [size, setSize] = useState({ w: 0, h: 0 });
  useEffect(() => {
    const el = canvas.current;
    if (!el) return;
    const watch = new ResizeObserver(() => {
      const dots = window.devicePixelRatio || 1;
      setSize({ w: Math.round(el.clientWidth * dots), h: Math.round(el.clientHeight * dots) });
    });
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const colours = useColours(canvas);
  useEffect(() => {
    const el = canvas.current;
    const pen = el?.getContext?.("2d");
    const { w, h } = size;
    if (!el || !pen || w === 0) return;
    if (el.width !== w || el.height !== h) {
      el.width = w;
      el.height = h;
    }
    const scale = w / width;
    pen.clearRect(0, 0, w, h);
    const x = (t: number) => (left + ((t - from) / (to - from)) * (right - left)) * scale;
    for (const line of lines) {
      const [top, bottom] = line.box;
      const [low, high] = line.domain;
      const y = (v: number) => (bottom - ((v - low) / (high - low)) * (bottom - top)) * scale;
      const points = decimate(line.channel, from, to, Math.ceil((right - left) * scale));
      pen.save();
      pen.beginPath();
      pen.rect(left * scale, top * scale, (right - left) * scale, (bottom - top) * scale);
      pen.clip();
      pen.strokeStyle = colours[line.colour];
      pen.fillStyle = pen.strokeStyle;
      const thick = (line.thin ? 0.9 : 1.6) * scale;
      pen.lineWidth = thick;
      pen.lineJoin = "bevel";
      if (points.length > 2 * (right - left) * scale) columns(pen, points, x, y, thick);
      else strokes(pen, points, x, y);
      if (points.length <= 600 && !line.thin && !line.dense)
        for (let i = 0; i < points.length; i += 2) {
          pen.beginPath();
          pen.arc(x(points[i] ?? 0), y(points[i + 1] ?? 0), 2 * scale, 0, 7);
          pen.fill();
        }
      pen.restore();
    }
  });
  // biome-ignore lint/a11y/noAriaHiddenOnFocusable: a canvas without a tabIndex takes no focus
  return <canvas ref={canvas} aria-hidden="true" className="pointer-events-none absolute inset-0 size-full" style={{ aspectRatio: `${width} / ${height}` }} />;
}

type Scale = (value: number) => number;

function strokes(pen: CanvasRenderingContext2D, points: Float64Array, x: Scale, y: Scale) {
  pen.beginPath();
  for (let i = 0; i < points.length; i += 2) pen.lineTo(x(points[i] ?? 0), y(points[i + 1] ?? 0));
  pen.stroke();
}

/**
 * The same line where it has more than one point a column of pixels: each column filled from its least to its greatest value and to the value
 * before it. It looks as the stroke does and costs a fifth, for no corner has to be joined. A gap of more than a column is crossed by a stroke.
 */
export function columns(pen: CanvasRenderingContext2D, points: Float64Array, x: Scale, y: Scale, thick: number) {
  pen.beginPath();
  let [at, low, high] = [Math.floor(x(points[0] ?? 0)), y(points[1] ?? 0), y(points[1] ?? 0)];
  const fill = () => pen.fillRect(at, low - thick / 2, 1, high - low + thick);
  for (let i = 2; i < points.length; i += 2) {
    const column = Math.floor(x(points[i] ?? 0));
    const value = y(points[i + 1] ?? 0);
    if (column === at) [low, high] = [Math.min(low, value), Math.max(high, value)];
    else {
      fill();
      const before = y(points[i - 1] ?? 0);
      if (column > at + 1) {
        pen.moveTo(x(points[i - 2] ?? 0), before);
        pen.lineTo(x(points[i] ?? 0), value);
      }
      [at, low, high] = column > at + 1 ? [column, value, value] : [column, Math.min(before, value), Math.max(before, value)];
    }
  }
  fill();
  pen.stroke();
}

/** Colours of the theme, read again when the light of the screen changes. */
function useColours(canvas: { current: HTMLCanvasElement | null }): Record<Line["colour"], string> {
  const [colours, setColours] = useState<Record<Line["colour"], string>>({ "--color-ink": "#000", "--color-water": "#000", "--color-soft": "#000" });
  useEffect(() => {
    const read = () => {
      if (!canvas.current) return;
      const style = getComputedStyle(canvas.current);
      const of = (name: Line["colour"]) => style.getPropertyValue(name);
      setColours({ "--color-ink": of("--color-ink"), "--color-water": of("--color-water"), "--color-soft": of("--color-soft") });
    };
    read();
    const watch = new MutationObserver(read);
    watch.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
    return () => watch.disconnect();
  }, [canvas]);
  return colours;
}
