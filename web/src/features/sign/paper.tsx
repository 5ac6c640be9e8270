import { useEffect, useState } from "react";
import { type Attempt, api, type Schema, sentence } from "../../api/client";
import { Note, Section, Select } from "../../ui";

const PAPERS = [
  ["a4", "A4"],
  ["letter", "Letter"],
] as const;
const FORMS = [
  ["report", "the whole report"],
  ["certificate", "one page"],
] as const;

/** The printed page, as it will be: the same pages on the screen and in the file. */
export function Paper({ attempt, form: size, signed }: { attempt: Attempt; form: Schema["Form"]; signed: boolean }) {
  const [paper, setPaper] = useState<(typeof PAPERS)[number][0]>("a4");
  const [form, setForm] = useState<(typeof FORMS)[number][0]>(size === "quick" ? "certificate" : "report");
  const [open, setOpen] = useState(false);
  const query = { paper, form };
  const pages = api.useQuery(
    "get",
    "/api/v1/attempts/{attempt}/report/pages",
    { params: { path: { attempt: attempt.id }, query } },
    { enabled: open, staleTime: 60_000 },
  );
  return (
    <Section title={signed ? "Report" : "Report, a draft until somebody signs"}>
      <div className="flex flex-wrap items-center gap-3">
        <span className="w-32">
          <Select aria-label="Paper" options={PAPERS} value={paper} onChange={(e) => setPaper(e.target.value as typeof paper)} />
        </span>
        <span className="w-52">
          <Select aria-label="Form" options={FORMS} value={form} onChange={(e) => setForm(e.target.value as typeof form)} />
        </span>
        <a
          className="inline-flex min-h-9 items-center rounded-[3px] border border-water bg-water px-4 text-sm font-semibold text-paper no-underline hover:border-ink hover:bg-ink"
          href={`/api/v1/attempts/${attempt.id}/report?paper=${paper}&form=${form}`}
          download
        >
          Download the PDF
        </a>
        <button type="button" className="border-0 bg-transparent p-1 text-water underline" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "hide the pages" : "show the pages"}
        </button>
      </div>
      <p className="m-0 text-sm text-soft">
        {signed
          ? "The sealed file is inside the PDF: whoever has the PDF can have it checked without this installation."
          : "A draft says so on its first page and carries no seal."}
      </p>
      {open && pages.isError ? <Note kind="stop">{sentence(pages.error)}</Note> : null}
      {open && pages.isPending ? <p role="status">Laying out the pages …</p> : null}
      {open ? (
        <div className="grid gap-4" data-pages={pages.data?.length ?? 0}>
          {pages.data?.map((svg, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a page is its number
            <SvgPage key={i} svg={svg} label={`Page ${i + 1} of ${pages.data.length}. The file itself can be read by a screen reader.`} />
          ))}
        </div>
      ) : null}
    </Section>
  );
}

function SvgPage({ svg, label }: { svg: string; label: string }) {
  const [address, setAddress] = useState("");
  useEffect(() => {
    const made = URL.createObjectURL(new Blob([svg], { type: "image/svg+xml" }));
    setAddress(made);
    return () => URL.revokeObjectURL(made);
  }, [svg]);
  // paper is white, whatever light the screen has
  return address ? <img src={address} alt={label} className="w-full max-w-3xl border border-hair bg-white" /> : null;
}
