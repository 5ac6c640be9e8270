import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { type Attempt, http, newId, sentence } from "../../api/client";
import { usePack } from "../../api/pack";
import { word } from "../../api/words";
import { momentOf, zoneName } from "../../api/zone";
import { Others, SignForm } from "../../signing";
import { Button, LinkButton, Note, Problem } from "../../ui";

/** Signatures that are there, the next one, and what comes after the last. */
export function Signing({ attempt }: { attempt: Attempt }) {
  const pack = usePack();
  const signed = attempt.signatures.length;
  const done = signed > 0 && !attempt.next_act;
  // whoever tested has signed: the next is another person's
  const others = signed > 0 && Boolean(attempt.next_act) && pack.may.book;
  return (
    <div className="grid gap-4">
      {attempt.signatures.map((s) => (
        <p key={s.act} className="m-0 border-b border-hair pb-2" data-act={s.act}>
          <strong className="capitalize">{word("act", s.act)}</strong> by {s.by_hand ? `${s.by_hand.name}, ${s.by_hand.body}` : s.person}, {momentOf(s.signed_at)}{" "}
          {zoneName()}: <span className="text-soft">{s.statement}</span>
        </p>
      ))}
      {attempt.next_act ? attempt.sign_objection ? others ? null : <Note kind="plain">{attempt.sign_objection}</Note> : <SignForm attempt={attempt} /> : null}
      {others && attempt.next_act ? <Others attempt={attempt} act={attempt.next_act} /> : null}
      {done ? (
        <div className="flex flex-wrap items-center gap-4">
          <Again />
          <a href={`/api/v1/attempts/${attempt.id}/report?paper=a4&form=certificate`} download className="text-water underline">
            The page, as a PDF
          </a>
          <LinkButton to={`/tests/${pack.id}/sign`}>See the page, or take the sealed file</LinkButton>
        </div>
      ) : null}
    </div>
  );
}

/** The next one like this. */
function Again() {
  const pack = usePack();
  const navigate = useNavigate();
  const [problem, setProblem] = useState("");
  const [copy] = useState(newId);
  return (
    <>
      <Button
        kind="main"
        size="large"
        onClick={async () => {
          setProblem("");
          try {
            const { data, error } = await http.PUT("/api/v1/packs/{id}/again/{copy}", { params: { path: { id: pack.id, copy } } });
            if (data) await navigate({ to: `/tests/${data.id}/page` as "/" });
            else setProblem(sentence(error));
          } catch (e) {
            setProblem(sentence(e));
          }
        }}
      >
        The next one like this
      </Button>
      <Problem>{problem}</Problem>
    </>
  );
}
