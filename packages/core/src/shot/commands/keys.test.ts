import { emptyShot } from "../defaults";
import { edit } from "../edit";
import { moveGravityKey, poseObject, removeGravityKey, setGravity, setKey } from "./keys";
import { addObject } from "./objects";

const box = () =>
	edit(
		emptyShot("Keys"),
		addObject({ id: "box", name: "Box", source: { kind: "shape", shape: "box", parameters: {} }, material: "concrete" }),
	).shot;

test("an object without keys is placed where it is put", () => {
	const { shot } = edit(box(), poseObject("box", 600, { translation: [1, 2, 3], scale: [2, 2, 2] }));
	expect(shot.objects.box).toMatchObject({ translation: [1, 2, 3], scale: [2, 2, 2], keys: { translation: [], rotation: [] } });
});

test("a keyed object gets a key at the tick, eased like the key before it; its size is no key", () => {
	const keyed = edit(box(), setKey("box", 0, { translation: [0, 0, 0] }, "eased")).shot;
	const { shot } = edit(keyed, poseObject("box", 600, { translation: [1, 0, 0], scale: [3, 3, 3] }));
	expect(shot.objects.box!.keys.translation).toEqual([
		{ tick: 0, value: [0, 0, 0], easing: "eased" },
		{ tick: 600, value: [1, 0, 0], easing: "eased" },
	]);
	expect(shot.objects.box).toMatchObject({ translation: keyed.objects.box!.translation, scale: [3, 3, 3] });
});

test("gravity's keys are moved with what they hold, and the last one taken away leaves it steady", () => {
	const keyed = [setGravity([0, -9.81, 0], 0, true), setGravity([0, 0, 0], 600)].reduce((shot, command) => edit(shot, command).shot, box());
	const moved = edit(keyed, moveGravityKey(600, 1200)).shot.settings.gravityKeys!;
	expect(moved.map(({ tick, value }) => [tick, value])).toEqual([
		[0, [0, -9.81, 0]],
		[1200, [0, 0, 0]],
	]);
	// Onto another one: that goes.
	expect(edit(keyed, moveGravityKey(600, 0)).shot.settings.gravityKeys).toHaveLength(1);
	expect(edit(keyed, moveGravityKey(77, 0)).shot.settings.gravityKeys).toEqual(keyed.settings.gravityKeys);
	const without = [0, 600].reduce((shot, tick) => edit(shot, removeGravityKey(tick)).shot, keyed);
	expect(without.settings.gravityKeys).toBeUndefined();
});
