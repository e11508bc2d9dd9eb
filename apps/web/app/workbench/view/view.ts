import { cameraPose, fieldOfViewAt, worldPose } from "@rubble/core/animation";
import { pieceOfCrumb } from "@rubble/core/bonds";
import { type Vec3, vec3 } from "@rubble/core/maths";
import { flatFaces } from "@rubble/core/mesh";
import { type Id, objectOf, tickOfFrame } from "@rubble/core/shot";
import { Color, Matrix4, MOUSE, Raycaster, Sphere, Vector2, Vector3 } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { currentObject, selectedBodies } from "../store/selectors";
import { useWorkbench, type WorkbenchState } from "../store/store";
import { makeBodies } from "./bodies";
import { columnColours, gradientColours, pieceColour, rampColour, slabColours } from "./colours";
import { dress } from "./dress";
import { offerEye } from "./eye";
import { fieldArrows } from "./fields";
import { makeGizmo } from "./gizmo";
import { guideLines } from "./guides";
import { helperLines } from "./helpers";
import { makeLinked } from "./linked";
import { makeOverlays } from "./overlays";
import { pathLines } from "./paths";
import { applyPoses, speedsAt } from "./poses";
import { edgesOfObject } from "./solidEdges";
import { makeStage } from "./stage";
import { tieLines } from "./ties";

export interface ViewStats {
	/** Script and drawing of the last frame, ms. */
	readonly draw: number;
	/** Script of putting all bodies in their places, ms. */
	readonly apply: number;
	readonly bodies: number;
}

export interface View {
	readonly resize: (width: number, height: number) => void;
	readonly picture: () => Promise<Blob | null>;
	/** The line of sight through a point of the window, in the world. */
	readonly sight: (clientX: number, clientY: number) => { readonly origin: Vec3; readonly direction: Vec3 };
	/** Where a place of the world is seen in the window; undefined behind the camera. */
	readonly project: (place: Vec3) => readonly [clientX: number, clientY: number] | undefined;
	/** The body that is seen at a point of the window. */
	readonly bodyAt: (clientX: number, clientY: number) => string | undefined;
	/** Where the line of sight first meets this object, or anything where none is named, in the world. */
	readonly surface: (clientX: number, clientY: number, object?: Id) => Vec3 | undefined;
	readonly dispose: () => void;
}

/** Nearer to the middle of new copies than so many of their radii, the camera sees only a part of them. */
const TOO_NEAR = 1.6;

/** Places that a connector may snap to, at most. */
const MOST_SNAPS = 20_000;
const NO_LINES = new Float32Array(0);

