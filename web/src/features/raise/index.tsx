export { Fill } from "./fill";
export { Raise } from "./raise";
