import { useEffect } from "react";

let audio: AudioContext | undefined;
// a browser lets a page sound only after somebody has touched it
const wake = () => {
  audio ??= new AudioContext();
  void audio.resume();
};
if (typeof window !== "undefined" && "AudioContext" in window) window.addEventListener("pointerdown", wake, { passive: true });

function beep(hertz: number, seconds: number) {
  if (audio?.state !== "running") return;
  const tone = audio.createOscillator();
  const loud = audio.createGain();
  tone.type = "square";
  tone.frequency.value = hertz;
  loud.gain.value = 0.25;
  tone.connect(loud).connect(audio.destination);
  tone.start();
  tone.stop(audio.currentTime + seconds);
}

/** Sounds while something is loud: one tone a second to ease off, a fast double tone to stop. */
export function useAlarm(loud: "quiet" | "soon" | "now") {
  useEffect(() => {
    if (loud === "quiet") return;
    const sound = () => {
      if (loud === "soon") return beep(660, 0.15);
      beep(1180, 0.18);
      setTimeout(() => beep(880, 0.18), 200);
    };
    sound();
    const again = setInterval(sound, loud === "soon" ? 1000 : 500);
    return () => clearInterval(again);
  }, [loud]);
}
