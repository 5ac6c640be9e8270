import { useAttempt, usePack } from "../../api/pack";
import { EventButtons } from "../../booking";
import { Follows } from "../../follows";
import { Heading, Lead, LinkButton, Note, Page, Section } from "../../ui";

export function Fill() {
  const pack = usePack();
  const attempt = useAttempt();
  if (!attempt || attempt.over)
    return (
      <Page>
        <Heading>Not released for test.</Heading>
        <Note kind="plain">
          Filling begins after the release. <LinkButton to={`/tests/${pack.id}/ready`}>See what stops it</LinkButton>
        </Note>
      </Page>
    );
  const filled = attempt.events.find((e) => e.kind === "filled");
  return (
    <Page>
      <Heading>{filled ? "Filled and vented." : "Fill slowly from the bottom, every vent open."}</Heading>
      <Lead>
        Let each vent run free of bubbles for 5 minutes, its water led away from the joints. Close from the lowest up. Then look, with only the static head on: a leak
        here spares the rest.
      </Lead>
      <Section title="While it fills">
        <ul className="m-0 list-disc pl-5 text-base leading-relaxed">
          <li>Keep no air: a small volume hides a leak and stores energy.</li>
          <li>Dry every outside surface, so that a drop can be seen.</li>
          <li>Check every temporary joint by hand at zero pressure; nothing is tightened once the pressure is on.</li>
        </ul>
      </Section>
      <Follows steps={["fill"]} />
      {filled || !pack.may.book ? null : (
        <EventButtons attempt={attempt.id} size="large" events={[{ kind: "filled", label: "Filled, vents closed, looked", main: true }]} />
      )}
      {filled ? (
        <div>
          <LinkButton to={`/tests/${pack.id}/raise`} kind="main">
            Go on to the raise
          </LinkButton>
        </div>
      ) : null}
    </Page>
  );
}
