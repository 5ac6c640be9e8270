import { word } from "../../api/words";
import { zodResolver } from "@hookform/resolvers/zod";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { z } from "../../ui/schema";
import { api, http, refusal, type Schema, sentence } from "../../api/client";
import { useRole } from "../../api/project";
import { useTypingForm } from "../../api/typing-form";
import { History } from "../../history";
import { Button, Dialog, Field, HeadRow, Heading, Lead, Note, Page, Problem, Select, TextInput, Wide } from "../../ui";
import { useMe } from "../../api/session";
import { ConnectionDialog } from "./connection";
import { Lend, useLentTo } from "./lend";
import { type Beside, type Dimension, type Figures, number, SYMBOL, toPa, typed, type Unit, UNITS, useFigures, useFiguresAt } from "../../units";

type View = Schema["InstrumentView"];

/** What an instrument can show, in the person's units; a gauge's own unit is named where it is another. */
function range(i: Schema["Instrument"], at: (gauge: { unit: Unit; gauge: { division_pa: number } }) => Figures): string {
  const dial = { unit: i.unit ?? "bar", gauge: { division_pa: i.division_pa ?? 1e4 } };
  const show = at(dial);
  if (i.kind === "stroke_counter") return `${show.of(i.stroke_m3 ?? 0, "volume_m3")} a stroke`;
  if (i.kind === "thermometer") {
    return `reads to ${show.of(i.division_k ?? 0, "temperature_difference_k")}, error ${show.of(i.error_k ?? 0, "temperature_difference_k")}`;
  }
  const error = Number(((i.error_of_scale ?? 0) * 100).toPrecision(3));
  return `0 to ${show.named(i.full_scale_pa ?? 0)}, reads to ${show.n(dial.gauge.division_pa)}, error ${error} % of scale`;
}

export function Instruments() {
  const list = api.useQuery("get", "/api/v1/instruments");
  const figuresAt = useFiguresAt();
  const [adding, setAdding] = useState(false);
  const [renewing, setRenewing] = useState<View | null>(null);
  const [shown, setShown] = useState<View | null>(null);
  const [connecting, setConnecting] = useState<View | null>(null);
  const [lending, setLending] = useState<View | null>(null);
  const several = useMe().projects.length > 1;
  const lentTo = useLentTo();
  const may = useRole("engineer", "supervisor", "owner");
  const out = list.data?.filter((i) => i.objection).length ?? 0;
  return (
    <Page>
      <div className="flex items-center gap-4">
        <Heading>{out === 0 ? "Every instrument is in date." : out === 1 ? "One instrument is out of date." : `${out} instruments are out of date.`}</Heading>
        {may ? (
          <span className="ml-auto">
            <Button kind="main" onClick={() => setAdding(true)}>
              Add an instrument
            </Button>
          </span>
        ) : null}
      </div>
      <Lead>A test is released only with instruments that are within their certificates on the day.</Lead>
      {list.isError ? <Note kind="stop">{sentence(list.error)}</Note> : null}
      <Wide label="Instruments">
        <table className="w-full min-w-[58rem] border-collapse">
          <HeadRow columns={["tag", "what", "range", "certificate", "valid until", "recorded", "kept by", ...(several ? ["lent to"] : []), ""]} />
          <tbody>
            {list.data?.map((v) => (
              <tr key={v.instrument.tag} className="border-b border-hair">
                <td className="num py-2 pr-4 font-semibold">{v.instrument.tag}</td>
                <td className="pr-4 text-sm">{word("instrument_kind", v.instrument.kind)}</td>
                <td className="pr-4 text-sm">{v.instrument.certificate ? range(v.instrument, figuresAt) : ""}</td>
                <td className="num pr-4 text-sm">{v.instrument.certificate}</td>
                <td className={`pr-4 text-sm ${v.objection ? "font-semibold text-limit" : ""}`}>
                  <span className="num">{v.instrument.valid_until}</span>
                  {v.instrument.certificate ? (v.objection ? " out of date" : "") : v.objection}
                </td>
                <td className="pr-4 text-sm">
                  {v.may ? (
                    <Button onClick={() => setConnecting(v)}>{v.instrument.connection ? `by itself, unit ${v.instrument.connection.unit}` : "by eye"}</Button>
                  ) : v.instrument.connection ? (
                    "by itself"
                  ) : (
                    "by eye"
                  )}
                </td>
                <td className="pr-4 text-sm text-soft">{v.keeper ?? "nobody yet"}</td>
                {several ? (
                  <td className="pr-4 text-sm">
                    {v.may ? (
                      <button type="button" className="min-h-6 border-0 bg-transparent p-0 text-left text-water underline" onClick={() => setLending(v)}>
                        {lentTo(v)}
                      </button>
                    ) : (
                      <span className="text-soft">{lentTo(v)}</span>
                    )}
                  </td>
                ) : null}
                <td className="text-right whitespace-nowrap">
                  {v.may ? <Button onClick={() => setRenewing(v)}>New certificate</Button> : null}{" "}
                  <button type="button" className="min-h-6 border-0 bg-transparent p-1 text-sm text-water underline" onClick={() => setShown(v)}>
                    changes<span className="sr-only"> of {v.instrument.tag}</span>
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      {list.data?.length === 0 ? <Note kind="plain">The store is empty: add the gauge and the thermometer with their certificates.</Note> : null}
      {adding ? <AddInstrument onClose={() => setAdding(false)} /> : null}
      {connecting ? <ConnectionDialog view={connecting} onClose={() => setConnecting(null)} /> : null}
      {lending ? <Lend view={lending} onClose={() => setLending(null)} /> : null}
      {shown ? <Changes view={shown} onClose={() => setShown(null)} /> : null}
      {renewing ? <Renew view={renewing} onClose={() => setRenewing(null)} /> : null}
    </Page>
  );
}

/** Who changed it; and, for its keeper, to whom it is passed on. */
function Changes({ view, onClose }: { view: View; onClose: () => void }) {
  const tag = view.instrument.tag;
  const queries = useQueryClient();
  const list = api.useQuery("get", "/api/v1/instruments/{tag}/history", { params: { path: { tag } } });
  const [keeper, setKeeper] = useState("");
  const [refused, setRefused] = useState("");
  const pass = async () => {
    const why = await refusal(http.PUT("/api/v1/instruments/{tag}/keeper", { params: { path: { tag } }, body: { keeper } }));
    setRefused(why);
    if (why) return;
    await queries.invalidateQueries();
    onClose();
  };
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={`Changes of ${tag}`} description="Its keeper alone changes it and its certificate." wide>
      <History changes={list.data} error={list.error} />
      {view.may ? (
        <form
          className="mt-4 flex items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            void pass();
          }}
        >
          <Field label="Pass it on to (sign-in name)">{(f) => <TextInput {...f} value={keeper} onChange={(e) => setKeeper(e.target.value)} />}</Field>
          <Button type="submit">Pass it on</Button>
        </form>
      ) : null}
      <Problem>{refused}</Problem>
    </Dialog>
  );
}

