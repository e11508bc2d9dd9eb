import { SCENERY_DEFAULTS, type Shot, type Ticks } from "@rubble/core/shot";
import {
	CircleGeometry,
	Fog,
	GridHelper,
	Mesh,
	MeshStandardMaterial,
	PerspectiveCamera,
	PlaneGeometry,
	Scene,
	ShadowMaterial,
	WebGLRenderer,
} from "three";
import { makeLights } from "./lights";
import { drawShaded } from "./shaded";

/** The room in which everything stands: backdrop, lights, ground lines. Neutral in both themes, so that colours can be judged. */
export interface Stage {
	readonly scene: Scene;
	readonly camera: PerspectiveCamera;
	readonly renderer: WebGLRenderer;
	/** Draws once in the next frame; many calls are one drawing. */
	readonly draw: () => void;
	/** Full quality when nothing has moved for a moment, draft while it does. */
	readonly resize: (width: number, height: number) => void;
	/**
	 * Draws once at this size in full quality; `around` calls what it gets to draw. The window's size must be set again.
	 * `distance`: with ambient occlusion, for a picture about what is so many metres away.
	 */
	readonly drawAt: (width: number, height: number, around: (draw: () => void) => void, distance?: number) => void;
	readonly fitShadow: (radius: number) => void;
	/** Backdrop and lights as the shot has them at a tick. */
	readonly setScenery: (shot: Shot, tick: Ticks) => void;
	/** The colour of the ground and its height in metres; undefined where the shot has none. */
	readonly setGround: (colour: string | undefined, height: number) => void;
	readonly dispose: () => void;
}

const STILL_AFTER = 220; // ms

/** `bare`: things alone, on nothing. */
export function makeStage(canvas: HTMLCanvasElement, onDraw: (milliseconds: number) => void, bare = false): Stage {
	const renderer = new WebGLRenderer({ canvas, antialias: true, preserveDrawingBuffer: false, alpha: bare });
	const scene = new Scene();
	const fog = new Fog(SCENERY_DEFAULTS.backdrop, 30, 140);
	const backdrop = fog.color;
	if (!bare) {
		scene.background = backdrop;
		scene.fog = fog;
	}
	const camera = new PerspectiveCamera(36, 1, 0.01, 2000);
	camera.position.set(5, 3.2, 6.5);

	const lights = makeLights(scene);

	const lines = new GridHelper(40, 40, "#8d877b", "#b3ada1");
	lines.material.transparent = true;
	lines.material.opacity = 0.55;
	if (!bare) scene.add(lines);
	// Without ground in the shot only its shadow is caught; with it the ground has its material's colour.
	const catcher = new Mesh(new PlaneGeometry(400, 400).rotateX(-Math.PI / 2), new ShadowMaterial({ opacity: 0.28 }));
	const floor = new Mesh(new CircleGeometry(400, 64).rotateX(-Math.PI / 2), new MeshStandardMaterial({ roughness: 1 }));
	for (const plane of [catcher, floor]) {
		plane.receiveShadow = true;
		plane.position.y = -0.002;
		if (!bare) scene.add(plane);
	}
	floor.visible = false;

	// Software drawing is slow: shadows and fine pixels only when the picture stands still.
	const software = /swiftshader|llvmpipe|software/i.test(rendererName(renderer));
	const fine = Math.min(window.devicePixelRatio, 2);
	let pending = 0;
	let stillTimer: ReturnType<typeof setTimeout> | undefined;
	let quality: "draft" | "fine" = "fine";
	renderer.setPixelRatio(fine);
	renderer.shadowMap.enabled = true;

	const setQuality = (next: typeof quality) => {
		if (quality === next) return;
		quality = next;
		if (software) {
			renderer.setPixelRatio(next === "fine" ? fine : 1);
			renderer.shadowMap.autoUpdate = next === "fine";
		}
	};
	const render = () => {
		pending = 0;
		const begin = performance.now();
		renderer.render(scene, camera);
		onDraw(performance.now() - begin);
	};
	return {
		scene,
		camera,
		renderer,
		draw() {
			setQuality("draft");
			clearTimeout(stillTimer);
			stillTimer = setTimeout(() => {
				setQuality("fine");
				pending ||= requestAnimationFrame(render);
			}, STILL_AFTER);
			pending ||= requestAnimationFrame(render);
		},
		resize(width, height) {
			camera.aspect = width / Math.max(1, height);
			camera.updateProjectionMatrix();
			renderer.setSize(width, height, false);
		},
		drawAt(width, height, around, distance) {
			const ratio = renderer.getPixelRatio();
			renderer.setPixelRatio(1);
			renderer.setSize(width, height, false);
			camera.aspect = width / Math.max(1, height);
			camera.updateProjectionMatrix();
			renderer.shadowMap.needsUpdate = true;
			around(() => (distance === undefined ? renderer.render(scene, camera) : drawShaded(renderer, scene, camera, distance)));
			renderer.setPixelRatio(ratio);
		},
		fitShadow: lights.fitShadow,
		setScenery(shot, tick) {
			backdrop.set(shot.scenery.backdrop);
			lights.follow(shot, tick);
		},
		setGround(colour, height) {
			floor.visible = colour !== undefined;
			catcher.visible = colour === undefined;
			// Toned towards the backdrop: the ground must not outshine what stands on it.
			if (colour) floor.material.color.set(colour).lerp(backdrop, 0.45).multiplyScalar(0.8);
			for (const item of [floor, lines]) item.position.y = height + (item === floor ? -0.002 : 0);
		},
		dispose() {
			cancelAnimationFrame(pending);
			clearTimeout(stillTimer);
			renderer.dispose();
		},
	};
}

function rendererName(renderer: WebGLRenderer): string {
	const gl = renderer.getContext();
	const info = gl.getExtension("WEBGL_debug_renderer_info");
	return info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : "";
}
