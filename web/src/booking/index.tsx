export { HOW_TO_WRITE, instant, now } from "./clock";
export { useBook } from "./book";
export { EventButtons, LeakDialog } from "./events";
export { Happened } from "./happened";
export { LoggerImport } from "./logger-import";
export { LookDialog } from "./look";
export { ReadingForm } from "./reading-form";
export { ReleaseDialog } from "./release";
export { RigHand } from "./rig-hand";
