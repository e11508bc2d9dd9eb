import { COLOUR_SOURCES, readColourFormula } from "@rubble/core/colouring";
import { type Colouring, setColouring } from "@rubble/core/shot";
import { Plus, X } from "lucide-react";
import { Picker, Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { TextField } from "~/controls/TextField";
import { useWorkbench } from "~/workbench/store/store";

/** Deep water to foam. */
const FIRST: Colouring = {
	by: "noise",
	from: 0.25,
	to: 0.75,
	size: 0.5,
	seed: 7,
	moving: false,
	formula: "height - height0",
	stops: [
		[0, "#1f4e5f"],
		[0.5, "#3fa796"],
		[1, "#f3e3b5"],
	],
};

/** Ranges that suit a source at first. */
const RANGES: Readonly<Partial<Record<Colouring["by"], readonly [number, number]>>> = {
	noise: [0.25, 0.75],
	random: [0, 1],
	height: [0, 2],
	x: [-2, 2],
	z: [-2, 2],
	speed: [0, 4],
	age: [0, 2],
	formula: [0, 1],
};

/** What is active, coloured by a gradient: in the view, and in files. */
export function ColourSection() {
	const { shot, colourBy, perform, set } = useWorkbench();
	const { colouring } = shot;
	const change = (to: Partial<Colouring>) => perform(setColouring({ ...(colouring ?? FIRST), ...to }));
	const source = COLOUR_SOURCES.find(({ id }) => id === colouring?.by);
	const formula = colouring?.by === "formula" ? readColourFormula(colouring.formula) : undefined;
	return (
		<Section title="Colours" aside={colouring ? source?.label : "as their materials"}>
			{!colouring ? (
				<button
					type="button"
					className="button"
					onClick={() => {
						perform(setColouring(FIRST));
						set({ colourBy: "gradient" });
					}}
				>
					Colour by a gradient
				</button>
			) : (
				<>
					<Picker
						label="Goes by"
						value={colouring.by}
						options={COLOUR_SOURCES}
						help={source?.help ?? ""}
						onChange={(by) => {
							const [from, to] = RANGES[by as Colouring["by"]]!;
							change({ by: by as Colouring["by"], from, to });
						}}
					/>
					{colouring.by === "formula" && (
						<>
							<TextField label="Formula" value={colouring.formula} help={source!.help} onChange={(text) => change({ formula: text })} />
							{formula && !formula.ok && <p className="text-rust">{formula.problems[0]!.message}</p>}
						</>
					)}
					{colouring.by === "noise" && (
						<NumberField label="Patches" unit="m" least={0.001} most={1000} value={colouring.size} onChange={(size) => change({ size })} />
					)}
					{(colouring.by === "noise" || colouring.by === "random") && (
						<NumberField label="Seed" whole least={0} most={999_999} value={colouring.seed} onChange={(seed) => change({ seed })} />
					)}
					<NumberField
						label="Begins at"
						unit={source?.unit ?? ""}
						factor={source?.unit === "%" ? 100 : 1}
						least={-1e6}
						most={1e6}
						value={colouring.from}
						onChange={(from) => change({ from })}
					/>
					<NumberField
						label="Ends at"
						unit={source?.unit ?? ""}
						factor={source?.unit === "%" ? 100 : 1}
						least={-1e6}
						most={1e6}
						value={colouring.to}
						onChange={(to) => change({ to })}
					/>
					{["noise", "x", "height", "z"].includes(colouring.by) && (
						<Segments
							label="Place"
							value={colouring.moving ? "now" : "first"}
							options={[
								{ id: "first", label: "At first", help: "Things keep their colour" },
								{ id: "now", label: "At the frame", help: "Colours follow the motion" },
							]}
							onChange={(id) => change({ moving: id === "now" })}
						/>
					)}
					<Gradient stops={colouring.stops} onChange={(stops) => change({ stops })} />
					<div className="grid grid-cols-2 gap-1.5">
						<button
							type="button"
							className="button"
							aria-pressed={colourBy === "gradient"}
							onClick={() => set({ colourBy: colourBy === "gradient" ? "material" : "gradient" })}
						>
							{colourBy === "gradient" ? "Shown" : "Show it"}
						</button>
						<button
							type="button"
							className="button"
							onClick={() => {
								perform(setColouring(null));
								set({ colourBy: "material" });
							}}
						>
							Without
						</button>
					</div>
				</>
			)}
		</Section>
	);
}

function Gradient({ stops, onChange }: { stops: Colouring["stops"]; onChange: (stops: Colouring["stops"]) => void }) {
	const sorted = [...stops].sort((a, b) => a[0] - b[0]);
	const bar = `linear-gradient(90deg, ${sorted.map(([share, colour]) => `${colour} ${share * 100}%`).join(", ")})`;
	const put = (n: number, stop: readonly [number, string] | null) =>
		onChange(stop ? sorted.map((old, k) => (k === n ? stop : old)) : sorted.filter((_, k) => k !== n));
	/** In the widest gap. */
	const add = () => {
		const ends = [0, ...sorted.map(([share]) => share), 1];
		let at = 0;
		for (let k = 1; k + 1 < ends.length; k++) if (ends[k + 1]! - ends[k]! > ends[at + 1]! - ends[at]!) at = k;
		onChange([...sorted, [(ends[at]! + ends[at + 1]!) / 2, sorted[Math.max(0, at - 1)]![1]]]);
	};
	return (
		<>
			<div className="h-4 rounded border border-line" style={{ background: bar }} role="img" aria-label="Gradient" />
			{sorted.map(([share, colour], n) => (
				<div key={`${n}-${sorted.length}`} className="flex items-center gap-1.5">
					<input
						type="color"
						aria-label={`Colour ${n + 1}`}
						className="h-7 w-9 rounded border border-line bg-field p-0.5"
						value={colour}
						onChange={(event) => put(n, [share, event.target.value])}
					/>
					<div className="min-w-0 flex-1">
						<NumberField
							label={`At, ${n + 1}`}
							unit="%"
							factor={100}
							least={0}
							most={1}
							value={share}
							onChange={(to) => put(n, [to, colour])}
						/>
					</div>
					{sorted.length > 1 && (
						<button type="button" className="button px-1.5!" aria-label={`Without colour ${n + 1}`} onClick={() => put(n, null)}>
							<X size={13} />
						</button>
					)}
				</div>
			))}
			<button type="button" className="button self-start" onClick={add}>
				<Plus size={13} /> Another colour
			</button>
		</>
	);
}
