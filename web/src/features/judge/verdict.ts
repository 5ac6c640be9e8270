import type { Schema } from "../../api/client";

/** A verdict as word, colour and mark. */
export const VERDICT: Record<Schema["Verdict"], { word: string; cls: string; mark: string }> = {
  pass: { word: "pass", cls: "text-water", mark: "✓" },
  fail: { word: "fail", cls: "text-danger", mark: "✗" },
  not_shown: { word: "not shown", cls: "text-limit", mark: "?" },
};
