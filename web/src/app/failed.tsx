import { Link } from "@tanstack/react-router";
import { Heading, Page } from "../ui";

export function NotHere() {
  return (
    <Page>
      <Heading>There is no such page.</Heading>
      <p>
        Go to <Link to="/">Today</Link> or <Link to="/packs">Packs</Link>.
      </p>
    </Page>
  );
}

export function Failed() {
  return (
    <Page>
      <Heading>This page failed to show. Nothing that was stored is lost.</Heading>
      <p>
        <button type="button" className="underline" onClick={() => location.reload()}>
          Load it again
        </button>
      </p>
    </Page>
  );
}