/** The picture of the shot: follows the store, draws when something has changed, turns clicks into selection. */
export function makeView(canvas: HTMLCanvasElement, onStats: (stats: ViewStats) => void): View {
	let apply = 0;
	const stage = makeStage(canvas, (draw) => onStats({ draw, apply, bodies: useWorkbench.getState().bodies.length }));
	const bodies = makeBodies(stage.scene, () => {
		const state = useWorkbench.getState();
		look(state);
		place(state);
		paint(state);
		outline(state);
		stage.draw();
	});
	const overlays = makeOverlays(stage.scene, bodies);
	const linked = makeLinked(stage.scene, bodies);
	const controls = new OrbitControls(stage.camera, canvas);
	controls.mouseButtons = { LEFT: MOUSE.ROTATE, MIDDLE: MOUSE.ROTATE, RIGHT: MOUSE.PAN };
	controls.target.set(0, 0.8, 0);
	controls.zoomToCursor = true;
	controls.addEventListener("change", () => {
		if (useWorkbench.getState().camera !== "free") useWorkbench.setState({ camera: "free" });
		stage.draw();
	});
	/** Middles of bodies and of their faces, and their corners, for connectors to snap to. */
	const snapPlaces = (ids: readonly string[]): Vec3[] => {
		const { bodies: rows, drawings } = useWorkbench.getState();
		const places: Vec3[] = [];
		const matrix = new Matrix4();
		const point = new Vector3();
		for (const row of rows) {
			if ((!ids.includes(row.id) && !ids.includes(row.object)) || row.endless || !bodies.matrixOf(row.id, matrix)) continue;
			places.push(triple(point.set(...row.centre).applyMatrix4(matrix)));
			const drawing = drawings[row.object];
			const mesh = drawing?.mesh[drawing.ids.indexOf(row.id)];
			if (!drawing || mesh === undefined) continue;
			const positions = drawing.positions.subarray(3 * drawing.vertexStart[mesh]!, 3 * drawing.vertexStart[mesh + 1]!);
			const triangles = drawing.indices.subarray(drawing.indexStart[mesh]!, drawing.indexStart[mesh + 1]!);
			if (triangles.length <= MOST_SNAPS)
				for (const { middle } of flatFaces({ positions, triangles })) places.push(triple(point.set(...middle).applyMatrix4(matrix)));
			for (let v = drawing.vertexStart[mesh]!; v < drawing.vertexStart[mesh + 1]! && places.length < MOST_SNAPS; v++)
				places.push(triple(point.fromArray(drawing.positions, 3 * v).applyMatrix4(matrix)));
		}
		return places;
	};
	const gizmo = makeGizmo(stage, canvas, controls, () => stage.draw(), snapPlaces);
	const colour = new Color();

	const place = (state: WorkbenchState) => {
		const begin = performance.now();
		applyPoses(bodies, state);
		linked.follow(state);
		apply = performance.now() - begin;
		overlays.follow();
	};
	const paint = (state: WorkbenchState) => {
		const speeds = state.colourBy === "speed" ? speedsAt(state) : undefined;
		const known = speeds && new Map(state.take?.take.bodies.map(({ id }, i) => [id, i]));
		const gradient = state.colourBy === "gradient" ? gradientColours(state, bodies) : undefined;
		const columns = columnColours(state);
		const slabs = state.colourBy === "slab" ? slabColours(state) : undefined;
		const top = speeds ? speeds.reduce((most, speed) => Math.max(most, speed), 0.5) : 1;
		const tinted = new Set(selectedBodies(state).map((body) => body.id));
		for (const body of [...state.bodies, ...state.crumbs]) {
			let tint: Color | undefined;
			if (state.colourBy === "piece" && body.piece >= 0) tint = pieceColour(body.piece, colour);
			else if (slabs) tint = slabs(pieceOfCrumb(body.id), colour);
			else if (gradient) tint = gradient(body, colour);
			else if (columns) tint = rampColour(columns(body), colour);
			else if (speeds) tint = rampColour(Math.sqrt((speeds[known!.get(body.id) ?? -1] ?? 0) / top), colour);
			if (tinted.has(pieceOfCrumb(body.id))) tint = (tint ?? colour.set("#ffffff")).lerp(SELECTED, 0.28);
			bodies.setColour(body.id, tint);
		}
	};
	const look = (state: WorkbenchState) => dress(stage, bodies, linked, state);
	const outline = (state: WorkbenchState) => {
		const picked = selectedBodies(state);
		linked.setSelection(new Set(picked.map((body) => body.object)));
		overlays.setSelection(
			// What links draw is somewhere else than its drawing.
			picked.flatMap((body) => (linked.objects().has(body.object) ? [] : [body.id])),
			Object.values(state.drawings),
		);
	};
	/** Draws without helpers and outlines. */
	const bare = (draw: () => void) => overlays.without(() => linked.without(draw));
	const centres = (state: WorkbenchState) =>
		overlays.setCentres(
			state.showCentres
				? state.bodies
						.filter((body) => body.settings.kind !== "none" && !body.endless)
						// The body's frame has its size in it.
						.map(({ id, centre, scale }) => ({ id, at: vec3.scale(centre, 1 / scale) }))
				: null,
		);

	const fields = (state: WorkbenchState) => {
		if (!state.showForces) return overlays.setFields(NO_LINES);
		const picked = currentObject(state);
		const force = picked !== undefined && state.shot.objects[picked]?.source.kind === "force" ? picked : undefined;
		const known = bodies.boundsOf(allIds(state), sphere);
		const room = known
			? { centre: triple(sphere.center), radius: Math.max(0.5, sphere.radius) }
			: { centre: [0, 1, 0] as const, radius: 2 };
		overlays.setFields(fieldArrows(state.shot, tickOfFrame(state.shot.settings, state.frame), force, room));
	};

	const sphere = new Sphere();
	const frameOn = (ids: readonly string[]) => {
		if (bodies.boundsOf(ids, sphere)) frameSphere();
	};
	const frameSphere = () => {
		const radius = Math.max(sphere.radius, 0.05);
		const direction = stage.camera.position.clone().sub(controls.target).normalize();
		const narrow = Math.min(1, stage.camera.aspect);
		const distance = (radius * 1.15) / (Math.sin((stage.camera.fov * Math.PI) / 360) * narrow);
		controls.target.copy(sphere.center);
		stage.camera.position.copy(sphere.center).addScaledVector(direction, distance);
		stage.camera.near = distance / 200;
		stage.camera.far = distance * 100 + 400;
		stage.camera.updateProjectionMatrix();
		controls.update();
	};
	const turnTo = (state: WorkbenchState) => {
		const direction = DIRECTIONS[state.camera];
		if (!direction) return;
		const distance = stage.camera.position.distanceTo(controls.target);
		stage.camera.position.copy(controls.target).addScaledVector(direction, distance);
		controls.update();
		// Turning ends in "free" through the change event; the chosen view is what it is until the user turns it.
		if (useWorkbench.getState().camera !== state.camera) useWorkbench.setState({ camera: state.camera });
	};
	/** Puts the view where the chosen camera is at the frame. */
	const lookThrough = (state: WorkbenchState) => {
		const source = state.shot.objects[state.camera]?.source;
		const { camera } = stage;
		if (source?.kind !== "camera") {
			if (camera.fov !== FREE_FIELD) {
				camera.fov = FREE_FIELD;
				camera.updateProjectionMatrix();
			}
			return;
		}
		const tick = tickOfFrame(state.shot.settings, state.frame);
		const { translation, rotation } = cameraPose(state.shot, state.camera, tick);
		camera.position.set(...translation);
		camera.quaternion.set(...rotation);
		Object.assign(camera, { fov: fieldOfViewAt(state.shot, state.camera, tick), near: source.near, far: source.far });
		camera.updateProjectionMatrix();
		// Orbiting begins from here, around what is looked at.
		const distance =
			source.aim && state.shot.objects[source.aim]
				? camera.position.distanceTo(new Vector3(...worldPose(state.shot, source.aim, 0).translation))
				: 4;
		camera.getWorldDirection(controls.target).multiplyScalar(distance).add(camera.position);
	};
	/** Draws once at another size than the window's. */
	const capture = (into: HTMLCanvasElement, best: boolean) => {
		const { width, height } = canvas.getBoundingClientRect();
		const distance = best ? stage.camera.position.distanceTo(controls.target) : undefined;
		stage.drawAt(into.width, into.height, bare, distance);
		into.getContext("2d")!.drawImage(canvas, 0, 0, into.width, into.height);
		stage.resize(width, height);
		stage.draw();
	};
	offerEye({
		sight: () => {
			const forward = stage.camera.getWorldDirection(new Vector3());
			return { position: rounded(stage.camera.position), forward: triple(forward), target: rounded(controls.target) };
		},
		capture,
	});
	const allIds = (state: WorkbenchState) =>
		state.bodies.filter((body) => !body.endless && !state.shot.objects[body.object]?.hidden).map((body) => body.id);

	/** Lines of those that help and are to be seen: not of the camera that the view looks through. */
	const helpersOf = (state: WorkbenchState, ids: readonly string[]): Vec3[][] => {
		const { shot, frame, camera } = state;
		return ids
			.filter((id) => shot.objects[id] && !shot.objects[id].hidden && id !== camera)
			.flatMap((id) => helperLines(shot, tickOfFrame(shot.settings, frame), id, (object) => edgesOfObject(state, object)));
	};

	/** Whether the middle of an object is well within the picture. */
	const inSight = (object: Id, state: WorkbenchState): boolean => {
		const ids = state.bodies.filter((body) => body.object === object).map((body) => body.id);
		if (!bodies.boundsOf(ids, sphere)) return true;
		const { x, y, z } = sphere.center.clone().project(stage.camera);
		return Math.abs(x) < 0.85 && Math.abs(y) < 0.85 && z < 1;
	};

	/** Whether copies of an object have come to stand around the camera or right before it, or out of the picture. */
	const grewAround = (object: Id, state: WorkbenchState, before: WorkbenchState): boolean => {
		if (state.drawings[object] === before.drawings[object] || state.shot.objects[object]?.source.kind !== "array") return false;
		const ids = state.bodies.filter((body) => body.object === object).map((body) => body.id);
		if (!bodies.boundsOf(ids, sphere)) return false;
		return sphere.center.distanceTo(stage.camera.position) < TOO_NEAR * sphere.radius || !inSight(object, state);
	};

	let framed = false;
	const update = (state: WorkbenchState, before: WorkbenchState | undefined) => {
		const changed = (...fields: (keyof WorkbenchState)[]) => !before || fields.some((field) => state[field] !== before[field]);
		if (changed("drawings")) bodies.sync(state.drawings);
		if (changed("drawings", "shot", "bodies")) look(state);
		else if (changed("frame")) stage.setScenery(state.shot, tickOfFrame(state.shot.settings, state.frame));
		if (changed("drawings", "shot", "bodies", "frames", "frame", "explode", "take", "settling", "alone")) {
			const before = [...linked.objects()].join();
			place(state);
			// What links draw now is not drawn among the bodies, and the other way round.
			if (before !== [...linked.objects()].join()) look(state);
		}
		if (
			changed("drawings", "bodies", "colourBy", "selection") ||
			(state.colourBy === "slab" && changed("ties")) ||
			(state.colourBy === "speed" && changed("frame", "frames")) ||
			(state.colourBy === "gradient" && changed("frame", "frames", "shot", "take", "pixels"))
		)
			paint(state);
		if (changed("drawings", "selection", "bodies")) outline(state);
		if (changed("showColliders", "colliderLines", "explode"))
			overlays.setColliders(state.showColliders ? state.colliderLines : null, state.explode);
		if (changed("showCentres", "bodies")) centres(state);
		if (changed("guides")) overlays.setGuides(state.guides ? guideLines(state.shot, state.guides) : []);
		if (changed("selection", "tool", "ownAxes", "shot", "frame", "bodies", "bound", "showTies")) gizmo.follow(state);
		if (changed("bodies", "drawings") && !framed && allIds(state).length > 0) {
			framed = true;
			frameOn(allIds(state));
			stage.fitShadow(sphere.radius * 2);
		} else if (
			before &&
			changed("drawings") &&
			Object.keys(state.drawings).some((id) => (!before.drawings[id] && !inSight(id, state)) || grewAround(id, state, before))
		) {
			frameOn(allIds(state));
			stage.fitShadow(sphere.radius * 2);
		} else if (changed("drawings") && bodies.boundsOf(allIds(state), sphere)) stage.fitShadow(sphere.radius * 2);
		if (before && changed("lookAt")) {
			const ids = selectedBodies(state).map((body) => body.id);
			const points = helpersOf(state, state.selection).flat();
			if (ids.length === 0 && points.length > 0) {
				sphere.setFromPoints(points.map((point) => new Vector3(...point)));
				frameSphere();
			} else frameOn(ids.length > 0 ? ids : allIds(state));
		}
		if (before && changed("camera")) turnTo(state);
		if (changed("camera", "shot", "frame")) lookThrough(state);
		if (changed("shot", "frame", "camera", "selection"))
			overlays.setHelpers(
				helpersOf(
					state,
					Object.keys(state.shot.objects).filter((id) => !state.selection.includes(id)),
				),
				helpersOf(state, state.selection),
			);
		if (changed("shot", "frame", "selection", "bodies", "showForces")) fields(state);
		if (changed("showTies", "ties", "tieColour", "frame", "frames", "take", "bound", "shot", "bodies"))
			overlays.setTies(state.showTies ? tieLines(state) : null);
		if (changed("showPaths", "selection", "bodies", "frames", "take")) overlays.setPaths(state.showPaths ? pathLines(state) : NO_LINES);
		stage.draw();
	};
	update(useWorkbench.getState(), undefined);
	const unsubscribe = useWorkbench.subscribe((state, before) => update(state, before));
	const stopPicking = pickOnClick(canvas, stage.camera, bodies, controls, () => gizmo.busy());

	const raycaster = new Raycaster();
	const aim = (clientX: number, clientY: number) => {
		const box = canvas.getBoundingClientRect();
		const x = ((clientX - box.left) / box.width) * 2 - 1;
		const y = 1 - ((clientY - box.top) / box.height) * 2;
		raycaster.setFromCamera(new Vector2(x, y), stage.camera);
		return raycaster;
	};
	return {
		sight(clientX, clientY) {
			const { origin, direction } = aim(clientX, clientY).ray;
			return { origin: triple(origin), direction: triple(direction) };
		},
		project(place) {
			const box = canvas.getBoundingClientRect();
			const { x, y, z } = new Vector3(...place).project(stage.camera);
			return z > 1 ? undefined : [box.left + ((x + 1) / 2) * box.width, box.top + ((1 - y) / 2) * box.height];
		},
		bodyAt: (clientX, clientY) => bodies.pick(aim(clientX, clientY))?.id,
		surface(clientX, clientY, object) {
			const hit = bodies.pick(aim(clientX, clientY));
			return hit && (object === undefined || objectOf(useWorkbench.getState().shot, hit.id) === object) ? triple(hit.point) : undefined;
		},
		resize(width, height) {
			stage.resize(width, height);
			stage.draw();
		},
		picture() {
			bare(() => stage.renderer.render(stage.scene, stage.camera));
			return new Promise((resolve) => {
				const small = document.createElement("canvas");
				small.width = 592;
				small.height = 300;
				const wide = canvas.width / canvas.height > small.width / small.height;
				const width = wide ? (canvas.height * small.width) / small.height : canvas.width;
				const height = wide ? canvas.height : (canvas.width * small.height) / small.width;
				small
					.getContext("2d")!
					.drawImage(canvas, (canvas.width - width) / 2, (canvas.height - height) / 2, width, height, 0, 0, small.width, small.height);
				// What was left out comes back into the view.
				stage.draw();
				small.toBlob(resolve, "image/webp", 0.85);
			});
		},
		dispose() {
			offerEye(undefined);
			unsubscribe();
			stopPicking();
			gizmo.dispose();
			controls.dispose();
			overlays.dispose();
			linked.dispose();
			bodies.dispose();
			stage.dispose();
		},
	};
}

