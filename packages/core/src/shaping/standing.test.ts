import { fromEuler } from "../maths";
import { bounds, transformMesh } from "../mesh";
import { buildShape, shapeById } from "../shapes";
import { edit, poseObject, type Shot, setShapeParameter, setShapeText } from "../shot";
import { shape, shotOf } from "../testing";
import { keepStanding } from ".";

/** Height of an object's lowest point, from its mesh. */
function foot(shot: Shot, id: string): number {
	const { source, translation, rotation, scale } = shot.objects[id]!;
	if (source.kind !== "shape") throw new Error(`${id} is no shape`);
	const mesh = buildShape(shapeById(source.shape)!, source.parameters, source.texts);
	return bounds(transformMesh(mesh, { translation, rotation, scale })).min[1];
}
const posed = (shot: Shot, id: string, placement: Parameters<typeof poseObject>[2]) => edit(shot, poseObject(id, 0, placement)).shot;
const standing = (shot: Shot, id: string) => {
	const { translation } = shot.objects[id]!;
	return posed(shot, id, { translation: [translation[0], translation[1] - foot(shot, id), translation[2]] });
};

test.each(["box", "ball", "cone", "cup", "wedge", "arch", "letters"])(
	"a %s that stands keeps its foot, turned or sized, whatever changes",
	(kind) => {
		const id = kind;
		let shot = shotOf(shape(id, kind, {}));
		shot = standing(posed(shot, id, { translation: [1, 2, 3], rotation: fromEuler([0.3, -0.8, 0.5]), scale: [1, 1.5, 0.7] }), id);
		const name = Object.keys(shapeById(kind)!.parameters)[0]!;
		const { default: usual } = shapeById(kind)!.parameters[name]!;
		const larger = edit(shot, keepStanding(id, setShapeParameter(id, name, 1.4 * usual))).shot;
		expect(foot(larger, id)).toBeCloseTo(0, 5);
		expect([larger.objects[id]!.translation[0], larger.objects[id]!.translation[2]]).toEqual([1, 3]);
		const sized = edit(shot, keepStanding(id, poseObject(id, 0, { scale: [2, 2, 2] }))).shot;
		expect(foot(sized, id)).toBeCloseTo(0, 5);
		expect(sized.objects[id]!.translation[1]).toBeGreaterThan(shot.objects[id]!.translation[1] + 0.01);
	},
);

test("what does not stand on height 0, hangs on another, or goes by keys stays where its middle is", () => {
	const lifted = posed(shotOf(shape("box", "box", { height: 1 })), "box", { translation: [0, 1.2, 0] });
	const higher = (shot: Shot) => edit(shot, keepStanding("box", setShapeParameter("box", "height", 2))).shot.objects.box!.translation;
	expect(higher(lifted)).toEqual([0, 1.2, 0]);
	const stands = posed(lifted, "box", { translation: [0, 0.5, 0] });
	expect(higher(stands)).toEqual([0, 1, 0]);
	expect(higher({ ...stands, objects: { box: { ...stands.objects.box!, parent: "group" } } })).toEqual([0, 0.5, 0]);
	const key = { tick: 0, value: [0, 0.5, 0] as const, easing: "linear" as const };
	const keys = { ...stands.objects.box!.keys, translation: [key] };
	expect(higher({ ...stands, objects: { box: { ...stands.objects.box!, keys } } })).toEqual([0, 0.5, 0]);
});

test("letters keep their foot when another text is set", () => {
	const shot = standing(shotOf(shape("sign", "letters", {})), "sign");
	const name = Object.keys(shapeById("letters")!.texts!)[0]!;
	expect(foot(edit(shot, keepStanding("sign", setShapeText("sign", name, "gap"))).shot, "sign")).toBeCloseTo(0, 5);
});
