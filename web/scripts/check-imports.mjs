// Holds the directions of the front end: a feature is entered by its index only and imports no other feature;
// ui knows no domain word's module; pictures, booking, planning, history, why and units import no feature. Fails when it examined nothing.
import { readdirSync, readFileSync, statSync } from "node:fs";
import { dirname, join, normalize, relative } from "node:path";

const SRC = new URL("../src", import.meta.url).pathname;
const MAY = {
  app: ["api", "ui", "units", "live", "pictures", "why", "booking", "features"],
  features: ["api", "ui", "units", "live", "pictures", "why", "booking", "planning", "basis", "follows", "history", "registers", "judgement", "signing"],
  history: ["api", "ui"],
  judgement: ["api", "ui"],
  signing: ["api", "ui"],
  registers: ["api", "ui"],
  basis: ["api", "ui", "units"],
  follows: ["api", "ui", "units", "why"],
  booking: ["api", "ui", "units", "live", "follows"],
  planning: ["api", "ui", "units"],
  why: ["api", "ui", "units"],
  pictures: ["api", "units", "ui"],
  live: ["api"],
  api: [],
  units: ["api"],
  ui: [],
};

function files(dir) {
  return readdirSync(dir).flatMap((name) => {
    const path = join(dir, name);
    return statSync(path).isDirectory() ? files(path) : /\.tsx?$/.test(name) ? [path] : [];
  });
}

let looked = 0;
const wrong = [];
for (const file of files(SRC)) {
  const from = relative(SRC, file).split("/");
  if (from.length === 1) continue;
  for (const [, name] of readFileSync(file, "utf8").matchAll(/(?:from|import)\s*\(?\s*"(\.[^"]+)"/g)) {
    looked += 1;
    const to = relative(SRC, normalize(join(dirname(file), name))).split("/");
    const [a, b] = [from[0], to[0]];
    if (a === b && a !== "features") continue;
    if (a === "features" && b === "features") {
      if (from[1] !== to[1]) wrong.push(`${from.join("/")} imports the feature ${to[1]}: a feature imports no other feature`);
      continue;
    }
    if (!MAY[a]?.includes(b)) wrong.push(`${from.join("/")} imports ${to.join("/")}: ${a} may import ${MAY[a]?.join(", ") || "nothing"}`);
    if (b === "features" && to.length > 2) wrong.push(`${from.join("/")} imports ${to.join("/")}: a feature is entered by its index`);
  }
}
if (looked < 50) wrong.push(`only ${looked} imports were examined`);
if (wrong.length) {
  console.error(wrong.join("\n"));
  process.exit(1);
}
