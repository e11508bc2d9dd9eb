export { inGrace, takeBlows } from "./blows";
export { bindGroups, makeBonded } from "./firstFrame";
export { BOND_WHOLE } from "./lattice";
export { bearLoads, restingUse } from "./loads";
export { type Bonded, type BondState, type BreakEvent, copyBondState, makeBondState, weaken } from "./state";
