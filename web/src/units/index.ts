export { type Dial, type Dimension, inUnit, SYMBOL, toPa, type Toward, type Unit, UNITS, type Units } from "./shown";
export { names, number, type Typed, typed } from "./typed";
export { type Beside, CHOICES, converted, Figures, inField, UnitProvider, useChoice, useFigures, useFiguresAt, useFollow, useFollowUnit } from "./units";
