export { BasisForm, type BasisInfo, type BasisValues, basisOf, basisValues, missingOf, objectOf, PRESSURES } from "./basis";
export { BasisFields, type WithBasis } from "./basis-fields";
