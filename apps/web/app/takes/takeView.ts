import { storeOf } from "@rubble/core/cache";
import { Color, MOUSE, Sphere, Vector3 } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { makeBodies } from "~/workbench/view/bodies";
import { pieceColour } from "~/workbench/view/colours";
import { dress } from "~/workbench/view/dress";
import { makeLinked } from "~/workbench/view/linked";
import { applyPoses, type PosedState } from "~/workbench/view/poses";
import { makeStage } from "~/workbench/view/stage";
import type { TakeScene } from "~/workers/messages";

/** Where all pictures of a board are seen from. */
export interface Sight {
	readonly position: Vector3;
	readonly target: Vector3;
}

/** The picture of one take. */
export interface TakeView {
	readonly show: (frame: number) => void;
	readonly resize: (width: number, height: number) => void;
	readonly look: (sight: Sight) => void;
	/** A sight that has everything in it. */
	readonly whole: () => Sight;
	readonly dispose: () => void;
}

/** `ghost`: every piece in a colour of its own on nothing, for outlines to be made of. */
export function makeTakeView(canvas: HTMLCanvasElement, scene: TakeScene, onSight: (sight: Sight) => void, ghost = false): TakeView {
	const stage = makeStage(canvas, () => undefined, ghost);
	let state: PosedState = {
		shot: scene.take.snapshot,
		bodies: scene.bodies,
		crumbs: scene.crumbs,
		drawings: scene.drawings,
		take: scene,
		frames: storeOf(scene.take.bodies.length, scene.chunks),
		frame: scene.take.snapshot.settings.firstFrame,
		explode: 0,
		settling: null,
		alone: null,
	};
	const refresh = () => {
		applyPoses(bodies, state);
		linked.follow(state);
		dress(stage, bodies, linked, state);
		if (ghost) for (const [n, { id }] of state.bodies.entries()) bodies.setColour(id, pieceColour(n, colour));
		stage.draw();
	};
	const colour = new Color();
	const bodies = makeBodies(stage.scene, refresh);
	const linked = makeLinked(stage.scene, bodies);
	const controls = new OrbitControls(stage.camera, canvas);
	controls.mouseButtons = { LEFT: MOUSE.ROTATE, MIDDLE: MOUSE.ROTATE, RIGHT: MOUSE.PAN };
	let told = false;
	controls.addEventListener("change", () => {
		stage.draw();
		if (!told) onSight({ position: stage.camera.position.clone(), target: controls.target.clone() });
	});
	bodies.sync(scene.drawings);
	refresh();
	const sphere = new Sphere();
	return {
		show(frame) {
			state = { ...state, frame };
			refresh();
		},
		resize(width, height) {
			stage.resize(width, height);
			stage.draw();
		},
		look({ position, target }) {
			told = true;
			stage.camera.position.copy(position);
			controls.target.copy(target);
			controls.update();
			told = false;
			stage.draw();
		},
		whole() {
			const ids = state.bodies.filter((body) => !body.endless && !state.shot.objects[body.object]?.hidden).map(({ id }) => id);
			if (!bodies.boundsOf(ids, sphere)) return { position: new Vector3(5, 3, 6), target: new Vector3(0, 0.8, 0) };
			stage.fitShadow(sphere.radius * 2);
			const distance = (sphere.radius * 0.95) / Math.sin((stage.camera.fov * Math.PI) / 360);
			return {
				target: sphere.center.clone(),
				position: new Vector3(5, 2.4, 6.5).normalize().multiplyScalar(distance).add(sphere.center),
			};
		},
		dispose() {
			controls.dispose();
			linked.dispose();
			bodies.dispose();
			stage.dispose();
		},
	};
}
