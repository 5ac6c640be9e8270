const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/** True when `mine` differs from `base` in any field. */
export function changed<T extends object>(base: T, mine: T): boolean {
  return Object.keys({ ...base, ...mine }).some((k) => !same(base[k as keyof T], mine[k as keyof T]));
}

/** What I changed since `base`, put on top of what somebody else made of it meanwhile. */
export function rebase<T extends object>(base: T, mine: T, theirs: T): T {
  const next = { ...theirs };
  for (const key of Object.keys({ ...base, ...mine }) as (keyof T)[]) if (!same(base[key], mine[key])) next[key] = mine[key];
  return next;
}
