import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { http, sentence } from "../../api/client";
import { HandForm } from "../../signing";
import { Note } from "../../ui";

/** What stands behind # never reaches a server by itself. */
const token = () => location.hash.replace(/^#/, "");

/** A link to one signature under one record: the page that is signed, and the field to sign in. */
export function Signing() {
  const [of] = useState(token);
  const [done, setDone] = useState(false);
  const record = useQuery({
    queryKey: ["signing", of],
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: async () => {
      const { data, error } = await http.POST("/api/v1/signing", { body: { token: of } });
      if (!data) throw error;
      return data;
    },
  });
  return (
    <main className="mx-auto grid max-w-3xl gap-5 p-6 max-[600px]:p-4">
      <h1 className="m-0 text-2xl font-bold">{record.data ? `${record.data.site}: ${record.data.test}` : "Zero Leak"}</h1>
      {record.isPending ? <p role="status">Laying out the page …</p> : null}
      {record.isError ? <Note kind="stop">{sentence(record.error)}</Note> : null}
      {record.data ? (
        done ? (
          <Note kind="plain">You have signed. This link is used up; whoever sent it to you has the sealed record.</Note>
        ) : (
          <>
            <p className="m-0 max-w-[80ch]">
              {record.data.made_by} asks you, <strong>{record.data.name}</strong>, for your signature under this page. Read it first; if anything in it is not as it was,
              do not sign.
            </p>
            {record.data.pages.map((svg, i) => (
              <img
                // biome-ignore lint/suspicious/noArrayIndexKey: a page is its number
                key={i}
                src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`}
                alt={`Page ${i + 1}: what is signed. Ask whoever sent the link for the PDF, which a screen reader can read.`}
                className="w-full border border-hair bg-white"
              />
            ))}
            <HandForm
              name={record.data.name}
              statement={record.data.statement}
              label="Sign"
              nameAlone
              send={async (hand) => {
                const { data, error } = await http.POST("/api/v1/signing", { body: { token: of, hand } });
                if (data) setDone(true);
                return error;
              }}
            />
          </>
        )
      ) : null}
    </main>
  );
}
