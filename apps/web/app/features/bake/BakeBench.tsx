import type { BakeOptions } from "@rubble/core/bake";
import { degrees, radians } from "@rubble/core/maths";
import { useEffect, useMemo, useState } from "react";
import { Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { frameFacts } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { ClipSection } from "./ClipSection";
import { FileSection } from "./FileSection";
import { KeysBakeSection } from "./KeysBakeSection";

export function BakeBench() {
	const state = useWorkbench();
	const { stored, stale, first } = frameFacts(state);
	const { shotId, take, set } = state;
	// What is handed over is ways.
	// biome-ignore lint/correctness/useExhaustiveDependencies: another shot begins with nothing shown.
	useEffect(() => {
		set({ showPaths: true });
		return () => set({ showPaths: false });
	}, [set, shotId]);
	const [way, setWay] = useState<BakeOptions["way"]>("reduced");
	const [every, setEvery] = useState(1);
	const [position, setPosition] = useState(0.002);
	const [rotation, setRotation] = useState(radians(0.5));
	const [from, setFrom] = useState<number | null>(null);
	const [to, setTo] = useState<number | null>(null);
	const keys = useMemo<BakeOptions>(
		() => (way === "every" ? { way, frames: every } : { way, position, rotation }),
		[way, every, position, rotation],
	);
	const begin = take?.take.snapshot.settings.firstFrame ?? first;
	const range = useMemo(
		() => ({ firstFrame: Math.min(stored, Math.max(begin, from ?? begin)), lastFrame: Math.max(begin, Math.min(stored, to ?? stored)) }),
		[begin, stored, from, to],
	);
	if (stored < begin)
		return <p className="p-3.5 text-slate">There is nothing to bake yet. Run the shot first; its frames then become keys.</p>;
	return (
		<>
			<Section title="Keys" aside={take?.name}>
				<NumberField label="From" whole least={begin} most={range.lastFrame} value={range.firstFrame} onChange={setFrom} />
				<NumberField label="To" whole least={range.firstFrame} most={stored} value={range.lastFrame} onChange={setTo} />
				<Segments
					label="Way"
					value={way}
					options={[
						{ id: "reduced", label: "Fewest", help: "Keys are left out while the motion stays within the tolerance" },
						{ id: "every", label: "Every Nth", help: "A key at every Nth frame" },
					]}
					onChange={(next) => setWay(next as BakeOptions["way"])}
				/>
				{way === "every" ? (
					<NumberField
						label="Every"
						unit={every === 1 ? "frame" : "frames"}
						whole
						least={1}
						most={1000}
						value={every}
						onChange={setEvery}
					/>
				) : (
					<>
						<NumberField label="Places within" unit="mm" factor={1000} least={0.00001} most={10} value={position} onChange={setPosition} />
						<NumberField
							label="Turns within"
							unit="°"
							factor={degrees(1)}
							least={0.00001}
							most={1}
							value={rotation}
							onChange={setRotation}
						/>
					</>
				)}
				{stale <= stored && <p className="text-ochre">The take is out of date from frame {stale}. It will be written as it ran.</p>}
			</Section>
			<FileSection range={range} keys={keys} />
			<KeysBakeSection range={range} options={keys} />
			<ClipSection range={range} />
			<Section title="Whole shot">
				<p className="text-slate">A zip that opens in the yard of another machine: set-up, meshes, pictures, and the frames of takes.</p>
				<div className="grid grid-cols-2 gap-1.5">
					<a className="button" href={`/api/shots/${shotId}/file`}>
						Without takes
					</a>
					<a className="button" href={`/api/shots/${shotId}/file?takes`}>
						With takes
					</a>
				</div>
			</Section>
		</>
	);
}
