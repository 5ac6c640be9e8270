import { useState } from "react";
import { http, refusal } from "../api/client";
import { Button, Note } from "../ui";

/** The hand on the practice rig: pump and bleed valve. Shown only where the gauge is on the rig; a real pump is never worked from here. */
export function RigHand({ attempt }: { attempt: string }) {
  const [hand, setHand] = useState({ pump: false, strokes_per_min: 24, bleed: 0 });
  const [problem, setProblem] = useState("");
  const set = async (change: Partial<typeof hand>) => {
    const next = { ...hand, ...change };
    const why = await refusal(http.PUT("/api/v1/attempts/{attempt}/rig", { params: { path: { attempt } }, body: next }));
    setProblem(why);
    if (!why) setHand(next);
  };
  return (
    <section aria-label="Practice rig" className="grid gap-2 max-[700px]:hidden border-l-4 border-rule bg-sheet px-3 py-1" data-rig={hand.pump ? "pumping" : "resting"}>
      <div className="flex flex-wrap items-center gap-3">
        <span className="text-sm">
          <strong>Practice rig:</strong> you are at the pump
        </span>
        <Button className="min-h-11" aria-pressed={hand.pump} onClick={() => void set({ pump: !hand.pump, bleed: 0 })}>
          {hand.pump ? "Stop the rig's pump" : "Run the rig's pump"}
        </Button>
        <label className="flex items-center gap-2 text-sm">
          strokes a minute
          <select
            className="min-h-11 rounded-[3px] border border-rule bg-sheet px-2 text-ink"
            aria-label="strokes a minute"
            value={hand.strokes_per_min}
            onChange={(e) => void set({ strokes_per_min: Number(e.target.value) })}
          >
            {[6, 12, 24, 60].map((n) => (
              <option key={n} value={n}>
                {n}
              </option>
            ))}
          </select>
        </label>
        <Button className="min-h-11" aria-pressed={hand.bleed > 0} onClick={() => void set({ bleed: hand.bleed > 0 ? 0 : 0.3, pump: false })}>
          {hand.bleed > 0 ? "Shut the rig's bleed" : "Open the rig's bleed"}
        </Button>
      </div>
      {problem ? (
        <Note kind="stop" live>
          {problem}
        </Note>
      ) : null}
    </section>
  );
}
