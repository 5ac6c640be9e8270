export { HandForm } from "./hand-form";
export { Others } from "./others";
export { SignForm } from "./sign-form";