/** What each figure of an instrument is; one that is none of these is a share, %. */
const QUANTITY = {
  gauge: { scale: "gauge_pressure_pa", division: "gauge_pressure_pa" },
  thermometer: { division: "temperature_difference_k", error: "temperature_difference_k" },
  stroke_counter: { division: "volume_m3" },
} as const;
type Figure = "scale" | "division" | "error";
const quantity = (kind: keyof typeof QUANTITY, name: Figure): Dimension | undefined => (QUANTITY[kind] as Partial<Record<Figure, Dimension>>)[name];
/** The unit beside a figure's field: a gauge's is that of its dial. */
function besideOf(kind: keyof typeof QUANTITY, name: Figure, dial: Unit, show: Figures): Beside {
  const dimension = quantity(kind, name);
  if (dimension === "gauge_pressure_pa") return { factor: 1 / toPa(1, dial), offset: 0, symbol: SYMBOL[dial] };
  // a stroke is small
  if (dimension === "volume_m3") return show.axis(5e-5, dimension);
  return dimension ? show.unitFor(dimension) : { factor: 100, offset: 0, symbol: "%" };
}
const figure = (t: string, kind: keyof typeof QUANTITY, name: Figure, beside: Beside): number | undefined => {
  const dimension = quantity(kind, name);
  const si = dimension ? typed(t, dimension, beside).si : number(t);
  return si == null ? undefined : dimension ? si : si / beside.factor;
};
const date = z.string().regex(/^\d{4}-\d{2}-\d{2}$/, "Write the date as 2026-03-01.");
const WORDS = { scale: "The full scale", division: "The division", error: "The error" } as const;
const Form = z
  .object({
    tag: z.string().trim().min(1, "Give the tag."),
    kind: z.enum(["gauge", "thermometer", "stroke_counter"]),
    certificate: z.string().trim().min(1, "Give the number of the certificate."),
    calibrated_on: date,
    valid_until: date,
    scale: z.string(),
    division: z.string(),
    error: z.string(),
    unit: z.enum(["bar", "kpa", "mpa", "psi", "kg_cm2"]),
  })
  .superRefine((f, context) => {
    for (const name of ["scale", "division", "error"] as const) {
      if (name === "scale" && f.kind !== "gauge") continue;
      if (!((figure(f[name], f.kind, name, { factor: 1, offset: 0, symbol: "" }) ?? 0) > 0))
        context.addIssue({ code: "custom", path: [name], message: `${WORDS[name]} is a figure above zero.` });
    }
  });
type Values = z.infer<typeof Form>;

