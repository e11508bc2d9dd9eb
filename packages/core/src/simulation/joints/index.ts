export { type Borne, borneIn, noteBorne, takeBorne } from "./borne";
export { stopCones } from "./cones";
export { type Lines, lineLoads, makeLines, showStretched, stretchLines } from "./lines";
export { type JointLoad, jointLoads } from "./loads";
export { breakJoints, type JointBreak } from "./partings";
export { makePulls, notePulls, type Pulls, takePulls } from "./pulls";
export { pullSprings } from "./springs";
export { copyJointState, type JointState, makeJointState } from "./state";
export { findTaut, stiffenTaut, type Taut } from "./taut";
