import { useLive } from "../live";
import { useAlarm } from "../ui";

/** The word across the whole width of every screen of a test, with its sound, before the limit and not at it. */
export function Loud() {
  const { view } = useLive();
  const gives = view?.pumping?.giving_way;
  const upper = view?.forecast?.loudness ?? "quiet";
  const low = view?.falling?.low ?? "quiet";
  // what is too high comes first; what falls through the lower bound is as loud
  const fell = !gives && upper === "quiet" && low !== "quiet";
  const loudness = gives ? "stop_now" : fell ? (low === "below" ? "below" : "stop_soon") : upper;
  useAlarm(loudness === "quiet" ? "quiet" : loudness === "stop_soon" ? "soon" : "now");
  if (loudness === "quiet") return null;
  const word = gives ? "STOP THE PUMP: IT GIVES WAY" : fell ? view?.falling?.word : view?.forecast?.word;
  return (
    <p
      role="alert"
      data-loud={loudness}
      className={`m-0 px-6 py-3 text-center text-2xl font-bold ${loudness === "stop_soon" ? "bg-limitwash text-ink" : "bg-danger text-paper"}`}
    >
      {word}
    </p>
  );
}