function bodyOf(f: Values, show: Figures): Schema["Instrument"] {
  const common = { tag: f.tag, kind: f.kind, certificate: f.certificate, calibrated_on: f.calibrated_on, valid_until: f.valid_until };
  const of = (name: Figure) => figure(f[name], f.kind, name, besideOf(f.kind, name, f.unit, show));
  if (f.kind === "stroke_counter") return { ...common, stroke_m3: of("division"), stroke_unc_95_rel: of("error") };
  return f.kind === "gauge"
    ? { ...common, full_scale_pa: of("scale"), division_pa: of("division"), error_of_scale: of("error"), unit: f.unit }
    : { ...common, division_k: of("division"), error_k: of("error") };
}

export function AddInstrument({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState("");
  const form = useForm<Values>({
    resolver: zodResolver(Form),
    defaultValues: { tag: "", kind: "gauge", certificate: "", calibrated_on: "", valid_until: "", scale: "", division: "", error: "", unit: "bar" },
  });
  const { errors, isSubmitting } = form.formState;
  const typing = useTypingForm(form, "new instrument", "the instrument");
  const kind = form.watch("kind");
  const show = useFigures();
  const symbol = (name: Figure) => besideOf(kind, name, form.watch("unit") as Unit, show).symbol;
  const text = (name: keyof Values, label: string, placeholder = "") => (
    <Field label={label} error={errors[name]?.message}>
      {(ids) => <TextInput {...ids} {...form.register(name)} placeholder={placeholder} />}
    </Field>
  );
  const submit = form.handleSubmit(async (f) => {
    const why = await refusal(http.PUT("/api/v1/instruments/{tag}", { params: { path: { tag: f.tag } }, body: bodyOf(f, show) }));
    setProblem(why);
    if (why) return;
    typing.done();
    await queries.invalidateQueries();
    onClose();
  });
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title="Add an instrument" wide>
      <form onSubmit={submit} className="grid grid-cols-2 gap-4" noValidate>
        {text("tag", "Tag", "PG-105")}
        <Field label="What it measures">
          {(ids) => (
            <Select
              {...ids}
              {...form.register("kind")}
              options={[
                ["gauge", "pressure gauge"],
                ["thermometer", "thermometer"],
                ["stroke_counter", "stroke counter of a pump"],
              ]}
            />
          )}
        </Field>
        {kind === "gauge" ? (
          <>
            <Field label="Unit that it shows">{(ids) => <Select {...ids} {...form.register("unit")} options={UNITS.map((u) => [u, SYMBOL[u]] as const)} />}</Field>
            {text("scale", `Full scale, ${symbol("scale")}`, "40")}
            {text("division", `Readable division, ${symbol("division")}`, "0.1")}
            {text("error", "Error, % of full scale", "0.5")}
          </>
        ) : kind === "stroke_counter" ? (
          <>
            {text("division", `One stroke, ${symbol("division")}`)}
            {text("error", "Uncertainty of a stroke, %", "2")}
          </>
        ) : (
          <>
            {text("division", `Readable division, ${symbol("division")}`)}
            {text("error", `Error, ${symbol("error")}`)}
          </>
        )}
        {text("certificate", "Certificate")}
        {text("calibrated_on", "Calibrated on", "2026-03-01")}
        {text("valid_until", "Valid until", "2027-02-28")}
        {problem ? (
          <div className="col-span-2">
            <Note kind="stop" live>
              {problem}
            </Note>
          </div>
        ) : null}
        <div className="col-span-2 flex gap-3">
          <Button type="submit" kind="main" disabled={isSubmitting}>
            Add it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}

function Renew({ view, onClose }: { view: View; onClose: () => void }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState("");
  const [certificate, setCertificate] = useState("");
  const [from, setFrom] = useState("");
  const [until, setUntil] = useState("");
  return (
    <Dialog open onOpenChange={(o) => !o && onClose()} title={`New certificate for ${view.instrument.tag}`}>
      <form
        className="grid gap-4"
        onSubmit={async (e) => {
          e.preventDefault();
          const body = { ...view.instrument, certificate, calibrated_on: from, valid_until: until };
          const headers = { "if-match": `"v${view.version}"` };
          const why = await refusal(http.PUT("/api/v1/instruments/{tag}", { params: { path: { tag: view.instrument.tag } }, headers, body }));
          setProblem(why);
          if (why) return;
          await queries.invalidateQueries();
          onClose();
        }}
      >
        <Field label="Certificate">{(f) => <TextInput {...f} value={certificate} onChange={(e) => setCertificate(e.target.value)} />}</Field>
        <Field label="Calibrated on">{(f) => <TextInput {...f} value={from} onChange={(e) => setFrom(e.target.value)} placeholder="2026-03-01" />}</Field>
        <Field label="Valid until">{(f) => <TextInput {...f} value={until} onChange={(e) => setUntil(e.target.value)} placeholder="2027-02-28" />}</Field>
        <Problem>{problem}</Problem>
        <div className="flex gap-3">
          <Button type="submit" kind="main">
            Store it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Dialog>
  );
}
