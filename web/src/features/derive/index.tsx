export { Derive } from "./derive";
