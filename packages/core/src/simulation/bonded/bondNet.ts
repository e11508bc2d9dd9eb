import { tripleAt, vec3 } from "../../maths";
import { centreOfMass } from "../pushes";
import { meanInertia } from "../rigid";
import { Kind, type SimScene } from "../scene";

/**
 * The bonds of a scene as springs between bodies: 3 stiffnesses against moving apart and sliding, 3 against bending and
 * twisting, all at the face's centre (rigid bodies and springs; Kawai 1978). Everything in world axes as at the first frame:
 * what is bonded keeps its shape, so one turn per group takes them to where they are now.
 *
 * The modulus is not the material's own but the one with which a spring, at its breaking stress, holds just the fracture
 * energy of its face: σ² d / 2E = G. So a blow loses what breaking takes, wherever the step can follow that stiffness.
 */
export interface BondNet {
	/** 6 per bond: from the centre of mass of a, and of b, to the face's centre. */
	readonly arms: Float64Array;
	/** 9 per bond: normal, `across`, and the axis across both. */
	readonly axes: Float64Array;
	/** 5 per bond, for a modulus of 1 Pa: along the normal, across it, bending about both axes, twisting. */
	readonly stiffness: Float64Array;
	/** 3 per bond, m³: moment over edge stress for bending about both axes and twisting. */
	readonly modulus: Float64Array;
	/** 1 per bond, Pa. */
	readonly young: Float64Array;
	/** 3 per body, world: centre of mass at the first frame. */
	readonly centre: Float64Array;
	/** Bonds to what holds still. */
	readonly anchors: readonly number[];
	/** Bonds of each body. */
	readonly of: readonly (readonly number[])[];
	/** 1 per body: mean moment of inertia, kg m². */
	readonly inertia: Float64Array;
}

/** Bodies that hang together, and the bonds by which they do; both ascending. */
export interface BondedPart {
	readonly members: readonly number[];
	readonly list: readonly number[];
}

/** Shear modulus over Young's, for a Poisson number of 0.25. */
const SHEAR_SHARE = 0.4;
/** Of bonds that never break, Pa. */
const ENDLESS_YOUNG = 1e9;
const LEAST_YOUNG = 2e7;
const MOST_YOUNG = 7e10;

export function makeBondNet(scene: SimScene): BondNet {
	const { bonds } = scene;
	const m = bonds.count;
	const centre = new Float64Array(3 * scene.count);
	const inertia = new Float64Array(scene.count);
	for (let i = 0; i < scene.count; i++) {
		centre.set(centreOfMass(scene, scene, i), 3 * i);
		inertia[i] = meanInertia(scene, i);
	}
	const net = {
		arms: new Float64Array(6 * m),
		axes: new Float64Array(9 * m),
		stiffness: new Float64Array(5 * m),
		modulus: new Float64Array(3 * m),
		young: new Float64Array(m),
		centre,
		inertia,
		anchors: Array.from({ length: m }, (_, k) => k).filter((k) => scene.kind[bonds.b[k]!] !== Kind.Active),
		of: Array.from({ length: scene.count }, () => [] as number[]),
	};
	for (let k = 0; k < m; k++) {
		const [a, b] = [bonds.a[k]!, bonds.b[k]!];
		net.of[a]!.push(k);
		net.of[b]!.push(k);
		const at = tripleAt(bonds.centre, k);
		const normal = tripleAt(bonds.normal, k);
		const across = tripleAt(bonds.across, k);
		// What holds still has no centre that matters: the spring is as long as on its other side.
		const armA = vec3.subtract(at, tripleAt(centre, a));
		const armB = scene.kind[b] === Kind.Active ? vec3.subtract(at, tripleAt(centre, b)) : vec3.ZERO;
		net.arms.set([...armA, ...armB], 6 * k);
		net.axes.set([...normal, ...across, ...vec3.cross(normal, across)], 9 * k);
		const area = bonds.area[k]!;
		const length = Math.max(Math.abs(vec3.dot(vec3.subtract(armA, armB), normal)), 0.1 * Math.sqrt(area));
		const [i1, i2] = [bonds.moments[2 * k]!, bonds.moments[2 * k + 1]!];
		const [r1, r2] = [bonds.reach[2 * k]!, bonds.reach[2 * k + 1]!];
		net.stiffness.set([area / length, (SHEAR_SHARE * area) / length, i1 / length, i2 / length, (SHEAR_SHARE * (i1 + i2)) / length], 5 * k);
		net.modulus.set([i1 / r1, i2 / r2, (i1 + i2) / Math.sqrt(r1 * r1 + r2 * r2)], 3 * k);
		const [tension, energy] = [bonds.tension[k]!, bonds.energy[k]!];
		net.young[k] =
			tension === Number.POSITIVE_INFINITY || energy === 0
				? ENDLESS_YOUNG
				: Math.min(MOST_YOUNG, Math.max(LEAST_YOUNG, (tension * tension * length) / (2 * energy)));
	}
	return net;
}

/** Stresses in a bond, Pa, from what it carries: N and N m in its axes (normal, across, third). */
export interface BondStress {
	/** Pull at the most stretched edge; negative where all of it is pressed. */
	tension: number;
	/** Pressure at the most pressed edge. */
	compression: number;
	shear: number;
	/** Mean pressure, which adds to what it bears in shear. */
	pressure: number;
}

/** Coefficient of friction in a face that is pressed while it shears. */
export const INNER_FRICTION = 0.6;

/** How much of its strength a load takes: 1 breaks. */
export const useOfStrength = (
	stress: BondStress,
	limits: { readonly tension: number; readonly shear: number; readonly compression: number },
): number =>
	Math.max(
		stress.tension / limits.tension,
		stress.compression / limits.compression,
		stress.shear / (limits.shear + INNER_FRICTION * Math.max(0, stress.pressure)),
	);
