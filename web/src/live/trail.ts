import type { Schema } from "../api/client";

/** Most points that are kept: an hour at one a second. */
const MOST = 3600;

/** What one channel read, in the order of the sequence; what comes twice is kept once. */
export class Trail {
  private seen = 0;
  private kept: { t_s: number; value: number }[] = [];
  constructor(private readonly channel: number) {}

  add(line: Schema["TickLine"]) {
    if (line.seq <= this.seen) return;
    this.seen = line.seq;
    const value = line.values.find((v) => v.channel === this.channel)?.value;
    if (value == null) return;
    this.kept.push({ t_s: line.t_s, value });
    if (this.kept.length > MOST) this.kept.splice(0, this.kept.length - MOST);
  }

  points(): readonly { t_s: number; value: number }[] {
    return this.kept.slice();
  }
}
