import { useRef, useState } from "react";
import { getToken, look, newId, type Schema, sentence } from "../api/client";
import { usePack, usePackActions } from "../api/pack";
import { Button, Dialog, Field, Note, Select, TextInput } from "../ui";
import { SYMBOL, UNITS } from "../units";
import { momentOf, zoneName } from "../api/zone";
import { useFigures } from "../units";

type Preview = Schema["LoggerPreview"];
type Mapping = Schema["Mapping"];
type Line = Schema["ImportLine"];
const FORMS = [
  ["year_first", "2026-06-01 08:00:00"],
  ["day_first", "01.06.2026 08:00:00, day first"],
  ["month_first", "06/01/2026 08:00:00, month first"],
  ["either_first", "as the days in it tell"],
  ["elapsed", "a running clock"],
] as const;

/** A logger's file: looked at, mapped once, then read with progress; cancelled by closing. */
export function LoggerImport({ attempt }: { attempt: string }) {
  const { refresh } = usePackActions();
  const [file, setFile] = useState<File | null>(null);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [mapping, setMapping] = useState<Mapping | null>(null);
  const [problem, setProblem] = useState("");
  const [progress, setProgress] = useState<{ rows: number; share: number } | null>(null);
  const [done, setDone] = useState("");
  // how the file is understood; shown before anything is stored
  const [understood, setUnderstood] = useState<Extract<Line, { state: "understood" }> | null>(null);
  // a night on which the clock showed an hour twice is asked about
  const [doubled, setDoubled] = useState(false);
  const show = useFigures(usePack());
  const abort = useRef<AbortController | null>(null);
  const choose = async (chosen: File) => {
    setDone("");
    setDoubled(false);
    const { seen, why } = await look<Preview>(`/api/v1/attempts/${attempt}/recordings/preview`, chosen);
    setProblem(why);
    if (!seen) return;
    setFile(chosen);
    setPreview(seen);
    setMapping(seen.mapping);
  };
  const close = () => {
    abort.current?.abort();
    setPreview(null);
    setUnderstood(null);
    setProgress(null);
  };
  const read = async (look: boolean) => {
    if (!file || !mapping) return;
    setProblem("");
    setProgress({ rows: 0, share: 0 });
    abort.current = new AbortController();
    try {
      const headers = { "content-type": "application/octet-stream", "x-request-token": getToken() };
      const query = new URLSearchParams({ file_name: file.name, mapping: JSON.stringify(mapping), look: String(look) });
      const response = await fetch(`/api/v1/attempts/${attempt}/recordings/${newId()}?${query}`, { method: "PUT", body: file, headers, signal: abort.current.signal });
      if (!response.ok || !response.body) throw await response.json();
      await follow(response.body, (line) => {
        if (line.state === "reading") setProgress(line);
        if (line.state === "understood") setUnderstood(line);
        if (line.state === "refused") {
          setProblem(line.sentence);
          if (line.asks === "doubled_hour") setDoubled(true);
        }
        if (line.state === "stored") {
          setDone(`${line.rows} rows of ${file.name} stored.`);
          setPreview(null);
          setUnderstood(null);
          void refresh();
        }
      });
    } catch (e) {
      if (!(e instanceof DOMException)) setProblem(sentence(e));
    }
    setProgress(null);
  };
  const set = (change: Partial<Mapping>) => {
    setUnderstood(null);
    if (mapping) setMapping({ ...mapping, ...change });
  };
  const columns = (preview?.header ?? []).map((h) => [h, h] as const);
  return (
    <div className="grid gap-2">
      <label className="inline-flex min-h-9 cursor-pointer items-center justify-self-start rounded-[3px] border border-rule bg-sheet px-4 text-sm font-semibold focus-within:outline-2 focus-within:outline-water">
        Read a logger's file
        <input
          type="file"
          accept=".csv,.txt,.tsv,.log"
          className="sr-only"
          aria-label="Read a logger's file"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            e.target.value = "";
            if (chosen) void choose(chosen);
          }}
        />
      </label>
      <span role="status" className="text-sm text-soft">
        {done}
      </span>
      {problem && !preview ? (
        <Note kind="stop" live>
          {problem}
        </Note>
      ) : null}
      {preview && mapping ? (
        <Dialog
          open
          onOpenChange={(o) => !o && close()}
          title={file?.name ?? "Logger's file"}
          description={`${preview.encoding}, ${preview.separator}; ${preview.remembered ? "read as the last file with these columns was" : "guessed from the names of its columns: check it"}. The file itself is kept byte for byte.`}
          wide
        >
          <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="First rows of the file">
            <table className="w-full border-collapse font-mono text-xs">
              <thead>
                <tr className="border-b border-rule">
                  {preview.header.map((h) => (
                    <th key={h} scope="col" className="pr-4">
                      {h}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {preview.rows.slice(0, 4).map((r) => (
                  <tr key={r.join()} className="border-b border-hair">
                    {r.map((c, i) => (
                      <td key={preview.header[i]} className="pr-4">
                        {c}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <div className="mt-4 grid grid-cols-3 gap-3">
            <Field label="Time column">
              {(f) => <Select {...f} options={columns} value={mapping.time_column} onChange={(e) => set({ time_column: e.target.value })} />}
            </Field>
            <Field label="Written as">
              {(f) => (
                <Select
                  {...f}
                  options={FORMS}
                  value={mapping.time_form.kind}
                  onChange={(e) =>
                    set({
                      time_form: (e.target.value === "elapsed"
                        ? { kind: "elapsed", unit: "second", start: new Date().toISOString() }
                        : { kind: e.target.value }) as Mapping["time_form"],
                    })
                  }
                />
              )}
            </Field>
            <Field label="Zone of its clock">{(f) => <TextInput {...f} value={mapping.zone} onChange={(e) => set({ zone: e.target.value })} />}</Field>
            {doubled ? (
              <Field label="The hour that came twice">
                {(f) => (
                  <Select
                    {...f}
                    options={[
                      ["", "choose"],
                      ["first", "begins in the first of the two"],
                      ["second", "all in the second of the two"],
                    ]}
                    value={mapping.doubled_hour ?? ""}
                    onChange={(e) => set({ doubled_hour: (e.target.value || null) as Mapping["doubled_hour"] })}
                  />
                )}
              </Field>
            ) : null}
            {mapping.time_form.kind === "elapsed" ? (
              <Field label="Its clock started at" hint="2026-06-01T08:00:00Z">
                {(f) => (
                  <TextInput
                    {...f}
                    value={mapping.time_form.kind === "elapsed" ? mapping.time_form.start : ""}
                    onChange={(e) => mapping.time_form.kind === "elapsed" && set({ time_form: { ...mapping.time_form, start: e.target.value } })}
                  />
                )}
              </Field>
            ) : null}
            <Field label="Pressure column">
              {(f) => <Select {...f} options={columns} value={mapping.pressure_column} onChange={(e) => set({ pressure_column: e.target.value })} />}
            </Field>
            <Field label="Its unit (gauge)">
              {(f) => (
                <Select
                  {...f}
                  options={UNITS.map((u) => [u, SYMBOL[u]] as const)}
                  value={mapping.pressure_unit}
                  onChange={(e) => set({ pressure_unit: e.target.value as Mapping["pressure_unit"] })}
                />
              )}
            </Field>
            <Field label="Decimal sign">
              {(f) => (
                <Select
                  {...f}
                  options={[
                    ["point", "point"],
                    ["comma", "comma"],
                  ]}
                  value={mapping.decimal_comma ? "comma" : "point"}
                  onChange={(e) => set({ decimal_comma: e.target.value === "comma" })}
                />
              )}
            </Field>
            <Field label="Temperature column">
              {(f) => (
                <Select
                  {...f}
                  options={[["", "none"], ...columns]}
                  value={mapping.temperature_column ?? ""}
                  onChange={(e) => set({ temperature_column: e.target.value || null })}
                />
              )}
            </Field>
          </div>
          {problem ? (
            <div className="mt-3">
              <Note kind="stop" live>
                {problem}
              </Note>
            </div>
          ) : null}
          {understood ? (
            <p className="mt-4 mb-0 text-base" data-understood={understood.rows}>
              <strong>{understood.rows} rows</strong>, from <strong className="num">{momentOf(understood.first_at, true)}</strong> to{" "}
              <strong className="num">{momentOf(understood.last_at, true)}</strong> {zoneName()}, read with the zone <strong>{understood.zone}</strong>.
              {understood.range_pa ? (
                <>
                  {" "}
                  Pressure from {show.p(understood.range_pa[0])} to {show.p(understood.range_pa[1])}; first {show.p(understood.first_pa ?? 0)}, last{" "}
                  {show.p(understood.last_pa ?? 0)}.
                </>
              ) : null}{" "}
              What is stored is never read anew: is this the time and the unit that the logger showed?
            </p>
          ) : null}
          <div className="mt-4 flex items-center gap-3">
            <Button kind="main" onClick={() => void read(!understood)} disabled={progress !== null}>
              {understood ? "Store it" : "Read the file"}
            </Button>
            <Button onClick={close}>{progress ? "Cancel" : "Leave it"}</Button>
            {progress ? (
              <label className="flex items-center gap-2 text-sm text-soft">
                <progress value={progress.share} max={1} /> {progress.rows} rows
              </label>
            ) : null}
          </div>
        </Dialog>
      ) : null}
    </div>
  );
}

/** Follows lines of JSON as they come. */
async function follow(body: ReadableStream<Uint8Array>, each: (line: Line) => void) {
  const reader = body.pipeThrough(new TextDecoderStream() as unknown as ReadableWritablePair<string, Uint8Array>).getReader();
  let rest = "";
  for (;;) {
    const { value, done } = await reader.read();
    if (done) break;
    const lines = (rest + value).split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) if (line) each(JSON.parse(line));
  }
}
