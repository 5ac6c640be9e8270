import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { api } from "../api/client";
import { Dialog, TextInput } from "../ui";

/** Finds a test by number, title or state. */
export function Find({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const [text, setText] = useState("");
  const navigate = useNavigate();
  const packs = api.useQuery("get", "/api/v1/packs", {}, { enabled: open });
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const hits = (packs.data ?? []).filter((p) => words.every((w) => `${p.number} ${p.title} ${p.state} ${p.basis}`.toLowerCase().includes(w))).slice(0, 8);
  const go = (id: string) => {
    onOpenChange(false);
    setText("");
    void navigate({ to: "/tests/$id/derive", params: { id } } as never);
  };
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Find a test">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (hits[0]) go(hits[0].id);
        }}
      >
        <TextInput aria-label="Number, title or state" autoFocus value={text} onChange={(e) => setText(e.target.value)} placeholder="SW-014, cooling, signed" />
        <ul className="m-0 mt-3 list-none p-0">
          {hits.map((p) => (
            <li key={p.id}>
              <button
                type="button"
                onClick={() => go(p.id)}
                className="grid w-full grid-cols-[6rem_1fr_auto] gap-3 border-0 border-b border-hair bg-transparent px-1 py-2 text-left text-sm hover:bg-wash"
              >
                <span className="num">{p.number}</span>
                <span>{p.title}</span>
                <span className="text-soft">{p.state}</span>
              </button>
            </li>
          ))}
        </ul>
        {packs.data && hits.length === 0 ? <p className="text-sm text-soft">Nothing found.</p> : null}
      </form>
    </Dialog>
  );
}
