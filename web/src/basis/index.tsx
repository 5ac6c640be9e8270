export { BasisForm, type BasisInfo, type BasisValues, basisOf, basisValues, MINUTES, missingOf, PRESSURES } from "./basis";
export { BasisFields, type WithBasis } from "./basis-fields";
