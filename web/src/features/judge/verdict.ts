import type { Schema } from "../../api/client";

/** A verdict as colour and mark; its word is the server's. */
export const VERDICT: Record<Schema["Verdict"], { cls: string; mark: string }> = {
  pass: { cls: "text-water", mark: "✓" },
  fail: { cls: "text-danger", mark: "✗" },
  not_shown: { cls: "text-limit", mark: "?" },
};
