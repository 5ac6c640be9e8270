import type { Schema } from "./client";

/** What is wrong with each field, as the server says it: all of it at once. */
export function fieldProblems(error: unknown): Record<string, string> {
  const fields = error && typeof error === "object" && "fields" in error && Array.isArray(error.fields) ? (error.fields as Schema["FieldProblem"][]) : [];
  return Object.fromEntries(fields.map((f) => [f.field, f.sentence]));
}
