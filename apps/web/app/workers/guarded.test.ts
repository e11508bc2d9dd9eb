import { jest } from "@jest/globals";
import { Cancelled } from "@rubble/core/common";
import { FAILED, guarded, told } from "./guarded";

beforeEach(() => void jest.spyOn(console, "warn").mockImplementation(() => undefined));

test("what we say ourselves comes through, and so does being cancelled", () => {
	for (const error of [new Error("There are no frames yet. Run the shot first."), new Cancelled()]) expect(told(error)).toBe(error);
});

test.each<[string, unknown]>([
	["an engine's", new TypeError("Cannot read properties of undefined (reading 'length')")],
	["a stack's", new RangeError("Maximum call stack size exceeded")],
	["WebAssembly's", new WebAssembly.RuntimeError("unreachable")],
	["a library's", new Error("attempted to take ownership of Rust value while it was borrowed")],
	["a thrown text's", "recursive use of an object detected which would lead to unsafe aliasing in rust"],
	["a thrown nothing's", undefined],
	["another library's", new Error("chunks.flatMap is not a function")],
])("%s words stay in the console", async (_, error) => {
	expect(told(error).message).toBe(FAILED);
	const { work } = guarded({
		work: async () => {
			throw error;
		},
	});
	await expect(work()).rejects.toThrow(FAILED);
	expect(console.warn).toHaveBeenCalledWith(error);
});

test("what goes well is what it was", async () => {
	const { add, same } = guarded({ add: (a: number, b: number) => a + b, same: async (value: object) => value });
	const value = {};
	expect([await add(1, 2), (await same(value)) === value]).toEqual([3, true]);
});
