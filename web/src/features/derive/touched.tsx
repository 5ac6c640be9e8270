import { Link } from "@tanstack/react-router";
import type { Derived } from "../../api/client";
import { word } from "../../api/words";
import { Section } from "../../ui";
import { Why } from "../../why";

/** What the project lays down in place of a default, with the figures that it touches. */
export function Touched({ derived }: { derived: Derived }) {
  const touched = derived.touched ?? [];
  if (touched.length === 0) return null;
  return (
    <Section title="By the project's specification" aside={<Link to={"/specification" as "/"}>open it</Link>}>
      <ul className="m-0 grid list-none gap-1 p-0 text-sm">
        {touched.map((t) => (
          <li key={t.sentence} className="border-b border-hair py-1.5">
            {t.sentence} <span className="text-soft">Because: {t.reason}.</span>
            {t.figures.length ? (
              <span className="block text-soft">
                Affects{" "}
                {t.figures.map((f, i) => (
                  <span key={f}>
                    {i ? ", " : ""}
                    <Why figure={f} label={word("figure", f)} />
                  </span>
                ))}
                .
              </span>
            ) : null}
          </li>
        ))}
      </ul>
    </Section>
  );
}
