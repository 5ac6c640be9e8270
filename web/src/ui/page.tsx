import type { ReactNode } from "react";

export function Page({ children }: { children: ReactNode }) {
  return <div className="mx-auto grid w-full max-w-[1180px] grid-cols-[minmax(0,1fr)] content-start gap-5 px-6 py-5 max-[600px]:px-4">{children}</div>;
}

/** The sentence that a view comes down to. */
export function Heading({ children }: { children: ReactNode }) {
  return <h1 className="m-0 text-xl leading-tight font-bold">{children}</h1>;
}

export function Lead({ children }: { children: ReactNode }) {
  return <p className="m-0 -mt-3 max-w-[80ch] text-base text-soft">{children}</p>;
}

export function Section({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <section className="grid grid-cols-[minmax(0,1fr)] content-start gap-2">
      <div className="flex items-baseline justify-between gap-4 border-b border-rule pb-1">
        <h2 className="m-0 text-base font-bold">{title}</h2>
        {aside ? <div className="text-sm text-soft">{aside}</div> : null}
      </div>
      {children}
    </section>
  );
}

/** What may be wider than a phone: it is moved by itself, never the page. */
export function Wide({ label, children }: { label: string; children: ReactNode }) {
  return (
    <section aria-label={label} tabIndex={0} data-wide className="relative overflow-x-auto">
      {children}
    </section>
  );
}

/** Names of a table's columns; a column without one is for actions. */
export function HeadRow({ columns }: { columns: readonly string[] }) {
  return (
    <thead>
      <tr className="border-b border-rule text-sm text-soft">
        {columns.map((name) => (
          <th key={name} scope="col" className="py-1.5 pr-4">
            {name || <span className="sr-only">action</span>}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/** A table whose rows speak for themselves: the names of its columns are for those who hear it. */
export function Rows({ columns, children }: { columns: readonly string[]; children: ReactNode }) {
  return (
    <table className="w-full border-collapse text-sm">
      <thead className="sr-only">
        <tr>
          {columns.map((name) => (
            <th key={name} scope="col">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}
