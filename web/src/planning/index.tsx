export { PlanFields } from "./plan-fields";
