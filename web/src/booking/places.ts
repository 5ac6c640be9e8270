import type { Schema } from "../api/client";

/** Classes of places where a leak is seen, as people say them. */
export const PLACES: readonly (readonly [Schema["LeakPlace"], string])[] = [
  ["test_fitting", "temporary test fitting"],
  ["mechanical_joint", "mechanical joint"],
  ["weld", "weld"],
  ["tube_end", "tube end"],
  ["rivet_stay_bolt", "rivet, stay or bolt"],
  ["parent_metal", "parent metal"],
  ["gasket_primary", "primary gasket"],
  ["gasket_secondary", "secondary gasket"],
];
