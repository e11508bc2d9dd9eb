import type { Vec3 } from "@rubble/core/maths";
import { boundsCentre, boundsSize } from "@rubble/core/mesh";
import { addObject, type Id, placeObject, setBody, together } from "@rubble/core/shot";
import { toast } from "sonner";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";
import { worldBox } from "~/workbench/worldBox";
import { coreWorker } from "~/workers/client";

const NAME = "Where things go";

/** Room beside the way of things, as a share of the box that holds it: another run never goes quite the same way. */
const BESIDE = 0.15;

/** Objects collide only around the way of all that moves in the take on show, as high as they are: in a region of its own. */
export async function cropToTake(ids: readonly Id[]): Promise<void> {
	const way = await coreWorker().whereThingsGo();
	const { shot, reports, perform } = useWorkbench.getState();
	if (!way) {
		toast("Nothing moves by itself in the take on show.");
		return;
	}
	const boxes = [way, ...ids.flatMap((id) => worldBox(shot, reports, id) ?? [])];
	const low = Math.min(...boxes.map(({ min }) => min[1]));
	const high = Math.max(...boxes.map(({ max }) => max[1]));
	const [width, , depth] = boundsSize(way);
	const size = [width, high - low, depth].map((side) => Number((side * (1 + 2 * BESIDE)).toPrecision(3))) as unknown as Vec3;
	const [x, , z] = boundsCentre(way);
	const middle = [x, (low + high) / 2, z].map((at) => Number(at.toFixed(3))) as unknown as Vec3;
	// Pressed again, it is the same region that follows; one of somebody's own is left as it is.
	const known = ids.map((id) => shot.bodies[id]?.crop).find((crop) => crop && shot.objects[crop]?.name === NAME);
	const region = known ?? newId();
	perform(
		together("Only where things go", [
			...(known ? [] : [addObject({ id: region, name: NAME, source: { kind: "region", form: "box" } })]),
			placeObject(region, { translation: middle, scale: size }),
			setBody(ids, { crop: region }),
		]),
	);
}
