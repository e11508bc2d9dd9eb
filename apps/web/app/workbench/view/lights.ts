import { worldPose } from "@rubble/core/animation";
import { rotate } from "@rubble/core/maths";
import { type Id, LIGHT_DEFAULTS, type LightSource, type Shot, type Ticks } from "@rubble/core/shot";
import { AmbientLight, DirectionalLight, HemisphereLight, PointLight, type Scene } from "three";

/** What lights the scene: the shot's own lights, or a sun of the view where it has none; and the sky. */
export interface Lights {
	readonly follow: (shot: Shot, tick: Ticks) => void;
	readonly fitShadow: (radius: number) => void;
}

/** What the renderer calls 1 in the usual daylight: a sun of the default strength looks as the view's own. */
const SUN_UNIT = LIGHT_DEFAULTS.sun.strength / 2.1;
/** So that a floodlight two metres away is as bright as the sun: a camera that was set for dusk. */
const LAMP_UNIT = 2500;
const USUAL = { from: [0.45, 1.5, 0.8] as const, colour: "#fff4e2", strength: 2.1 };

export function makeLights(scene: Scene): Lights {
	const sky = new HemisphereLight("#f4f6f5", "#9d968a", 1.7);
	const all = new AmbientLight("#ffffff", 0.2);
	const usual = sunlight();
	scene.add(sky, all, usual, usual.target);
	const own = new Map<Id, DirectionalLight | PointLight>();
	let reach = 8;

	const remove = (id: Id) => {
		const light = own.get(id);
		if (!light) return;
		scene.remove(light);
		if (light instanceof DirectionalLight) scene.remove(light.target);
		light.dispose();
		own.delete(id);
	};
	const lightFor = (id: Id, kind: LightSource["light"]) => {
		const known = own.get(id);
		if (known && known instanceof DirectionalLight === (kind === "sun")) return known;
		remove(id);
		const made = kind === "sun" ? sunlight() : new PointLight("#ffffff", 1, 0, 2);
		scene.add(made);
		if (made instanceof DirectionalLight) {
			scene.add(made.target);
			fit(made, reach);
		}
		own.set(id, made);
		return made;
	};
	return {
		follow(shot, tick) {
			const lights = Object.entries(shot.objects).filter(([, { source, hidden }]) => source.kind === "light" && !hidden);
			const wanted = new Set(lights.map(([id]) => id));
			for (const id of [...own.keys()]) if (!wanted.has(id)) remove(id);
			usual.visible = lights.length === 0;
			sky.intensity = 1.7 * shot.scenery.sky;
			all.intensity = 0.2 * shot.scenery.sky;
			for (const [id, item] of lights) {
				const source = item.source as LightSource;
				const light = lightFor(id, source.light);
				const { translation, rotation } = worldPose(shot, id, tick);
				light.color.set(source.colour);
				light.position.set(...translation);
				if (light instanceof DirectionalLight) {
					const [x, y, z] = rotate(rotation, [0, 0, -1]);
					// A sun shines on everything alike: it stands back along its rays, so that its shadow takes all in.
					light.target.position.set(0, 0, 0);
					light.position.set(-x * 2 * reach, -y * 2 * reach, -z * 2 * reach);
					light.intensity = source.strength / SUN_UNIT;
				} else light.intensity = source.strength / LAMP_UNIT;
			}
		},
		fitShadow(radius) {
			reach = Math.min(Math.max(radius * 1.6, 1), 60);
			usual.position.set(USUAL.from[0] * reach, USUAL.from[1] * reach, USUAL.from[2] * reach);
			for (const light of [usual, ...own.values()]) if (light instanceof DirectionalLight) fit(light, reach);
		},
	};
}

function sunlight(): DirectionalLight {
	const sun = new DirectionalLight(USUAL.colour, USUAL.strength);
	sun.position.set(4, 8, 5);
	sun.castShadow = true;
	sun.shadow.mapSize.set(2048, 2048);
	sun.shadow.bias = -0.0004;
	sun.shadow.normalBias = 0.02;
	return sun;
}

function fit({ shadow: { camera } }: DirectionalLight, reach: number): void {
	Object.assign(camera, { left: -reach, right: reach, top: reach, bottom: -reach, near: 0.1, far: reach * 6 });
	camera.updateProjectionMatrix();
}
