import { Link } from "@tanstack/react-router";
import { useAttempt, usePack } from "../../api/pack";
import { word } from "../../api/words";
import { useMe } from "../../api/session";
import { outcomeOf, ThreeLines } from "../../judgement";
import { Paper } from "./paper";
import { Others, SignForm } from "../../signing";
import { Heading, Lead, LinkButton, Note, Page, Section } from "../../ui";
import { dayOf, momentOf, zoneName } from "../../api/zone";

export function Sign() {
  const pack = usePack();
  const attempt = useAttempt();
  const me = useMe();
  if (!attempt)
    return (
      <Page>
        <Heading>Nothing to sign yet.</Heading>
        <Note kind="plain">A record is signed when its hold is judged and everything is put back.</Note>
      </Page>
    );
  const acts = pack.acts;
  const signed = attempt.signatures.length;
  return (
    <Page>
      <Heading>{signed === acts.length ? "Signed and sealed." : signed === 0 ? "Not signed yet." : `${signed} of ${acts.length} signatures are there.`}</Heading>
      <Lead>
        {pack.form === "quick"
          ? acts.length > 1
            ? "Whoever tested signs first, then the others."
            : "Signed by the one person who did it, this is the owner's information, not a certificate."
          : attempt.next_act
            ? "Sign in this order, each a different person, with the password again each time."
            : ""}{" "}
        Nothing signed is ever edited, only superseded with a reason.
      </Lead>
      {attempt.judgement ? (
        <Section title={`Attempt ${attempt.number}`} aside="what is signed">
          <ThreeLines judgement={attempt.judgement} />
        </Section>
      ) : null}
      <ol className="m-0 list-none p-0">
        {acts.map(({ act, person }) => {
          const s = attempt.signatures.find((x) => x.act === act);
          return (
            <li
              key={act}
              className="grid grid-cols-[8rem_1fr_auto] items-baseline gap-x-3 border-b border-hair py-2 max-[700px]:grid-cols-1"
              data-act={act}
              data-signed={Boolean(s)}
            >
              <span className="font-semibold capitalize">{word("act", act)}</span>
              {s ? (
                <>
                  <span>
                    {s.statement}
                    <span className="block text-sm text-soft">
                      {s.by_hand
                        ? [s.by_hand.name, s.by_hand.body, s.by_hand.number].filter(Boolean).join(", ")
                        : s.person === s.role
                          ? s.person
                          : `${s.person}, ${s.role}`}
                    </span>
                  </span>
                  <span className="num text-sm text-soft">
                    {momentOf(s.signed_at)} {zoneName()}
                  </span>
                </>
              ) : (
                <span className="text-soft">
                  {attempt.next_act === act ? "next" : "after that"}: {person || "nobody named"}
                </span>
              )}
            </li>
          );
        })}
      </ol>
      {attempt.next_act ? attempt.sign_objection ? <Note kind="plain">{attempt.sign_objection}</Note> : <SignForm attempt={attempt} /> : null}
      {attempt.next_act && pack.form === "quick" && signed > 0 ? <Others attempt={attempt} act={attempt.next_act} /> : null}
      {attempt.judgement ? <Paper attempt={attempt} form={pack.form} signed={signed > 0} /> : null}
      {signed > 0 ? (
        <Section title="Sealed file">
          <p className="m-0 max-w-[80ch]">
            The whole record, as signed so far. Anybody can <Link to={"/verify" as "/"}>check it here</Link>, or with <span className="num">zero-leak verify FILE</span>.
            Both name the part that was altered. The key of this installation is <span className="num whitespace-normal">{me.fingerprint}</span>.
          </p>
          <div>
            <a
              className="inline-flex min-h-9 items-center rounded-[3px] border border-water bg-water px-4 text-sm font-semibold text-paper no-underline hover:border-ink hover:bg-ink"
              href={`/api/v1/attempts/${attempt.id}/sealed`}
              download
            >
              Download the sealed file
            </a>
          </div>
        </Section>
      ) : null}
      {attempt.frozen && pack.may.release ? (
        <p className="m-0 text-sm text-soft">
          Is something wrong with it? <LinkButton to={`/tests/${pack.id}/ready`}>Supersede it by a new attempt</LinkButton>
        </p>
      ) : null}
      {pack.attempts.length > 1 ? (
        <Section title="Attempts before this">
          <ul className="m-0 list-none p-0 text-sm">
            {pack.attempts.slice(0, -1).map((a) => (
              <li key={a.id} className="border-b border-hair py-1.5">
                Attempt {a.number}, released {dayOf(a.released_at)}: <strong>{a.judgement ? word("outcome", outcomeOf(a.judgement)) : "no hold"}</strong>.{" "}
                {a.judgement?.sentence}
              </li>
            ))}
          </ul>
        </Section>
      ) : null}
    </Page>
  );
}
