import { useEffect, useState } from "react";
import type { FieldValues, Path, PathValue, UseFormReturn } from "react-hook-form";
import { keptTyping, useTyping } from "./typing";

type Fields = [string, unknown][];

/** Paths of the fields that were changed. */
function paths(dirty: unknown, before = ""): string[] {
  if (dirty === true) return [before];
  if (!dirty || typeof dirty !== "object") return [];
  return Object.entries(dirty).flatMap(([name, below]) => paths(below, before ? `${before}.${name}` : name));
}

/** Keeps what is typed into a form and not saved: only the fields that were changed, put on top of what the form then holds. */
export function useTypingForm<T extends FieldValues>(form: UseFormReturn<T>, key: string, what: string, on = true) {
  const [kept] = useState(() => (on ? keptTyping<Fields>(key) : undefined));
  const { isDirty, dirtyFields } = form.formState;
  form.watch();
  useEffect(() => {
    for (const [path, value] of kept ?? []) form.setValue(path as Path<T>, value as PathValue<T, Path<T>>, { shouldDirty: true });
  }, [kept, form.setValue]);
  const changed = paths(dirtyFields);
  const value = (): Fields => changed.map((path) => [path, form.getValues(path as Path<T>)]);
  return useTyping<Fields>({ key, what, value, dirty: on && isDirty && changed.length > 0 });
}
