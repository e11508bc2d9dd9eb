import { type CrewInput, type CrewTask, doTask } from "@rubble/core/fracture";
import { loadSolids } from "@rubble/core/solid";
import { expose } from "comlink";
import manifoldWasm from "manifold-3d/manifold.wasm?url";

const solids = loadSolids(manifoldWasm);

/** A thread of the crew. */
const member = {
	task: async (name: CrewTask, input: CrewInput<CrewTask>) => doTask(await solids, name, input),
};
export type CrewMember = typeof member;
expose(member);
