import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, http, refusal, sentence } from "../api/client";
import { usePack } from "../api/pack";
import { useMe } from "../api/session";
import { Button, Dialog, Field, Note, Problem, Section, Select, TextInput } from "../ui";

/** Where this test is kept: moved to another project, or put away when it was begun by mistake. */
export function Keeping() {
  const pack = usePack();
  const { projects } = useMe();
  const [open, setOpen] = useState<"away" | "move" | null>(null);
  if (!pack.may.plan || pack.away) return null;
  const others = projects.filter((p) => p.id !== pack.project.id && (pack.form === "pack" ? p.may_make_pack : p.may_make_quick));
  return (
    <Section title="Where it is kept">
      <div className="flex flex-wrap items-center gap-3 text-sm">
        <span className="text-soft">In the project {pack.project.name}.</span>
        {others.length ? <Button onClick={() => setOpen("move")}>Move it to another project</Button> : null}
        <Button onClick={() => setOpen("away")}>Put it away: it was begun by mistake</Button>
      </div>
      {open === "away" ? <PutAway onClose={() => setOpen(null)} /> : null}
      {open === "move" ? <Move others={others} onClose={() => setOpen(null)} /> : null}
    </Section>
  );
}

function PutAway({ onClose }: { onClose: () => void }) {
  const pack = usePack();
  const queries = useQueryClient();
  const [reason, setReason] = useState("");
  const [said, setSaid] = useState("");
  const away = async () => {
    const why = await refusal(http.PUT("/api/v1/packs/{id}/away", { params: { path: { id: pack.id } }, body: { away: true, reason } }));
    setSaid(why);
    if (why) return;
    await queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" });
    onClose();
  };
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={`Put ${pack.number} away?`} description="It leaves every list, and can be brought back from its own page.">
      <Field label="Why?">{(ids) => <TextInput {...ids} autoFocus value={reason} onChange={(e) => setReason(e.target.value)} />}</Field>
      <Problem>{said}</Problem>
      <div className="mt-4 flex gap-3">
        <Button kind="danger" disabled={!reason.trim()} onClick={() => void away()}>
          Put it away
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Dialog>
  );
}

function Move({ others, onClose }: { others: readonly { id: string; name: string }[]; onClose: () => void }) {
  const pack = usePack();
  const queries = useQueryClient();
  const [to, setTo] = useState("");
  const [said, setSaid] = useState("");
  const path = { id: pack.id, project: to };
  const look = api.useQuery("get", "/api/v1/packs/{id}/project/{project}", { params: { path } }, { enabled: to !== "", staleTime: 0 });
  const name = others.find((p) => p.id === to)?.name ?? "";
  const move = async () => {
    const why = await refusal(http.PUT("/api/v1/packs/{id}/project/{project}", { params: { path } }));
    setSaid(why);
    if (why) return;
    await queries.invalidateQueries({ predicate: (q) => q.queryKey[1] !== "/api/v1/session" });
    onClose();
  };
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={`Move ${pack.number} to another project`} description="What would change is shown first.">
      <div className="grid gap-4">
        <Field label="To which project?">
          {(ids) => <Select {...ids} options={[["", "not chosen"], ...others.map((p) => [p.id, p.name] as const)]} value={to} onChange={(e) => setTo(e.target.value)} />}
        </Field>
        {look.isError ? <Note kind="stop">{sentence(look.error)}</Note> : null}
        {to && look.data ? (
          look.data.refused ? (
            <Note kind="stop">{look.data.refused}</Note>
          ) : look.data.changes.length ? (
            <ul className="m-0 grid gap-1 pl-5 text-sm" data-changes>
              {look.data.changes.map((c) => (
                <li key={c}>{c}</li>
              ))}
            </ul>
          ) : (
            <Note kind="plain">Nothing else would change: it stays {look.data.number}, with the same pressure and the same people.</Note>
          )
        ) : null}
        <Problem>{said}</Problem>
        <div className="flex gap-3">
          <Button kind="main" disabled={!look.data || Boolean(look.data.refused)} onClick={() => void move()}>
            {name ? `Move it to ${name}` : "Move it"}
          </Button>
          <Button onClick={onClose}>Leave it where it is</Button>
        </div>
      </div>
    </Dialog>
  );
}
