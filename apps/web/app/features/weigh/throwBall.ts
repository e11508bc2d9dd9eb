import { worldPose } from "@rubble/core/animation";
import { rotate, type Vec3, vec3 } from "@rubble/core/maths";
import { addObject, type Command, type Id, setBody, together } from "@rubble/core/shot";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";

const SPEED = 12; // m/s
const GRAVITY = 9.81;

/**
 * A steel ball that will hit the middle of an object, from the side on which it is thinnest. What is hit becomes active
 * and wakes by it; a shot without anything to land on gets ground.
 */
export function throwBallAt(id: Id): void {
	const { shot, bodies, reports, perform, select } = useWorkbench.getState();
	const size = reports[id]?.size;
	if (!size) return;
	const pose = worldPose(shot, id, 0);
	const level = size.map((side, axis) => (axis === 1 ? Number.POSITIVE_INFINITY : side));
	const axis = level.indexOf(Math.min(...level));
	const towards = rotate(pose.rotation, [axis === 0 ? -1 : 0, 0, axis === 2 ? -1 : 0]);
	const radius = Number((0.09 * (size[0] + size[1] + size[2])).toPrecision(2)) / 2;
	const way = 1.4 * Math.max(...size) + 4 * radius;
	// Its middle may be empty, as an arch's is: then the piece next to it is the mark.
	const off = (offset: Vec3) => vec3.length(vec3.subtract(offset, reports[id]!.centroid));
	const pieces = bodies.filter((body) => body.object === id && body.piece >= 0);
	const mark =
		pieces.length > 0
			? pieces.reduce((best, piece) => (off(piece.offset) < off(best.offset) ? piece : best)).offset
			: reports[id]!.centroid;
	const at = vec3.add(pose.translation, rotate(pose.rotation, mark));
	const from = vec3.subtract(at, vec3.scale(towards, way));
	const seconds = way / SPEED;
	// Falls into the middle: what gravity takes on the way is given at the start.
	const velocity = towards.map((part, k) => Number((part * SPEED + (k === 1 ? (GRAVITY * seconds) / 2 : 0)).toFixed(3))) as unknown as Vec3;
	const ball = newId();
	const commands: Command[] = [
		addObject({
			id: ball,
			name: "Thrown ball",
			source: { kind: "shape", shape: "ball", parameters: { radius, detail: 4 } },
			translation: from.map((x) => Number(x.toFixed(4))) as unknown as Vec3,
			material: "steel",
		}),
		setBody([ball], { kind: "active", velocity }),
	];
	if ((shot.bodies[id]?.kind ?? "none") === "none")
		commands.push(setBody([id], { kind: "active", wake: { when: "touched", leastSpeed: 0.3 } }));
	if (!Object.values(shot.objects).some(({ source }) => source.kind === "shape" && source.shape === "ground")) {
		const ground = newId();
		commands.push(
			addObject({ id: ground, name: "Ground", source: { kind: "shape", shape: "ground", parameters: {} }, material: "sand" }),
			setBody([ground], { kind: "passive" }),
		);
	}
	perform(together("Throw a ball", commands));
	select([ball]);
}
