export { DayClock } from "./day-clock";
export { usePlanDraft } from "./draft";
export { DraftForm } from "./draft-form";
export { JointFields } from "./joint-fields";
export { Keeping } from "./keeping";
export { Measured } from "./measured";
export { PlanFields } from "./plan-fields";
export { ProjectField, useOneProject } from "./project-field";
export { SiteFields } from "./site-fields";
