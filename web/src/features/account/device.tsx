import { Field, Section, Select, THEMES, type Theme, useTheme } from "../../ui";
import { CHOICES, SYMBOL, type Unit, UNITS, useChoice, useFigures } from "../../units";

/** Units and light of this device; on a phone there is no room for them at the top. */
export function Device() {
  const show = useFigures();
  const { rest, choose } = useChoice();
  const [theme, setTheme] = useTheme();
  return (
    <Section title="This device">
      <div className="grid gap-3">
        <Field label="Pressure in">
          {(ids) => (
            <Select {...ids} value={show.unit} onChange={(e) => choose({ pressure: e.target.value as Unit })} options={UNITS.map((u) => [u, SYMBOL[u]] as const)} />
          )}
        </Field>
        {(
          [
            ["temperature", "Temperatures in"],
            ["length", "Lengths and sizes in"],
            ["volume", "Volumes and flows in"],
          ] as const
        ).map(([key, label]) => (
          <Field key={key} label={label}>
            {(ids) => <Select {...ids} value={rest[key]} onChange={(e) => choose({ [key]: e.target.value })} options={CHOICES[key]} />}
          </Field>
        ))}
        <Field label="Light of the screen" hint="In the sun: outdoor.">
          {(ids) => <Select {...ids} value={theme} onChange={(e) => setTheme(e.target.value as Theme)} options={THEMES.map((t) => [t, t] as const)} />}
        </Field>
      </div>
    </Section>
  );
}
