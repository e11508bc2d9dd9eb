import { LAYOUTS } from "@rubble/core/arrays";
import { BOND_SET } from "@rubble/core/bonds";
import { CONNECTORS } from "@rubble/core/connectors";
import { FORCES } from "@rubble/core/forces";
import { TAKE_FORMATS } from "@rubble/core/formats";
import { FRACTURE_METHODS } from "@rubble/core/fracture";
import { SHAPES } from "@rubble/core/shapes";
import type { Described } from "@rubble/core/shot";
import { toast } from "sonner";
import { STAGES, type StageId } from "./stages";

/** A setting as people look for it: what is written beside it, and where that is. */
export interface Setting {
	readonly label: string;
	readonly stage: StageId;
	/** What it is a setting of: a section of the bench, a way to break, a force … */
	readonly of: string;
}

/** Settings that no description lists; by stage and section. */
const PLAIN: Partial<Record<StageId, Readonly<Record<string, readonly string[]>>>> = {
	shape: { Place: ["Position", "Turn", "Size"], Material: ["Made of"], Bend: ["Along", "Angle"], Scenery: ["Backdrop", "Sky light"] },
	weigh: {
		Mass: ["Density", "Mass"],
		Collider: ["Shape", "Most hulls", "Until within", "Buries at most", "Proxy", "Only in"],
		Surface: ["Friction", "Bounce", "Rolling", "Margin"],
		"Centre of mass": ["Moved by"],
		Wakes: ["When", "Frame", "Least speed", "Or least force", "By", "Region"],
		Start: ["Velocity", "Spin", "Rests below", "Rests after", "Slows", "Spin slows"],
	},
	push: { Gravity: ["Pull"] },
	run: {
		Take: ["Edits", "Note"],
		Frames: ["First", "Last", "Simulation from", "Frame rate"],
		Exactness: ["Substeps", "Iterations", "Divided up to"],
		World: ["Gravity", "Time scale"],
		Colours: ["Goes by"],
	},
	bake: {
		Keys: ["From", "To", "Way", "Places within", "Turns within"],
		File: ["Format", "What"],
		"Preview clip": ["As", "Through", "Written in"],
	},
};

const described = (stage: StageId, of: string, { options }: Pick<Described, "options">): Setting[] =>
	Object.values(options).map(({ label }) => ({ label, stage, of }));

/** All settings that there are, each once. */
export const SETTINGS: readonly Setting[] = (() => {
	const all: Setting[] = [
		...Object.entries(PLAIN).flatMap(([stage, sections]) =>
			Object.entries(sections).flatMap(([of, labels]) => labels.map((label) => ({ label, stage: stage as StageId, of }))),
		),
		...SHAPES.flatMap((shape) => Object.values(shape.parameters).map(({ label }) => ({ label, stage: "shape" as const, of: shape.label }))),
		...LAYOUTS.flatMap((layout) => described("shape", `Copies: ${layout.label}`, layout)),
		...FRACTURE_METHODS.flatMap((method) => described("break", method.label, method)),
		...described("bind", BOND_SET.label, BOND_SET),
		...CONNECTORS.flatMap((kind) => described("bind", kind.label, kind)),
		...FORCES.flatMap((force) => described("push", force.label, force)),
		...TAKE_FORMATS.flatMap((format) => described("bake", format.label, format)),
	];
	return [...new Map(all.map((one) => [`${one.stage} ${one.of} ${one.label}`, one])).values()];
})();

/** How long the stage may take to open, and its bench until it shows a setting. ms */
const OPENS_WITHIN = 15_000;
const SHOWS_WITHIN = 1500;

/** Waits until something is so; gives up after so many milliseconds. */
async function soon<T>(within: number, look: () => T | undefined | false): Promise<T | undefined> {
	for (const end = performance.now() + within; ; await new Promise((resolve) => setTimeout(resolve, 50))) {
		const found = look();
		if (found) return found;
		if (performance.now() > end) return undefined;
	}
}

/** Shows a setting on the bench of its stage, which is being opened, and gives it the focus; says what to do where it is not there. */
export async function showSetting({ label, stage, of }: Setting): Promise<void> {
	// A dialog that closes gives the focus back to where it was.
	const isOpen = () => document.querySelector(`[data-stage="${stage}"][aria-current="page"]`) && !document.querySelector("[role=dialog]");
	await soon(OPENS_WITHIN, isOpen);
	const control = await soon(SHOWS_WITHIN, () => controlOf(label));
	if (control) {
		control.scrollIntoView({ block: "center" });
		control.focus();
		return;
	}
	const name = STAGES.find(({ id }) => id === stage)!.label;
	toast.info(`${label} is in ${name}, under ${of}: pick what it is for first.`);
}

const FOCUSABLE = "input, button, select, textarea, [tabindex='0']";

/** The control on the bench that has this name, or stands beside it. */
function controlOf(label: string): HTMLElement | undefined {
	const bench = document.querySelector("aside[aria-label='Bench']");
	const named = [...(bench?.querySelectorAll<HTMLElement>("[aria-label]") ?? [])].find((one) => {
		const own = one.getAttribute("aria-label")!;
		// Of a vector the first number.
		return (own === label || own === `${label} x`) && one.matches(FOCUSABLE);
	});
	if (named) return named;
	const text = [...(bench?.querySelectorAll<HTMLElement>("label, span") ?? [])].find((one) => one.textContent === label);
	return text?.closest("div")?.querySelector<HTMLElement>(FOCUSABLE) ?? undefined;
}
