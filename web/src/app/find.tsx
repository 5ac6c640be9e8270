import { keepPreviousData } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { api, sentence } from "../api/client";
import { Dialog, TextInput } from "../ui";

/** Finds a test by number, title, basis, part or blind, and blinds and instruments by their tag: over the server, as it is typed. */
export function Find({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [text, setText] = useState("");
  const q = useDeferredValue(text.trim());
  const navigate = useNavigate();
  const found = api.useQuery("get", "/api/v1/find", { params: { query: { q } } }, { enabled: open && q !== "", placeholderData: keepPreviousData });
  const hits = q === "" ? [] : (found.data ?? []);
  const go = (path: string) => {
    onOpenChange(false);
    setText("");
    void navigate({ to: path as "/" });
  };
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Find">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (hits[0]) go(hits[0].path);
        }}
      >
        <TextInput
          aria-label="Number, title, part, blind or gauge"
          autoFocus
          value={text}
          onChange={(e) => setText(e.target.value)}
          placeholder="SW-014, cooling, TB-3, PG-101"
        />
        <ul className="m-0 mt-3 list-none p-0">
          {hits.map((h) => (
            <li key={`${h.kind} ${h.name} ${h.path}`}>
              <button
                type="button"
                onClick={() => go(h.path)}
                className="grid w-full grid-cols-[6.5rem_minmax(0,1fr)] gap-3 border-0 border-b border-hair bg-transparent px-1 py-2 text-left text-sm hover:bg-wash"
              >
                <span className="num font-semibold">{h.name}</span>
                <span>{h.words}</span>
              </button>
            </li>
          ))}
        </ul>
        {found.isError ? <p className="text-sm text-limit">{sentence(found.error)}</p> : null}
        {q !== "" && found.data && hits.length === 0 ? <p className="text-sm text-soft">Nothing is called so.</p> : null}
      </form>
    </Dialog>
  );
}
