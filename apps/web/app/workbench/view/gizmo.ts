import { localPose } from "@rubble/core/animation";
import type { Quat, Vec3 } from "@rubble/core/maths";
import { type Id, poseObject, tickOfFrame } from "@rubble/core/shot";
import { Object3D } from "three";
import type { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { TransformControls } from "three/examples/jsm/controls/TransformControls.js";
import { useWorkbench, type WorkbenchState } from "../store/store";
import type { Stage } from "./stage";

const MODES = { move: "translate", turn: "rotate", size: "scale" } as const;
/** With Ctrl held. */
const SNAP = { translation: 0.1, rotation: (15 * Math.PI) / 180, scale: 0.1 };

/** Handles to move, turn and size the picked object. A keyed object gets a key where it is dragged to. */
export function makeGizmo(stage: Stage, canvas: HTMLCanvasElement, orbit: OrbitControls, draw: () => void) {
	const controls = new TransformControls(stage.camera, canvas);
	const handle = new Object3D();
	const helper = controls.getHelper();
	stage.scene.add(handle, helper);
	controls.setSize(0.85);
	let object: Id | undefined;
	let dragging = false;
	let hovering = false;
	controls.addEventListener("change", draw);
	controls.addEventListener("dragging-changed", ({ value }) => {
		dragging = value === true;
		orbit.enabled = !dragging;
	});
	controls.addEventListener("axis-changed", () => {
		hovering = controls.axis !== null;
	});
	controls.addEventListener("objectChange", () => {
		if (!object) return;
		const { shot, frame, perform, tool } = useWorkbench.getState();
		const item = shot.objects[object]!;
		const translation = handle.position.toArray() as unknown as Vec3;
		const rotation = handle.quaternion.toArray() as unknown as Quat;
		const scale = handle.scale.toArray().map((s) => (Math.abs(s) < 1e-3 ? 1e-3 : s)) as unknown as Vec3;
		const placement = { move: { translation }, turn: { rotation }, size: { scale }, pick: {} }[tool];
		perform(poseObject(object, tickOfFrame(shot.settings, frame), placement));
		// Where it rests is edited at the start; what has been simulated stays as it is.
		if (item.keys.translation.length + item.keys.rotation.length === 0 && frame !== shot.settings.firstFrame)
			useWorkbench.setState({ frame: shot.settings.firstFrame });
	});
	const onKey = (event: KeyboardEvent) => {
		const snap = event.type === "keydown" && event.ctrlKey;
		controls.setTranslationSnap(snap ? SNAP.translation : null);
		controls.setRotationSnap(snap ? SNAP.rotation : null);
		controls.setScaleSnap(snap ? SNAP.scale : null);
	};
	window.addEventListener("keydown", onKey);
	window.addEventListener("keyup", onKey);
	return {
		/** Puts the handles where the object stands. */
		follow(state: WorkbenchState, id: Id | undefined) {
			const item = id === undefined ? undefined : state.shot.objects[id];
			if (!item || item.locked || item.hidden || state.tool === "pick" || item.parent !== null) {
				object = undefined;
				controls.detach();
				return;
			}
			object = id;
			controls.setMode(MODES[state.tool]);
			if (!dragging) {
				const pose = localPose(item, tickOfFrame(state.shot.settings, state.frame));
				handle.position.fromArray(pose.translation as unknown as number[]);
				handle.quaternion.fromArray(pose.rotation as unknown as number[]);
				handle.scale.fromArray(item.scale as unknown as number[]);
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
