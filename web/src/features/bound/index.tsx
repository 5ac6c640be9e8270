import { offered, term } from "../../api/words";
import { useState } from "react";
import { api, http, newId, refusal, type Schema } from "../../api/client";
import { useKept } from "../../api/typing";
import { usePack, usePackActions } from "../../api/pack";
import { Follows } from "../../follows";
import { History } from "../../history";
import { Button, Field, HeadRow, Heading, Lead, Page, Problem, Section, Select, TextInput, Wide } from "../../ui";

type Kind = Schema["BoundaryKind"];
const NO_ITEM = { tag: "", place: "", kind: "blind" as Kind };

export function Bound() {
  const pack = usePack();
  const actions = usePackActions();
  const [problem, setProblem] = useState("");
  const [item, setItem, added] = useKept(`boundary ${pack.id}`, "an item at the boundary", NO_ITEM);
  const { tag, place, kind } = item;
  const set = pack.boundary.filter((b) => b.set_for_test).length;
  const put = async (item: string, body: Schema["BoundaryItem"]) => {
    const why = await refusal(http.PUT("/api/v1/packs/{id}/boundary/{item}", { params: { path: { id: pack.id, item } }, body }));
    setProblem(why);
    if (!why) await actions.refresh();
    return !why;
  };
  const strip = (b: Schema["BoundaryRow"]): Schema["BoundaryItem"] => ({ tag: b.tag, kind: b.kind, place: b.place, set_for_test: b.set_for_test, put_back: b.put_back });
  return (
    <Page>
      <Heading>
        {pack.boundary.length === 0 ? "Nothing is blinded or removed for this test." : `${set} of ${pack.boundary.length} ends and items are set for the test.`}
      </Heading>
      <Lead>Every blind that goes in must come out; every item taken out must come back. Restore stays open until they have.</Lead>
      <Problem>{problem}</Problem>
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
                    {b.set_for_test ? `${b.kind === "blind" ? "in" : "out"}, ${b.set_by}` : b.kind === "blind" ? "not in yet" : "not out yet"}
                  </td>
                  <td className="pr-4 text-sm">{b.put_back ? `${b.kind === "blind" ? "out" : "back"}, ${b.back_by}` : ""}</td>
                  <td className="text-right">
                    {pack.may.plan && (!b.set_for_test || b.put_back) ? (
                      <Button onClick={() => put(b.id, { ...strip(b), set_for_test: true, put_back: false })}>
                        {b.kind === "blind" ? "Blind is in" : "Item is out"}
                        {b.put_back ? " again" : ""}
                      </Button>
                    ) : null}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      ) : null}
      {pack.may.plan ? (
        <Section title="Add">
          <form
            className="grid grid-cols-[9rem_1fr_1fr_auto] items-end gap-3"
            onSubmit={async (e) => {
              e.preventDefault();
              if (await put(newId(), { tag, place, kind, set_for_test: false, put_back: false })) added();
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
      <Follows steps={["bound"]} />
      <Changed pack={pack.id} />
    </Page>
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
