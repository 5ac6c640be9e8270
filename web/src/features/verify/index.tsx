import { Link } from "@tanstack/react-router";
import { type DragEvent, useState } from "react";
import { look, type Schema } from "../../api/client";
import { Heading, Lead, Page, Problem, Section } from "../../ui";

type View = Schema["VerifyView"];

/** What is said in one word. A whole file by somebody else's key is not called genuine: the holder of the right key is asked here. */
function word(view: View): readonly [string, string] {
  const { result } = view.verification;
  if (result === "altered") return ["✗ Not genuine", "text-danger"];
  if (result === "unsigned") return ["✗ Not a record: nobody signed it", "text-danger"];
  if (view.pages === "altered") return ["✗ Not genuine: its pages were changed", "text-danger"];
  if (result === "unreadable") return ["? Not a sealed record", "text-limit"];
  if (view.pages === "not_as_printed") return ["? Its pages are in doubt", "text-limit"];
  return view.by_this_installation ? ["✓ Genuine", "text-water"] : ["? Whole, but not sealed here", "text-limit"];
}

/** A sealed file is dropped here and checked; nobody needs an account for that, and nothing is stored. */
export function Verify() {
  const [checked, setChecked] = useState<{ name: string; view: View } | null>(null);
  const [problem, setProblem] = useState("");
  const [over, setOver] = useState(false);
  const take = async (file: File | undefined) => {
    if (!file) return;
    const { seen, why } = await look<View>("/api/v1/verify", file);
    setProblem(why);
    setChecked(seen ? { name: file.name, view: seen } : null);
  };
  const drop = (e: DragEvent) => {
    e.preventDefault();
    setOver(false);
    void take(e.dataTransfer.files[0]);
  };
  return (
    <main className="min-h-dvh">
      <Page>
        <Heading>Is this record whole, and whose is it?</Heading>
        <Lead>Drop a sealed file or a report here, or choose it. It is checked and forgotten; you need no account for that.</Lead>
        <label
          onDragOver={(e) => {
            e.preventDefault();
            setOver(true);
          }}
          onDragLeave={() => setOver(false)}
          onDrop={drop}
          className={`relative grid min-h-32 max-w-3xl cursor-pointer place-items-center border-2 border-dashed p-6 text-lg font-semibold focus-within:outline-2 focus-within:outline-water ${over ? "border-water bg-wash" : "border-rule bg-sheet"}`}
        >
          <span>{checked ? "Check another file" : "Sealed file (.sealed.json) or report (.pdf)"}</span>
          <input type="file" accept=".json,.pdf" className="sr-only" aria-label="Sealed file" onChange={(e) => void take(e.target.files?.[0])} />
        </label>
        <Problem>{problem}</Problem>
        {checked ? <Result name={checked.name} view={checked.view} /> : null}
        <p className="m-0 text-sm text-soft">
          The same offline: <span className="num">zero-leak verify FILE --key KEY</span>.{" "}
          <Link to="/" className="text-water">
            Back to the application
          </Link>
        </p>
      </Page>
    </main>
  );
}

function Result({ name, view }: { name: string; view: View }) {
  const v = view.verification;
  const [says, tone] = word(view);
  return (
    <div role="status" data-result={v.result} className="grid max-w-3xl gap-4">
      <p className="m-0 text-2xl font-bold">
        <span className={tone}>{says}:</span> {name}
      </p>
      {view.pages ? (
        <p className={`m-0 text-lg ${view.pages === "as_printed" || view.pages === "signed" ? "" : "font-semibold text-limit"}`} data-pages={view.pages}>
          {view.pages_sentence}
        </p>
      ) : null}
      {view.superseded ? <p className="m-0 text-lg font-semibold text-limit">{view.superseded}</p> : null}
      {v.result === "genuine" ? (
        <>
          <p className="m-0 text-lg">
            {view.by_this_installation
              ? "Sealed by this installation's key."
              : "Nothing was altered since it was sealed, but by another key than this installation's. Compare its fingerprint with the one that the sealing installation prints: anybody can seal with a key of their own."}
          </p>
          <p className="m-0">
            Key of the file: <span className="num">{v.fingerprint}</span>
            <br />
            Key of this installation: <span className="num">{view.our_fingerprint}</span>
          </p>
          <Section title="What was checked">
            <ul className="m-0 list-disc pl-5">
              {v.checked.map((c) => (
                <li key={c}>{c}</li>
              ))}
            </ul>
          </Section>
        </>
      ) : (
        <p className="m-0 text-lg">{v.sentence}</p>
      )}
      {v.result === "altered" ? (
        <Section title="Altered">
          <ul className="m-0 list-disc pl-5 font-semibold text-danger">
            {v.parts.map((p) => (
              <li key={p}>{p}</li>
            ))}
          </ul>
        </Section>
      ) : null}
    </div>
  );
}
