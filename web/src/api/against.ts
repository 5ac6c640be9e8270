import { usePack } from "./pack";

/** The sentence that stands against a field of the plan; nothing where none does. */
export function useAgainst(): (field: string) => string | undefined {
  const all = usePack().against.filter((o) => !o.part);
  return (field) => all.find((o) => o.field === field || o.name === field)?.sentence;
}