const triple = ({ x, y, z }: Vector3): Vec3 => [x, y, z];
/** To a millimetre: what somebody may want to read. */
const rounded = (point: Vector3): Vec3 => triple(point).map((x) => Math.round(1000 * x) / 1000) as unknown as Vec3;
/** Degrees from the lower to the upper edge when no camera is looked through. */
const FREE_FIELD = 36;

const SELECTED = new Color("#12a594");
const DIRECTIONS: Partial<Record<WorkbenchState["camera"], Vector3>> = {
	front: new Vector3(0, 0, 1),
	side: new Vector3(1, 0, 0),
	top: new Vector3(0, 1, 0.0001).normalize(),
};

/** A click selects, a drag on empty space orbits, Shift and drag selects what lies in the frame. */
function pickOnClick(
	canvas: HTMLCanvasElement,
	camera: Parameters<Raycaster["setFromCamera"]>[1],
	bodies: ReturnType<typeof makeBodies>,
	controls: OrbitControls,
	busy: () => boolean,
): () => void {
	const raycaster = new Raycaster();
	const pointer = new Vector2();
	let down: { x: number; y: number; box: HTMLDivElement | undefined } | undefined;
	const at = (x: number, y: number) => {
		const box = canvas.getBoundingClientRect();
		return pointer.set(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2);
	};
	const onDown = (event: PointerEvent) => {
		if (event.button !== 0 || busy()) return;
		down = { x: event.clientX, y: event.clientY, box: undefined };
		if (event.shiftKey) {
			controls.enabled = false;
			const box = document.createElement("div");
			box.style.cssText = "position:fixed;border:1px solid #12a594;background:rgba(18,165,148,.12);pointer-events:none;z-index:5";
			document.body.append(box);
			down.box = box;
		}
	};
	const onMove = (event: PointerEvent) => {
		if (!down?.box) return;
		const [l, r] = [Math.min(down.x, event.clientX), Math.max(down.x, event.clientX)];
		const [t, b] = [Math.min(down.y, event.clientY), Math.max(down.y, event.clientY)];
		Object.assign(down.box.style, { left: `${l}px`, top: `${t}px`, width: `${r - l}px`, height: `${b - t}px` });
	};
	const onUp = (event: PointerEvent) => {
		if (!down) return;
		const { x, y, box } = down;
		down = undefined;
		box?.remove();
		controls.enabled = true;
		const { select, selection, shot } = useWorkbench.getState();
		if (Math.hypot(event.clientX - x, event.clientY - y) < 4) {
			if (busy()) return;
			raycaster.setFromCamera(at(event.clientX, event.clientY), camera);
			const hit = bodies.pick(raycaster);
			if (!hit) {
				if (!event.shiftKey) select([]);
				return;
			}
			const id = pickTarget(hit.id, selection, shot);
			if (event.shiftKey || event.ctrlKey) select(selection.includes(id) ? selection.filter((other) => other !== id) : [...selection, id]);
			else select([id]);
			return;
		}
		if (!box) return;
		const a = at(Math.min(x, event.clientX), Math.max(y, event.clientY)).clone();
		const b = at(Math.max(x, event.clientX), Math.min(y, event.clientY)).clone();
		const inside: string[] = [];
		bodies.eachCentre((id, centre) => {
			const p = centre.clone().project(camera as never);
			if (p.z < 1 && p.x >= a.x && p.x <= b.x && p.y >= a.y && p.y <= b.y) inside.push(id);
		});
		select([...new Set(inside)]);
	};
	canvas.addEventListener("pointerdown", onDown);
	window.addEventListener("pointermove", onMove);
	window.addEventListener("pointerup", onUp);
	return () => {
		canvas.removeEventListener("pointerdown", onDown);
		window.removeEventListener("pointermove", onMove);
		window.removeEventListener("pointerup", onUp);
	};
}

/** The first click takes the object, a click on a piece of the picked object takes the piece. */
function pickTarget(hit: string, selection: readonly string[], shot: WorkbenchState["shot"]): string {
	const object: Id = objectOf(shot, hit) ?? hit;
	const within = selection.some((id) => objectOf(shot, id) === object);
	return within ? hit : object;
}
