export { bendFloating, recallBent, springBack } from "./bent";
export { takeBlows } from "./blows";
export { bindGroups, makeBonded } from "./firstFrame";
export { inGrace } from "./grace";
export { BOND_WHOLE } from "./lattice";
export { bearLoads, restingUse } from "./loads";
export { type Bonded, type BondState, type BreakEvent, copyBondState, makeBondState, weaken } from "./state";
