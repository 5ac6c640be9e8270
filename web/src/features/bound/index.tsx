import { offered, term } from "../../api/words";
import { useState } from "react";
import { api, type Schema } from "../../api/client";
import { useKept } from "../../api/typing";
import { usePack } from "../../api/pack";
import { Follows } from "../../follows";
import { History } from "../../history";
import { RegisterFile, RemoveItem, useRegister } from "../../registers";
import { TestSystem, useLook } from "./system";
import { Button, Field, HeadRow, Heading, Lead, Page, Problem, Section, Select, TextInput, Wide } from "../../ui";

type Kind = Schema["BoundaryKind"];
/** What is said once an item is set, and of one that is, before and after. */
const SAID: Record<Kind, { set: string; is: string; not: string; back: string }> = {
  blind: { set: "Blind is in", is: "in", not: "not in yet", back: "out" },
  plug: { set: "Plug is in", is: "in", not: "not in yet", back: "out" },
  removed_item: { set: "Item is out", is: "out", not: "not out yet", back: "back" },
  shut_valve: { set: "Shut, tagged, watched", is: "shut, tagged, watched", not: "not shut and tagged yet", back: "as it was" },
  restraint: { set: "It is set", is: "set", not: "not set yet", back: "off" },
  exemption: { set: "Exemption is signed", is: "exempted", not: "not exempted yet", back: "looked at" },
};

const NO_ITEM = { tag: "", place: "", kind: "blind" as Kind };

export function Bound() {
  const pack = usePack();
  const open = useLook().data?.findings.length ?? 0;
  const set = pack.boundary.filter((b) => b.set_for_test).length;
  return (
    <Page>
      <Heading>
        {open
          ? `${open === 1 ? "1 thing is" : `${open} things are`} open at the boundary.`
          : pack.boundary.length === 0
            ? "Nothing is blinded or removed for this test."
            : `${set} of ${pack.boundary.length} ends and items are set for the test.`}
      </Heading>
      <Lead>Every blind and plug that goes in must come out; every item taken out must come back. Restore stays open until they have.</Lead>
      {pack.form === "pack" ? <TestSystem /> : null}
      <Register />
      <Follows steps={["bound"]} />
      <Changed pack={pack.id} />
    </Page>
  );
}

/** Blinds, plugs and items, each with who set it and who put it back. */
function Register() {
  const pack = usePack();
  const register = useRegister("boundary");
  const [item, setItem, added] = useKept(`boundary ${pack.id}`, "an item at the boundary", NO_ITEM);
  const { tag, place, kind } = item;
  const strip = (b: Schema["PackView"]["boundary"][number]): Schema["BoundaryItem"] => ({
    tag: b.tag,
    kind: b.kind,
    place: b.place,
    set_for_test: b.set_for_test,
    put_back: b.put_back,
  });
  return (
    <>
      <Problem>{register.problem}</Problem>
      {pack.boundary.length ? (
        <Wide label="Blinds and items taken out">
          <table className="w-full border-collapse">
            <HeadRow columns={["tag", "what", "where", "for the test", "after the test", ""]} />
            <tbody>
              {pack.boundary.map((b) => (
                <tr key={b.id} className="border-b border-hair">
                  <td className="num py-2 pr-4 font-semibold">{b.tag}</td>
                  <td className="pr-4 text-sm">{term("boundary_kind", b.kind).short}</td>
                  <td className="pr-4 text-sm">{b.place}</td>
                  <td className={`pr-4 text-sm ${b.set_for_test ? "" : "text-limit"}`}>
                    {b.set_for_test ? `${SAID[b.kind].is}, ${b.marks.set_for_test?.by}` : SAID[b.kind].not}
                  </td>
                  <td className="pr-4 text-sm">{b.put_back ? `${SAID[b.kind].back}, ${b.marks.put_back?.by}` : ""}</td>
                  <td className="text-right">
                    {pack.may.plan && (!b.set_for_test || b.put_back) ? (
                      <span className="mr-3">
                        <RemoveItem of={register} row={b} tag={b.tag} />
                      </span>
                    ) : null}
                    {pack.may.plan && (!b.set_for_test || b.put_back) ? (
                      <Button onClick={() => register.change(b, { ...strip(b), set_for_test: true, put_back: false })}>
                        {SAID[b.kind].set}
                        {b.put_back ? " again" : ""}
                      </Button>
                    ) : null}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <RegisterFile register="boundary" />
        </Wide>
      ) : null}
      {pack.may.plan ? (
        <Section title="Add">
          <form
            className="grid grid-cols-[9rem_1fr_1fr_auto] items-end gap-3"
            onSubmit={async (e) => {
              e.preventDefault();
              if (await register.add({ tag, place, kind, set_for_test: false, put_back: false })) added();
            }}
          >
            <Field label="Tag">{(ids) => <TextInput {...ids} value={tag} onChange={(e) => setItem({ tag: e.target.value })} placeholder="TB-12" />}</Field>
            <Field label="What">
              {(ids) => <Select {...ids} options={offered("boundary_kind")} value={kind} onChange={(e) => setItem({ kind: e.target.value as Kind })} />}
            </Field>
            <Field label="Where">
              {(ids) => <TextInput {...ids} value={place} onChange={(e) => setItem({ place: e.target.value })} placeholder="north end flange" />}
            </Field>
            <Button type="submit" kind="main">
              Add
            </Button>
          </form>
        </Section>
      ) : null}
    </>
  );
}

/** Who changed plan, ends and punch list; fetched once somebody asks. */
function Changed({ pack }: { pack: string }) {
  const [open, setOpen] = useState(false);
  const list = api.useQuery("get", "/api/v1/packs/{id}/history", { params: { path: { id: pack } } }, { enabled: open });
  return (
    <Section
      title="Changes of plan, ends and punch list"
      aside={
        <button type="button" className="border-0 bg-transparent p-0 text-water underline" onClick={() => setOpen(!open)}>
          {open ? "hide them" : "show them"}
        </button>
      }
    >
      {open ? <History changes={list.data} error={list.error} /> : <p className="m-0 text-sm text-soft">Every change keeps who, when, from what to what.</p>}
    </Section>
  );
}
