import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, http, newId, refusal, type Schema, sentence } from "../../api/client";
import { useMe } from "../../api/session";
import { Button, Dialog, Field, HeadRow, Problem, Section, Select, TextInput, Wide } from "../../ui";
import { keyOf, offered, unitsOf } from "../../units/sets";

type Detail = Schema["ProjectDetail"];
type Settings = Schema["ProjectSettings"];

const NEW: Settings = { name: "", zone: "", units: null, pack_prefix: "TP", quick_prefix: "QT" };
/** The site: what it is called, and what its projects have that have nothing of their own. */
export function SiteForm() {
  const me = useMe();
  const queries = useQueryClient();
  const [s, setS] = useState({ name: me.site, zone: me.zone, units: me.units });
  const [said, setSaid] = useState("");
  const units = keyOf(s.units);
  const same = JSON.stringify(s) === JSON.stringify({ name: me.site, zone: me.zone, units: me.units });
  const save = async () => {
    const why = await refusal(http.PUT("/api/v1/site", { body: s }));
    setSaid(why);
    if (!why) await queries.invalidateQueries();
  };
  return (
    <Section title="Site">
      <form
        className="grid items-end gap-4 sm:grid-cols-[2fr_2fr_2fr_auto]"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <Field label="Name of the site">{(ids) => <TextInput {...ids} value={s.name} onChange={(e) => setS({ ...s, name: e.target.value })} />}</Field>
        <Field label="Its zone">{(ids) => <TextInput {...ids} value={s.zone} onChange={(e) => setS({ ...s, zone: e.target.value })} />}</Field>
        <Field label="Its units">
          {(ids) => <Select {...ids} options={offered(units)} value={units} onChange={(e) => setS({ ...s, units: unitsOf(e.target.value) ?? s.units })} />}
        </Field>
        <Button type="submit" disabled={same}>
          Save
        </Button>
      </form>
      <Problem>{said}</Problem>
    </Section>
  );
}

/** Projects, with what is each one's own. */
export function Projects() {
  const all = api.useQuery("get", "/api/v1/projects");
  const [open, setOpen] = useState<Detail | "new" | null>(null);
  return (
    <Section title="Projects" aside={<Button onClick={() => setOpen("new")}>Add a project</Button>}>
      <Wide label="Projects">
        <table className="w-full border-collapse text-base">
          <HeadRow columns={["name", "zone", "numbers", "people", ""]} />
          <tbody>
            {(all.data ?? []).map((p) => (
              <tr key={p.id} className="border-b border-hair" data-project={p.settings.name}>
                <td className="py-2 pr-4 font-semibold">{p.settings.name}</td>
                <td className="pr-4 text-sm">{p.zone}</td>
                <td className="num pr-4 text-sm">
                  {p.settings.pack_prefix}-001, {p.settings.quick_prefix}-001
                </td>
                <td className="num pr-4 text-sm">{p.members.length}</td>
                <td className="text-right">
                  <Button onClick={() => setOpen(p)}>Change</Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      {open ? <Edit project={open === "new" ? null : open} onClose={() => setOpen(null)} /> : null}
    </Section>
  );
}

function Edit({ project, onClose }: { project: Detail | null; onClose: () => void }) {
  const queries = useQueryClient();
  const [id] = useState(project?.id ?? newId());
  const [s, setS] = useState<Settings>(project?.settings ?? NEW);
  const [said, setSaid] = useState<{ field?: string; said: string } | null>(null);
  const at = (field: string) => (said?.field === field ? said.said : undefined);
  const save = async () => {
    const { data, error } = await http.PUT("/api/v1/projects/{project}", {
      params: { path: { project: id } },
      headers: project ? { "if-match": `"v${project.version}"` } : {},
      body: s,
    });
    if (!data) return setSaid({ field: (error as { field?: string }).field, said: sentence(error) });
    await queries.invalidateQueries();
    onClose();
  };
  const text = (key: "name" | "zone" | "pack_prefix" | "quick_prefix", label: string, hint?: string) => (
    <Field label={label} hint={hint} error={at(key)}>
      {(ids) => <TextInput {...ids} value={s[key] ?? ""} onChange={(e) => setS({ ...s, [key]: e.target.value })} />}
    </Field>
  );
  const units = s.units ? keyOf(s.units) : "";
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={project ? project.settings.name : "Add a project"}>
      <form
        className="grid gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        {text("name", "Name")}
        {text("zone", "Zone", "As Europe/Lisbon; empty for the site's. Records keep the zone in which they were sealed.")}
        <Field label="Units" hint="For whoever chose none.">
          {(ids) => (
            <Select
              {...ids}
              options={[["", "as the site"], ...offered(units)]}
              value={units}
              onChange={(e) => setS({ ...s, units: e.target.value === "own" ? s.units : (unitsOf(e.target.value) ?? null) })}
            />
          )}
        </Field>
        <div className="grid grid-cols-2 gap-4">
          {text("pack_prefix", "Packs begin with")}
          {text("quick_prefix", "Quick tests begin with")}
        </div>
        {said && !said.field ? <Problem>{said.said}</Problem> : null}
        <div>
          <Button type="submit" kind="main">
            {project ? "Save" : "Add it"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
