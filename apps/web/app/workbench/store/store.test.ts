import { jest } from "@jest/globals";
import { addObject, placeObject, removeObjects, renameObject } from "@rubble/core/shot";
import { initialState, noteHold, useWorkbench } from "./store";

const box = { kind: "shape", shape: "box", parameters: { width: 1, height: 1, depth: 1 } } as const;
const state = () => useWorkbench.getState();

beforeEach(() => {
	jest.useFakeTimers();
	jest.setSystemTime(0);
	useWorkbench.setState(initialState());
	state().perform(addObject({ id: "a", name: "Box", source: box }));
	jest.advanceTimersByTime(5000);
});
afterEach(() => jest.useRealTimers());

test("undo and redo walk through the document", () => {
	const before = state().shot;
	state().perform(renameObject("a", "Pier"));
	expect(state().shot.objects.a!.name).toBe("Pier");
	state().undo();
	expect(state().shot).toEqual(before);
	state().redo();
	expect(state().shot.objects.a!.name).toBe("Pier");
	state().undo();
	state().undo();
	expect(state().shot.objects).toEqual({});
	state().undo();
	expect(state().undoStack).toEqual([]);
});

test("a drag is one step: edits of one name on one thing in quick succession are joined", () => {
	for (let i = 1; i <= 20; i++) {
		jest.advanceTimersByTime(16);
		state().perform(placeObject("a", { translation: [i, 0, 0] }));
	}
	expect(state().undoStack).toHaveLength(2);
	jest.advanceTimersByTime(2000);
	state().perform(placeObject("a", { translation: [0, 5, 0] }));
	expect(state().undoStack).toHaveLength(3);
	state().undo();
	expect(state().shot.objects.a!.translation).toEqual([20, 0, 0]);
	state().undo();
	expect(state().shot.objects.a!.translation).toEqual([0, 0, 0]);
});

test("a drag that rests is still one step; the next one is another", () => {
	const drag = (x: number) => {
		noteHold(true);
		for (const by of [0, 1, 2]) {
			jest.advanceTimersByTime(1500);
			state().perform(placeObject("a", { translation: [x + by, 0, 0] }));
		}
		noteHold(false);
	};
	drag(1);
	expect(state().undoStack).toHaveLength(2);
	drag(10);
	expect(state().undoStack).toHaveLength(3);
	state().undo();
	expect(state().shot.objects.a!.translation).toEqual([3, 0, 0]);
});

test("a new edit forgets what was undone", () => {
	state().perform(renameObject("a", "Pier"));
	state().undo();
	state().perform(renameObject("a", "Mole"));
	expect(state().redoStack).toEqual([]);
});

test("what no longer exists is no longer selected", () => {
	state().select(["a"]);
	state().undo();
	expect(state().selection).toEqual([]);
});

test("a command that changes nothing is no step", () => {
	const { undoStack } = state();
	state().perform(removeObjects(["nobody"]));
	expect(state().undoStack).toBe(undoStack);
});
