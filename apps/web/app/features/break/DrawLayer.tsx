import { worldPose } from "@rubble/core/animation";
import { inverse, rotate, type Vec3, vec3 } from "@rubble/core/maths";
import { addBondChange, setFractureOption } from "@rubble/core/shot";
import { useEffect, useState } from "react";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";
import type { View } from "~/workbench/view/view";
import { bendStroke } from "./bendStroke";
import { smoothStroke } from "./smoothStroke";

const HINTS = {
	cut: "Drag a line across it; each cuts through everything behind it.",
	stroke: "Click for a blow, drag for a line. Drag what is drawn to move or bend it.",
	place: "Click where the pieces shall be small. Drag a place to move it.",
	weak: "Drag a line along which the bonds shall be weaker.",
};
/** Pointers that moved less are clicks. */
const CLICK = 4; // pixels
/** What is drawn is grabbed from this near. */
const GRAB = 9; // pixels

/** Lies over the view while something is drawn into a fracture: cuts, strokes or places. */
export function DrawLayer({ view }: { view: View | undefined }) {
	const draw = useWorkbench((state) => state.draw);
	const set = useWorkbench((state) => state.set);
	const [trail, setTrail] = useState<readonly (readonly [number, number])[]>([]);
	/** Of the layer, in the window: strokes are drawn in its own coordinates. */
	const [corner, setCorner] = useState<readonly [number, number]>([0, 0]);
	const [miss, setMiss] = useState(false);
	/** The point of what was drawn before that is being dragged. */
	const [grabbed, setGrabbed] = useState<{ readonly item: number; readonly point: number } | null>(null);
	useEffect(() => {
		if (!draw) return;
		const { shot, frame } = useWorkbench.getState();
		if (draw.what === "weak" ? !shot.bondSets[draw.set] : !shot.fractures[draw.fracture]) set({ draw: null });
		// Pieces are drawn on where they stand before anything moves.
		else if (frame !== shot.settings.firstFrame) set({ frame: shot.settings.firstFrame, playing: false });
		const onKey = (event: KeyboardEvent) => {
			if (event.key !== "Escape" && event.key !== "Enter") return;
			event.stopPropagation();
			set({ draw: null });
		};
		window.addEventListener("keydown", onKey, true);
		return () => window.removeEventListener("keydown", onKey, true);
	}, [draw, set]);
	if (!draw || !view) return null;
	/** What was drawn before, one list of numbers each. */
	const drawn = (): readonly (readonly number[])[] => {
		if (draw.what === "weak") return [];
		const former = useWorkbench.getState().shot.fractures[draw.fracture]?.options[draw.option];
		if (!Array.isArray(former) || draw.what === "cut") return [];
		const flat = former as readonly number[];
		return draw.what === "stroke"
			? (former as readonly (readonly number[])[])
			: Array.from({ length: flat.length / 3 }, (_, i) => flat.slice(3 * i, 3 * i + 3));
	};
	const grabAt = (x: number, y: number): typeof grabbed => {
		if (draw.what === "weak") return null;
		const { shot } = useWorkbench.getState();
		const fracture = shot.fractures[draw.fracture];
		if (!fracture) return null;
		const pose = worldPose(shot, fracture.object, 0);
		let best: typeof grabbed = null;
		let least = GRAB;
		drawn().forEach((line, item) => {
			for (let point = 0; point < line.length / 3; point++) {
				const local: Vec3 = [line[3 * point]!, line[3 * point + 1]!, line[3 * point + 2]!];
				const seen = view.project(vec3.add(pose.translation, rotate(pose.rotation, local)));
				const away = seen ? Math.hypot(seen[0] - x, seen[1] - y) : Infinity;
				if (away < least) [best, least] = [{ item, point }, away];
			}
		});
		return best;
	};
	const finish = (points: readonly (readonly [number, number])[]) => {
		const { shot, perform } = useWorkbench.getState();
		if (draw.what === "weak") {
			const line = points.flatMap(([x, y]) => view.surface(x, y) ?? []);
			setMiss(line.length === 0);
			if (line.length > 0) {
				const strokes = [line.length > 3 ? smoothStroke(toTriples(line)).flat() : line];
				perform(addBondChange(draw.set, { id: newId(), bodies: [], rule: "", strokes, reach: draw.reach, factor: draw.factor }));
			}
			return;
		}
		const fracture = shot.fractures[draw.fracture];
		if (!fracture) return;
		const pose = worldPose(shot, fracture.object, 0);
		const local = (point: Vec3): Vec3 => rotate(inverse(pose.rotation), vec3.subtract(point, pose.translation));
		const former = fracture.options[draw.option];
		if (draw.what === "cut") {
			const [first, last] = [points[0]!, points[points.length - 1]!];
			if (Math.hypot(last[0] - first[0], last[1] - first[1]) < CLICK) return;
			const [a, b] = [view.sight(...first), view.sight(...last)];
			const normal = rotate(inverse(pose.rotation), vec3.normalize(vec3.cross(a.direction, b.direction)));
			const plane = [...normal, vec3.dot(normal, local(a.origin))];
			perform(setFractureOption(draw.fracture, draw.option, [...((former as number[] | undefined) ?? []), ...plane]));
			return;
		}
		const onSurface = points.flatMap(([x, y]) => {
			const point = view.surface(x, y, fracture.object);
			return point ? [local(point)] : [];
		});
		setMiss(onSurface.length === 0);
		if (onSurface.length === 0) return;
		if (grabbed && points.some(([x, y]) => Math.hypot(x - points[0]![0], y - points[0]![1]) >= CLICK)) {
			const next = drawn().map((line, item) =>
				item === grabbed.item ? bendStroke(line, grabbed.point, onSurface[onSurface.length - 1]!) : line,
			);
			perform(setFractureOption(draw.fracture, draw.option, draw.what === "stroke" ? next : next.flat()));
			return;
		}
		if (draw.what === "place") {
			perform(setFractureOption(draw.fracture, draw.option, [...((former as number[] | undefined) ?? []), ...onSurface[0]!]));
			return;
		}
		const isDot = points.every(([x, y]) => Math.hypot(x - points[0]![0], y - points[0]![1]) < CLICK);
		const stroke = isDot ? [...onSurface[0]!] : smoothStroke(onSurface).flat();
		perform(setFractureOption(draw.fracture, draw.option, [...((former as number[][] | undefined) ?? []), stroke]));
	};
	return (
		<div
			className="absolute inset-0 z-10 cursor-crosshair touch-none"
			role="application"
			aria-label="Drawing on the object"
			onPointerDown={(event) => {
				if (event.button !== 0) return;
				event.currentTarget.setPointerCapture(event.pointerId);
				const box = event.currentTarget.getBoundingClientRect();
				setCorner([box.left, box.top]);
				setGrabbed(grabAt(event.clientX, event.clientY));
				setTrail([[event.clientX, event.clientY]]);
			}}
			onPointerMove={(event) => {
				if (trail.length === 0) return;
				// A pen reports more points than the page draws frames.
				const moves = event.nativeEvent.getCoalescedEvents?.() ?? [];
				const added = (moves.length > 0 ? moves : [event.nativeEvent]).map(({ clientX, clientY }) => [clientX, clientY] as const);
				setTrail((former) => [...former, ...added]);
			}}
			onPointerUp={(event) => {
				if (trail.length === 0) return;
				finish([...trail, [event.clientX, event.clientY]]);
				setTrail([]);
				setGrabbed(null);
			}}
			onPointerCancel={() => setTrail([])}
		>
			<Trail
				corner={corner}
				points={(draw.what === "cut" || grabbed) && trail.length > 0 ? [trail[0]!, trail[trail.length - 1]!] : trail}
			/>
			<div
				className="absolute top-14 left-1/2 flex -translate-x-1/2 items-center gap-3 rounded-md bg-chalk py-1.5 pr-1.5 pl-3"
				role="status"
			>
				<span>{miss ? "That missed the object. Draw on its surface." : HINTS[draw.what]}</span>
				<button
					type="button"
					className="button button-primary"
					onPointerDown={(event) => event.stopPropagation()}
					onClick={() => set({ draw: null })}
				>
					Done
				</button>
			</div>
		</div>
	);
}

const toTriples = (flat: readonly number[]): Vec3[] =>
	Array.from({ length: flat.length / 3 }, (_, i) => [flat[3 * i]!, flat[3 * i + 1]!, flat[3 * i + 2]!]);

function Trail({ points, corner }: { points: readonly (readonly [number, number])[]; corner: readonly [number, number] }) {
	return (
		<svg className="pointer-events-none absolute inset-0 size-full" aria-hidden>
			<polyline
				points={points.map(([x, y]) => `${x - corner[0]},${y - corner[1]}`).join(" ")}
				fill="none"
				stroke="#b5452c"
				strokeWidth={2}
				strokeLinecap="round"
			/>
		</svg>
	);
}
