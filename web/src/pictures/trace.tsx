import { useEffect, useRef, useState } from "react";
import { decimate } from "./decimate";
import type { Channel } from "./series";

export interface Line {
  channel: Channel;
  /** Value at the bottom and at the top of its box. */
  domain: readonly [number, number];
  /** Top and bottom of its box, in the picture's own units. */
  box: readonly [number, number];
  /** Name of the colour. */
  colour: "--color-ink" | "--color-water";
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

/** Draws lines of many thousand points on a canvas that lies over the picture; points themselves where there are few. */
export function Trace({ lines, from, to, left, right, width, height }: Props) {
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
      pen.lineWidth = 1.6 * scale;
      pen.lineJoin = "bevel";
      pen.beginPath();
      for (let i = 0; i < points.length; i += 2) pen.lineTo(x(points[i] ?? 0), y(points[i + 1] ?? 0));
      pen.stroke();
      if (points.length <= 600)
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

/** Colours of the theme, read again when the light of the screen changes. */
function useColours(canvas: { current: HTMLCanvasElement | null }): Record<Line["colour"], string> {
  const [colours, setColours] = useState<Record<Line["colour"], string>>({ "--color-ink": "#000", "--color-water": "#000" });
  useEffect(() => {
    const read = () => {
      if (!canvas.current) return;
      const style = getComputedStyle(canvas.current);
      setColours({ "--color-ink": style.getPropertyValue("--color-ink"), "--color-water": style.getPropertyValue("--color-water") });
    };
    read();
    const watch = new MutationObserver(read);
    watch.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
    return () => watch.disconnect();
  }, [canvas]);
  return colours;
}
