import { useBlocker } from "@tanstack/react-router";
import { unsaved } from "../api/typing";
import { Button, Dialog } from "../ui";

const list = (all: string[]) => (all.length < 2 ? (all[0] ?? "") : `${all.slice(0, -1).join(", ")} and ${all.at(-1)}`);

/** Asks whoever goes away from a page on which something is typed and not saved. */
export function Leaving() {
  const { status, proceed, reset } = useBlocker({
    shouldBlockFn: ({ current, next }) => current.pathname !== next.pathname && unsaved().length > 0,
    enableBeforeUnload: () => unsaved().length > 0,
    withResolver: true,
  });
  if (status !== "blocked") return null;
  return (
    <Dialog
      open
      onOpenChange={(o) => !o && reset()}
      title="Leave without saving?"
      description={`Not saved yet: ${list(unsaved())}. It stays on this device for you, and is here again when you come back.`}
    >
      <div className="flex flex-wrap gap-3">
        <Button kind="main" onClick={reset}>
          Stay here
        </Button>
        <Button onClick={proceed}>Leave</Button>
      </div>
    </Dialog>
  );
}
