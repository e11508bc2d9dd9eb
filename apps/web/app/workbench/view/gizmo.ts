import { isKeyed, type Pose } from "@rubble/core/animation";
import { keyedInside, keyedPose } from "@rubble/core/bodies";
import { type Quat, type Vec3, vec3 } from "@rubble/core/maths";
import { changeConnector, type Id, keyedOf, objectOf, type Shot, tickOfFrame, toEach, topmost } from "@rubble/core/shot";
import { Object3D, Vector3 } from "three";
import type { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { TransformControls } from "three/examples/jsm/controls/TransformControls.js";
import { poseNow } from "../store/correcting";
import { pickedKeyed } from "../store/selectors";
import { useWorkbench, type WorkbenchState } from "../store/store";
import { carried } from "./carried";
import type { Stage } from "./stage";

const MODES = { move: "translate", turn: "rotate", size: "scale" } as const;
/** With Ctrl held. */
const SNAP = { translation: 0.1, rotation: (15 * Math.PI) / 180, scale: 0.1 };
/** A connector jumps to what is so near on the screen. Shares of its height. */
const SNAP_WITHIN = 0.035;
/** Ends of a connector that are no farther apart move together. m */
const TOGETHER = 1e-3;

/** What the handles are on: `ids` go along, the first of them is where they stand. */
type Target =
	| { readonly kind: "keyed"; readonly ids: readonly string[] }
	| { readonly kind: "connector"; readonly id: Id; readonly end: "from" | "to" };

/** How what is dragged and the handles were when the drag began. */
interface Held {
	readonly handle: Pose;
	readonly scale: Vec3;
	readonly things: readonly { readonly id: string; readonly pose: Pose; readonly scale: Vec3 }[];
}

/**
 * Handles to move, turn and size all that is picked, or to place a connector that the bench is about. They stand on what was picked
 * last; the others go along. What is keyed gets a key where it is dragged to. `snapPlaces`: where a connector may snap to, in the world.
 */
export function makeGizmo(
	stage: Stage,
	canvas: HTMLCanvasElement,
	orbit: OrbitControls,
	draw: () => void,
	snapPlaces: (bodies: readonly string[]) => readonly Vec3[],
) {
	const controls = new TransformControls(stage.camera, canvas);
	const handle = new Object3D();
	const helper = controls.getHelper();
	stage.scene.add(handle, helper);
	controls.setSize(0.85);
	let target: Target | undefined;
	let held: Held | undefined;
	let dragging = false;
	let hovering = false;
	let snaps = false;
	let places: readonly Vec3[] = [];
	const seen = new Vector3();
	controls.addEventListener("change", draw);
	controls.addEventListener("dragging-changed", ({ value }) => {
		dragging = value === true;
		orbit.enabled = !dragging;
		const connector = target?.kind === "connector" ? useWorkbench.getState().shot.connectors[target.id] : undefined;
		places = dragging && connector ? snapPlaces([connector.a, connector.b].filter((id) => id !== "")) : [];
		held = dragging && target?.kind === "keyed" ? holding(target.ids) : undefined;
	});
	controls.addEventListener("axis-changed", () => {
		hovering = controls.axis !== null;
	});
	controls.addEventListener("objectChange", () => {
		if (held) carry(held);
		else if (target?.kind === "connector") placeConnectorAt(target.id, target.end);
	});
	const handlePose = (): Pose => ({
		translation: handle.position.toArray() as unknown as Vec3,
		rotation: handle.quaternion.toArray() as unknown as Quat,
	});
	const holding = (ids: readonly string[]): Held => {
		const { shot, frame } = useWorkbench.getState();
		const tick = tickOfFrame(shot.settings, frame);
		return {
			handle: handlePose(),
			scale: handle.scale.toArray() as unknown as Vec3,
			things: ids.map((id) => ({ id, pose: keyedPose(shot, id, tick), scale: scaleOf(shot, id) })),
		};
	};
	const carry = ({ handle: from, scale: sizeFrom, things }: Held) => {
		const state = useWorkbench.getState();
		const { shot, frame, perform, tool } = state;
		const tick = tickOfFrame(shot.settings, frame);
		const to = handlePose();
		const grown = vec3.divide(handle.scale.toArray() as unknown as Vec3, sizeFrom);
		const several = things.length > 1;
		const placed = things.map(({ id, pose, scale }) => {
			const { translation, rotation } = keyedInside(shot, id, carried(pose, from, to), tick);
			const placement = {
				move: { translation },
				// What the handles are not on goes round them.
				turn: several ? { translation, rotation } : { rotation },
				size: { scale: vec3.multiply(scale, grown).map((s) => (Math.abs(s) < 1e-3 ? 1e-3 : s)) as unknown as Vec3 },
				pick: {},
			}[tool];
			return poseNow(state, id, tick, placement);
		});
		perform(toEach(placed));
		// Where it rests is edited at the start; what has been simulated stays as it is.
		if (things.every(({ id }) => !isKeyed(keyedOf(shot, id)!)) && frame !== shot.settings.firstFrame)
			useWorkbench.setState({ frame: shot.settings.firstFrame });
	};
	const placeConnectorAt = (id: Id, end: "from" | "to") => {
		const { shot, perform, tool } = useWorkbench.getState();
		const connector = shot.connectors[id]!;
		if (tool === "turn") return perform(changeConnector(id, { turn: handle.quaternion.toArray() as unknown as Quat }));
		if (snaps) snapHandle();
		const at = handle.position.toArray() as unknown as Vec3;
		const apart = Math.hypot(...connector.from.map((v, k) => v - connector.to[k]!));
		perform(changeConnector(id, apart < TOGETHER ? { from: at, to: at } : { [end]: at }));
	};
	/** To the place that is nearest on the screen, if one is near. */
	const snapHandle = () => {
		const on = (point: Vector3) => {
			const { x, y, z } = point.project(stage.camera);
			return z > 1 ? undefined : [x * stage.camera.aspect, y];
		};
		const own = on(seen.copy(handle.position));
		let best: Vec3 | undefined;
		let least = 2 * SNAP_WITHIN;
		for (const place of places) {
			const other = own && on(seen.set(...place));
			const distance = other ? Math.hypot(other[0]! - own[0]!, other[1]! - own[1]!) : Infinity;
			if (distance < least) [least, best] = [distance, place];
		}
		if (best) handle.position.set(...best);
	};
	const onKey = (event: KeyboardEvent) => {
		snaps = event.type === "keydown" && event.ctrlKey;
		const steps = snaps && target?.kind === "keyed";
		controls.setTranslationSnap(steps ? SNAP.translation : null);
		controls.setRotationSnap(snaps ? SNAP.rotation : null);
		controls.setScaleSnap(steps ? SNAP.scale : null);
	};
	window.addEventListener("keydown", onKey);
	window.addEventListener("keyup", onKey);

	/** What the handles belong on, where that can be moved with this tool. */
	const targetOf = ({ shot, tool, bound, selection, showTies }: WorkbenchState): Target | undefined => {
		if (tool === "pick") return undefined;
		const connector = bound?.kind === "connector" && showTies && selection.length === 0 ? shot.connectors[bound.id] : undefined;
		if (bound?.kind === "connector" && connector)
			return tool === "size" || (connector.options.between ?? "two") !== "two" || connector.hidden
				? undefined
				: { kind: "connector", id: bound.id, end: bound.end ?? "from" };
		const movable = (id: string): boolean => {
			const item = shot.objects[objectOf(shot, id)!]!;
			// Pieces and copies have no size of their own.
			return !item.locked && !item.hidden && (tool !== "size" || shot.objects[id] !== undefined);
		};
		const ids = topmost(shot, pickedKeyed({ shot, selection })).filter(movable);
		return ids.length > 0 ? { kind: "keyed", ids: ids.reverse() } : undefined;
	};
	return {
		/** Puts the handles where what was picked last or the connector stands. */
		follow(state: WorkbenchState) {
			target = targetOf(state);
			if (!target || state.tool === "pick") {
				controls.detach();
				return;
			}
			controls.setMode(MODES[state.tool]);
			controls.setSpace(state.ownAxes ? "local" : "world");
			if (!dragging) {
				if (target.kind === "keyed") {
					const id = target.ids[0]!;
					const pose = keyedPose(state.shot, id, tickOfFrame(state.shot.settings, state.frame));
					handle.position.fromArray(pose.translation as unknown as number[]);
					handle.quaternion.fromArray(pose.rotation as unknown as number[]);
					handle.scale.fromArray(scaleOf(state.shot, id) as unknown as number[]);
				} else {
					const connector = state.shot.connectors[target.id]!;
					handle.position.fromArray(connector[target.end] as unknown as number[]);
					handle.quaternion.fromArray(connector.turn as unknown as number[]);
					handle.scale.set(1, 1, 1);
				}
			}
			if (controls.object !== handle) controls.attach(handle);
		},
		/** Whether the pointer is on the handles: then a click is not a pick. */
		busy: () => dragging || (hovering && controls.object !== undefined),
		dispose() {
			window.removeEventListener("keydown", onKey);
			window.removeEventListener("keyup", onKey);
			controls.detach();
			controls.dispose();
			stage.scene.remove(handle, helper);
		},
	};
}

/** The size factors of an object; pieces and copies have none. */
const scaleOf = (shot: Shot, id: string): Vec3 => shot.objects[id]?.scale ?? [1, 1, 1];
