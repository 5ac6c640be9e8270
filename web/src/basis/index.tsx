export { BasisForm, type BasisInfo, type BasisValues, basisOf, basisValues, objectOf, PRESSURES } from "./basis";
export { BasisFields, type WithBasis } from "./basis-fields";
