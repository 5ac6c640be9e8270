import { useSilentSince } from "../api/reach";
import { clockOf, zoneName } from "../api/zone";

/** Says across every page that the server is not heard, and what that means for what is on the screen. */
export function Silence() {
  const since = useSilentSince();
  return (
    <div role="status" data-silence={since !== null || undefined}>
      {since === null ? null : (
        <p className="m-0 border-b border-danger bg-dangerwash px-5 py-2 font-semibold">
          No connection to the server since {clockOf(since, true)} ({zoneName()}). What you see is from then; what you type stays on this device. The page goes on by
          itself.
        </p>
      )}
    </div>
  );
}
