export { NewPack } from "./new-pack";
export { Packs } from "./packs";
