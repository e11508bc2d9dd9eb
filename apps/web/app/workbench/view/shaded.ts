import { HalfFloatType, type PerspectiveCamera, type Scene, type WebGLRenderer, WebGLRenderTarget } from "three";
import { EffectComposer } from "three/examples/jsm/postprocessing/EffectComposer.js";
import { GTAOPass } from "three/examples/jsm/postprocessing/GTAOPass.js";
import { OutputPass } from "three/examples/jsm/postprocessing/OutputPass.js";
import { RenderPass } from "three/examples/jsm/postprocessing/RenderPass.js";

/** Nooks are darkened within this share of the distance that is looked over. */
const REACH = 0.06;
/** Nothing is drawn that is nearer than this share of it, */
const NEAREST = 0.03;
/** or farther than so many metres beyond it: fog hides that. */
const FARTHEST = 150;

/**
 * Draws the scene with ambient occlusion: corners and gaps that little of the sky reaches are darker (Jimenez et al.
 * 2016, "Practical real-time strategies for accurate indirect occlusion"). Slow: for single pictures. `distance`: from
 * the camera to what the picture is about, metres.
 */
export function drawShaded(renderer: WebGLRenderer, scene: Scene, camera: PerspectiveCamera, distance: number): void {
	const { width, height } = renderer.domElement;
	const { near, far } = camera;
	// Depths are compared with each other: the fewer metres they are spread over, the finer they are.
	camera.near = Math.max(near, NEAREST * distance);
	camera.far = Math.min(far, FARTHEST + distance);
	camera.updateProjectionMatrix();
	const target = new WebGLRenderTarget(width, height, { type: HalfFloatType, samples: 8 });
	const composer = new EffectComposer(renderer, target);
	const occlusion = new GTAOPass(scene, camera, width, height);
	const radius = REACH * distance;
	occlusion.updateGtaoMaterial({ radius, thickness: radius, distanceExponent: 1, distanceFallOff: 1, scale: 1, samples: 24 });
	occlusion.updatePdMaterial({ lumaPhi: 10, depthPhi: 2, normalPhi: 3, radius: 6, rings: 2, samples: 16 });
	const passes = [new RenderPass(scene, camera), occlusion, new OutputPass()];
	for (const pass of passes) composer.addPass(pass);
	composer.render();
	for (const pass of passes) pass.dispose();
	composer.dispose();
	target.dispose();
	Object.assign(camera, { near, far });
	camera.updateProjectionMatrix();
}
