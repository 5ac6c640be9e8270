import { offered } from "../../api/words";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { http, refusal, type Schema } from "../../api/client";
import { Button, Dialog, Field, Problem, Select, TextInput } from "../../ui";
import { SYMBOL } from "../../units";

type Connection = NonNullable<Schema["Instrument"]["connection"]>;

/** What a figure of the instrument is in, once the scale is applied. */
function figureIn(i: Schema["Instrument"]): string {
  if (i.kind === "thermometer") return "°C";
  return i.kind === "stroke_counter" ? "strokes" : SYMBOL[i.unit ?? "bar"];
}

/** Where an instrument answers over Modbus TCP, so that it is recorded by itself. */
export function ConnectionDialog({ view, onClose }: { view: Schema["InstrumentView"]; onClose: () => void }) {
  const queries = useQueryClient();
  const i = view.instrument;
  const was = i.connection;
  const [typed, setTyped] = useState({
    address: was?.address ?? "",
    port: String(was?.port ?? 502),
    unit: String(was?.unit ?? 1),
    register: String(was?.register ?? 0),
    scale: String(was?.scale ?? 1),
  });
  const [form, setForm] = useState<Connection["form"]>(was?.form ?? "f32");
  const [holding, setHolding] = useState(was?.holding ? "holding" : "input");
  const [problem, setProblem] = useState("");
  const text = (name: keyof typeof typed, label: string, hint?: string) => (
    <Field label={label} hint={hint}>
      {(f) => (
        <TextInput {...f} value={typed[name]} onChange={(e) => setTyped({ ...typed, [name]: e.target.value })} inputMode={name === "address" ? "text" : "decimal"} />
      )}
    </Field>
  );
  const put = async (connection: Connection | null) => {
    const headers = { "if-match": `"v${view.version}"` };
    const why = await refusal(http.PUT("/api/v1/instruments/{tag}", { params: { path: { tag: i.tag } }, headers, body: { ...i, connection } }));
    setProblem(why);
    if (why) return;
    await queries.invalidateQueries();
    onClose();
  };
  const store = () => {
    const number = (name: "port" | "unit" | "register" | "scale") => Number(typed[name].replace(",", "."));
    const whole = (["port", "unit", "register"] as const).find((n) => !Number.isInteger(number(n)) || number(n) < 0 || number(n) > 65_535);
    if (whole) return setProblem(`The ${whole} is a whole number from 0 to 65535.`);
    if (!Number.isFinite(number("scale"))) return setProblem("The scale is a figure, for instance 0.01.");
    void put({
      address: typed.address.trim(),
      port: number("port"),
      unit: number("unit"),
      register: number("register"),
      scale: number("scale"),
      form,
      holding: holding === "holding",
    });
  };
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && onClose()}
      title={`${i.tag} over Modbus TCP`}
      description="Recorded by itself from the release of a test to its end. It counts from the next release on."
      wide
    >
      <form
        className="grid grid-cols-2 gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          store();
        }}
      >
        {text("address", "Address in the site's network", "192.168.1.20")}
        {text("port", "Port", "Usually 502.")}
        {text("unit", "Modbus unit", "1 to 247")}
        {text("register", "First register", "Counted from 0.")}
        <Field label="Kind of register">
          {(f) => (
            <Select
              {...f}
              options={[
                ["input", "input"],
                ["holding", "holding"],
              ]}
              value={holding}
              onChange={(e) => setHolding(e.target.value)}
            />
          )}
        </Field>
        <Field label="How the figure is stored">
          {(f) => <Select {...f} options={offered("register_form")} value={form} onChange={(e) => setForm(e.target.value as Connection["form"])} />}
        </Field>
        {text("scale", `Scale: figure × scale = ${figureIn(i)}`, "1 where it gives the figure itself, 0.01 for hundredths.")}
        <div className="col-span-2 grid gap-3">
          <Problem>{problem}</Problem>
          <div className="flex gap-3">
            <Button type="submit" kind="main">
              Store it
            </Button>
            {was ? <Button onClick={() => void put(null)}>Read it by eye again</Button> : null}
            <Button onClick={onClose}>Leave it</Button>
          </div>
        </div>
      </form>
    </Dialog>
  );
}
