import { bodyPose } from "@rubble/core/bodies";
import { COLOUR_SOURCES, coveringPicture, PLACED, readColourFormula } from "@rubble/core/colouring";
import { type AssetRef, type Colouring, type ColouringPicture, setColouring } from "@rubble/core/shot";
import { Plus, X } from "lucide-react";
import { toast } from "sonner";
import { Picker, Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { TextField } from "~/controls/TextField";
import { VectorField } from "~/controls/VectorField";
import { PicturePick } from "~/features/options/PicturePick";
import { useWorkbench } from "~/workbench/store/store";
import { assetUrl } from "~/workers/assetUrl";
import { coreWorker } from "~/workers/client";

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
							const [from, to] = COLOUR_SOURCES.find(({ id }) => id === by)!.range;
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
					{colouring.by === "picture" ? (
						<PictureColours colouring={colouring} onChange={change} />
					) : (
						<GradientColours colouring={colouring} unit={source?.unit ?? ""} onChange={change} />
					)}
					{PLACED.has(colouring.by) && (
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

interface PartProps {
	colouring: Colouring;
	onChange: (to: Partial<Colouring>) => void;
}

function GradientColours({ colouring: { from, to, stops }, unit, onChange }: PartProps & { unit: string }) {
	const limits = { unit, factor: unit === "%" ? 100 : 1, least: -1e6, most: 1e6 };
	return (
		<>
			<NumberField label="Begins at" {...limits} value={from} onChange={(value) => onChange({ from: value })} />
			<NumberField label="Ends at" {...limits} value={to} onChange={(value) => onChange({ to: value })} />
			<Gradient stops={stops} onChange={(changed) => onChange({ stops: changed })} />
		</>
	);
}

const SEEN = [
	{ id: "front", label: "Front", help: "As it is seen from the front" },
	{ id: "side", label: "Side", help: "As it is seen from the right" },
	{ id: "above", label: "Above", help: "As it is seen from above" },
] as const;

/** The picture that things take their colours from, and how it lies over them: at first so that it just covers them. */
function PictureColours({ colouring: { picture }, onChange }: PartProps) {
	const { shot, bodies, pixels } = useWorkbench();
	const cover = async (asset: AssetRef, seen: ColouringPicture["seen"]) => {
		const places = bodies.filter(({ settings }) => settings.kind === "active").map((body) => bodyPose(shot, body, 0).translation);
		const size = pixels?.picture === asset ? pixels.value : await coreWorker().pixelsOf(asset);
		const covering = coveringPicture(seen, size, places);
		onChange({ picture: { middle: [0, 0, 0], width: 1, ...covering, picture: asset, seen } });
	};
	const attempt = (work: Promise<void>) => void work.catch((error: Error) => toast.error(error.message));
	const change = (part: Partial<ColouringPicture>) => picture && onChange({ picture: { ...picture, ...part } });
	return (
		<>
			<PicturePick onPick={(asset) => attempt(cover(asset, picture?.seen ?? "front"))} />
			{picture && (
				<>
					<img
						src={assetUrl(picture.picture)}
						alt="Where colours are taken from"
						className="max-h-28 w-full rounded-md border border-line object-cover"
					/>
					<Segments
						label="Seen from"
						value={picture.seen}
						options={SEEN}
						onChange={(seen) => attempt(cover(picture.picture, seen as ColouringPicture["seen"]))}
					/>
					<VectorField label="Middle" unit="m" value={picture.middle} onChange={(middle) => change({ middle })} />
					<NumberField label="Width" unit="m" least={0.001} most={10_000} value={picture.width} onChange={(width) => change({ width })} />
					<button type="button" className="button self-start" onClick={() => attempt(cover(picture.picture, picture.seen))}>
						Cover all things
					</button>
				</>
			)}
		</>
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
