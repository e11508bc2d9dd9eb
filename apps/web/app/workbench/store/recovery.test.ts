import { addObject, edit, emptyShot, invert, renameObject, type Shot, setFlags } from "@rubble/core/shot";
import { remake, stacksOf } from "./recovery";

const box = { kind: "shape", shape: "box", parameters: {} } as const;

/** A log as the server keeps it, and the shot after it. */
function logOf(...acts: readonly (readonly ["do", string, Parameters<typeof edit>[1]] | readonly ["undo" | "redo", string])[]) {
	let shot: Shot = emptyShot("Shot");
	const steps = new Map<string, ReturnType<typeof edit>["edit"]>();
	const log: Parameters<typeof stacksOf>[0][number][] = [];
	for (const [way, step, command] of acts) {
		const made = way === "do" ? edit(shot, command!).edit : way === "undo" ? invert(steps.get(step)!) : steps.get(step)!;
		const before = steps.get(step);
		if (way === "do")
			steps.set(
				step,
				before ? { ...made, patches: [...before.patches, ...made.patches], inverse: [...made.inverse, ...before.inverse] } : made,
			);
		shot = remake(shot, [{ edit: "e", step, way, name: made.name, patches: made.patches }]).shot;
		log.push({ revision: log.length + 1, step, way, name: made.name, patches: made.patches, inverse: made.inverse });
	}
	return { log, shot };
}

test("undo and redo are what they were before the reload", () => {
	const { log, shot } = logOf(
		["do", "a", addObject({ id: "a", name: "Box", source: box })],
		["do", "b", renameObject("a", "Pier")],
		["do", "c", setFlags(["a"], { hidden: true })],
		["undo", "c"],
	);
	const { undoStack, redoStack } = stacksOf(log);
	expect([undoStack.map(({ id }) => id), redoStack.map(({ id }) => id)]).toEqual([["a", "b"], ["c"]]);
	expect(shot.objects.a!.hidden).toBe(false);
	const back = remake(shot, [{ edit: "e", step: "b", way: "undo", name: "", patches: undoStack.at(-1)!.inverse }]).shot;
	expect(back.objects.a!.name).toBe("Box");
	const again = remake(shot, [{ edit: "e", step: "c", way: "redo", name: "", patches: redoStack.at(-1)!.patches }]).shot;
	expect(again.objects.a!.hidden).toBe(true);
});

test("edits of one step are one step again; an edit after an undo leaves nothing to redo", () => {
	const { log } = logOf(
		["do", "a", addObject({ id: "a", name: "Box", source: box })],
		["do", "b", renameObject("a", "One")],
		["do", "b", renameObject("a", "Two")],
		["undo", "b"],
		["redo", "b"],
		["undo", "b"],
		["do", "c", setFlags(["a"], { locked: true })],
	);
	const { undoStack, redoStack } = stacksOf(log);
	expect(undoStack.map(({ id, patches }) => [id, patches.length])).toEqual([
		["a", 1],
		["c", 1],
	]);
	expect(redoStack).toEqual([]);
});

test("what the log does not hold whole is not undone", () => {
	const { log } = logOf(["do", "a", addObject({ id: "a", name: "Box", source: box })], ["do", "b", renameObject("a", "Pier")]);
	expect(stacksOf([{ ...log[0]!, inverse: null }, log[1]!]).undoStack.map(({ id }) => id)).toEqual(["b"]);
	// Its beginning was taken away: what it undoes is not known.
	expect(stacksOf([{ ...log[1]!, way: "undo" }]).undoStack).toEqual([]);
});

test("edits that do not fit another shot are told by their names, the others are made", () => {
	const { log } = logOf(["do", "a", addObject({ id: "a", name: "Box", source: box })], ["do", "b", renameObject("a", "Pier")]);
	const sent = log.map(({ name, patches }, n) => ({ edit: `${n}`, step: `${n}`, way: "do" as const, name, patches }));
	const alone = remake(emptyShot("Other"), [sent[1]!]);
	expect([alone.made, alone.refused]).toEqual([[], ["Rename to Pier"]]);
	expect(remake(emptyShot("Other"), sent).shot.objects.a!.name).toBe("Pier");
	const bad = { ...sent[0]!, name: "Bad", patches: [{ op: "replace" as const, path: ["name"], value: "a\0b" }] };
	expect(remake(emptyShot("Other"), [bad]).refused).toEqual(["Bad"]);
});
