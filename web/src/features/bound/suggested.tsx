import { useState } from "react";
import { api, http, newId, refusal, type Schema } from "../../api/client";
import { usePack, usePackActions } from "../../api/pack";
import { Button, Field, LinkButton, Problem, Section, TextInput } from "../../ui";
import { useFigures } from "../../units";

/** From so many parts on it is asked what could share a filling. */
const MANY = 12;

/** Which parts could share a filling, as few packs as can be; whoever accepts makes them. */
export function Suggested() {
  const pack = usePack();
  const [open, setOpen] = useState(false);
  if (pack.rows.length < MANY && !pack.derived?.conflict) return null;
  return (
    <Section title="Packs that could share a filling">
      {open ? (
        <Asked />
      ) : (
        <div className="flex flex-wrap items-center gap-3 print:hidden">
          <Button onClick={() => setOpen(true)}>Suggest packs</Button>
          <span className="text-sm text-soft">By what hangs together, what water each stands, and which reading suits all of them.</span>
        </div>
      )}
    </Section>
  );
}

function Asked() {
  const pack = usePack();
  const show = useFigures(pack);
  const [hoses, setHoses] = useState("");
  const [asked, setAsked] = useState("");
  const [made, setMade] = useState<{ id: string; number: string }[]>([]);
  const [problem, setProblem] = useState("");
  const { refresh } = usePackActions();
  const { data, error } = api.useQuery("get", "/api/v1/packs/{id}/suggested", { params: { path: { id: pack.id }, query: { hoses: asked } } });
  const accept = async (packs: Schema["SuggestedPack"][]) => {
    const done = [...made];
    for (const [i, group] of packs.entries()) {
      const number = `${pack.number}-${i + 1}`;
      if (done.some((d) => d.number === number)) continue;
      const id = newId();
      const why = await refusal(
        http.PUT("/api/v1/packs/{id}", {
          params: { path: { id } },
          body: { project: pack.project.id, number, title: `${pack.title}, part ${i + 1}`, form: "pack", plan: pack.plan, rows: group.rows },
        }),
      );
      setProblem(why);
      if (why) break;
      done.push({ id, number });
      setMade([...done]);
    }
    await refresh();
  };
  if (error) return <Problem>{error.detail ?? "Nothing can be suggested."}</Problem>;
  if (!data) return <p className="m-0">Looking for groups…</p>;
  const over = data.packs.length - data.at_least;
  return (
    <div className="grid gap-3">
      <p className="m-0">
        <b>{data.packs.length === 1 ? "One filling does." : `${data.packs.length} fillings.`}</b>{" "}
        {over === 0 ? "Fewer are not possible." : `Fewer than ${data.at_least} are not possible; there may be a way with fewer than these.`}
        {data.alone.length ? ` No reading suits ${data.alone.join(", ")} even alone: see Derive.` : ""}
      </p>
      <ol className="m-0 grid list-none gap-2 p-0">
        {data.packs.map((g, i) => (
          <li key={g.parts.join()} className="border-b border-hair pb-2">
            <b className="num">
              {pack.number}-{i + 1}
            </b>
            : {g.parts.slice(0, 8).join(", ")}
            {g.parts.length > 8 ? ` and ${g.parts.length - 8} more` : ""}. {g.reason} {show.of(g.volume_m3, "volume_m3")} of water.
          </li>
        ))}
      </ol>
      <form
        className="flex flex-wrap items-end gap-3 print:hidden"
        onSubmit={(e) => {
          e.preventDefault();
          setAsked(hoses);
        }}
      >
        <Field label="Points that a hose could join">
          {(f) => <TextInput {...f} value={hoses} onChange={(e) => setHoses(e.target.value)} placeholder="low:shelf; pit:house" />}
        </Field>
        <Button type="submit">Suggest with these</Button>
        {pack.may.plan && data.packs.length > 1 && made.length < data.packs.length ? (
          <Button kind="main" onClick={() => accept(data.packs)}>
            Make these {data.packs.length} packs
          </Button>
        ) : null}
      </form>
      <Problem>{problem}</Problem>
      {made.length ? (
        <p className="m-0 flex flex-wrap items-center gap-3">
          Made:
          {made.map((m) => (
            <LinkButton key={m.id} to="/tests/$id/derive" params={{ id: m.id }}>
              {m.number}
            </LinkButton>
          ))}
          {data.left_out.length ? <span className="text-sm text-soft">{data.left_out.join(", ")} is named anew in each.</span> : null}
        </p>
      ) : null}
    </div>
  );
}
