import { isKeyed } from "@rubble/core/animation";
import { keyedInside, keyedPose } from "@rubble/core/bodies";
import type { Quat, Vec3 } from "@rubble/core/maths";
import { changeConnector, type Id, keyedOf, objectOf, tickOfFrame } from "@rubble/core/shot";
import { Object3D, Vector3 } from "three";
import type { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { TransformControls } from "three/examples/jsm/controls/TransformControls.js";
import { poseNow } from "../store/correcting";
import { useWorkbench, type WorkbenchState } from "../store/store";
import type { Stage } from "./stage";

const MODES = { move: "translate", turn: "rotate", size: "scale" } as const;
/** With Ctrl held. */
const SNAP = { translation: 0.1, rotation: (15 * Math.PI) / 180, scale: 0.1 };
/** A connector jumps to what is so near on the screen. Shares of its height. */
const SNAP_WITHIN = 0.035;
/** Ends of a connector that are no farther apart move together. m */
const TOGETHER = 1e-3;

/** What the handles are on. */
type Target =
	| { readonly kind: "keyed"; readonly id: string }
	| { readonly kind: "connector"; readonly id: Id; readonly end: "from" | "to" };

/**
 * Handles to move, turn and size the picked object or what has keys of its own, or to place a connector that the bench is about. A keyed object gets
 * a key where it is dragged to. `snapPlaces`: where a connector may snap to, in the world.
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
	});
	controls.addEventListener("axis-changed", () => {
		hovering = controls.axis !== null;
	});
	controls.addEventListener("objectChange", () => {
		if (target?.kind === "keyed") placeAt(target.id);
		else if (target) placeConnectorAt(target.id, target.end);
	});
	const placeAt = (id: string) => {
		const state = useWorkbench.getState();
		const { shot, frame, perform, tool } = state;
		const tick = tickOfFrame(shot.settings, frame);
		const seen = { translation: handle.position.toArray() as unknown as Vec3, rotation: handle.quaternion.toArray() as unknown as Quat };
		const { translation, rotation } = keyedInside(shot, id, seen, tick);
		const scale = handle.scale.toArray().map((s) => (Math.abs(s) < 1e-3 ? 1e-3 : s)) as unknown as Vec3;
		const placement = { move: { translation }, turn: { rotation }, size: { scale }, pick: {} }[tool];
		perform(poseNow(state, id, tick, placement));
		// Where it rests is edited at the start; what has been simulated stays as it is.
		if (!isKeyed(keyedOf(shot, id)!) && frame !== shot.settings.firstFrame) useWorkbench.setState({ frame: shot.settings.firstFrame });
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
	const targetOf = ({ shot, tool, bound, selection, showTies }: WorkbenchState, id: Id | undefined): Target | undefined => {
		if (tool === "pick") return undefined;
		const connector = bound?.kind === "connector" && showTies && selection.length === 0 ? shot.connectors[bound.id] : undefined;
		if (bound?.kind === "connector" && connector)
			return tool === "size" || (connector.options.between ?? "two") !== "two" || connector.hidden
				? undefined
				: { kind: "connector", id: bound.id, end: bound.end ?? "from" };
		const whole = id === undefined ? undefined : shot.objects[id];
		const item = whole ?? (id === undefined ? undefined : shot.objects[objectOf(shot, id) ?? ""]);
		if (!item || item.locked || item.hidden || (whole ? whole.parent !== null : tool === "size")) return undefined;
		return { kind: "keyed", id: id! };
	};
	return {
		/** Puts the handles where the object or the connector stands. */
		follow(state: WorkbenchState, id: Id | undefined) {
			target = targetOf(state, id);
			if (!target || state.tool === "pick") {
				controls.detach();
				return;
			}
			controls.setMode(MODES[state.tool]);
			if (!dragging) {
				if (target.kind === "keyed") {
					const pose = keyedPose(state.shot, target.id, tickOfFrame(state.shot.settings, state.frame));
					handle.position.fromArray(pose.translation as unknown as number[]);
					handle.quaternion.fromArray(pose.rotation as unknown as number[]);
					handle.scale.fromArray((state.shot.objects[target.id]?.scale ?? [1, 1, 1]) as unknown as number[]);
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
