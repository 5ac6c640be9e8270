import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { http, refusal, type Schema } from "../../api/client";
import { useMe } from "../../api/session";
import { Button, Dialog, Problem } from "../../ui";

type View = Schema["InstrumentView"];

/** Names of the projects to which an instrument is lent, of those in which the person has a part. */
export function useLentTo(): (view: View) => string {
  const { projects } = useMe();
  return (view) => {
    const names = projects.filter((p) => view.lent_to.includes(p.id)).map((p) => p.name);
    return names.length === projects.length ? "all your projects" : names.join(", ") || "none of your projects";
  };
}

/** For its keeper: in which projects it can be chosen. */
export function Lend({ view, onClose }: { view: View; onClose: () => void }) {
  const { tag } = view.instrument;
  const { projects } = useMe();
  const queries = useQueryClient();
  const [to, setTo] = useState(projects.filter((p) => view.lent_to.includes(p.id)).map((p) => p.id));
  const [refused, setRefused] = useState("");
  const save = async () => {
    const why = await refusal(http.PUT("/api/v1/instruments/{tag}/projects", { params: { path: { tag } }, body: { projects: to } }));
    setRefused(why);
    if (why) return;
    await queries.invalidateQueries();
    onClose();
  };
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title={`Lend ${tag}`}
      description="It can be chosen for tests of these projects alone. A pack that has chosen it and loses it is stopped until another is chosen."
    >
      <form
        className="grid gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <fieldset className="m-0 grid gap-1 border-0 p-0">
          <legend className="sr-only">Projects</legend>
          {projects.map((p) => (
            <label key={p.id} className="flex min-h-9 items-center gap-2">
              <input
                type="checkbox"
                className="accent-water"
                checked={to.includes(p.id)}
                onChange={(e) => setTo(e.target.checked ? [...to, p.id] : to.filter((id) => id !== p.id))}
              />
              {p.name}
            </label>
          ))}
        </fieldset>
        <Problem>{refused}</Problem>
        <div className="flex gap-3">
          <Button type="submit" kind="main">
            Lend it so
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
